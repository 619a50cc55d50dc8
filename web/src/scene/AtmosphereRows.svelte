<!-- What fills the air of the whole shot under a height: a look of the volume domain. -->
<script lang="ts">
  import Choice from '../fields/Choice.svelte';
  import NumberRow from '../fields/NumberRow.svelte';
  import VolumeFile from './VolumeFile.svelte';
  import { newVolume } from '../state/lookEdits';
  import { shot } from '../state/shot.svelte';

  const air = $derived(shot.document?.atmosphere ?? null);
  const volumes = $derived(
    (shot.document?.looks ?? []).filter((look) => look.domain === 'volume').map((look) => look.name),
  );

  function fill(look: string) {
    if (!shot.document) return;
    if (look === '') {
      void shot.commit([{ op: 'replace', path: '/atmosphere', value: null }], 'clear air');
    } else if (look === 'new mist') {
      const made = newVolume(shot.document);
      const value = { look: made.name };
      void shot.commit([...made.patch, { op: 'add', path: '/atmosphere', value }], 'fill the air with mist');
    } else if (air) {
      void shot.commit([{ op: 'replace', path: '/atmosphere/look', value: look }], `the air is ${look}`);
    } else {
      void shot.commit([{ op: 'add', path: '/atmosphere', value: { look } }], `the air is ${look}`);
    }
  }
</script>

{#if shot.document}
  <div class="row">
    <span>atmosphere</span>
    <Choice
      value={air?.look ?? ''}
      label="what fills the air"
      options={[
        { value: '', text: 'clear air' },
        ...volumes.map((each) => ({ value: each, text: each })),
        { value: 'new mist', text: 'a new volume' },
      ]}
      onchange={fill}
    />
    {#if air}
      <button
        class="plain"
        role="switch"
        aria-checked={air.on}
        aria-label="atmosphere on"
        onclick={() =>
          void shot.commit([{ op: 'replace', path: '/atmosphere/on', value: !air.on }], 'atmosphere')}
        >{air.on ? 'on' : 'off'}</button
      >
    {/if}
  </div>
  {#if air}
    <NumberRow
      path="/atmosphere/ceiling"
      value={air.ceiling}
      label="ceiling of the atmosphere"
      text="up to"
      unit="m"
      low={-1000}
      high={10000}
    />
    <NumberRow
      path="/atmosphere/floor"
      value={air.floor}
      label="floor of the atmosphere"
      text="from"
      unit="m"
      low={-1000}
      high={10000}
    />
    <NumberRow
      path="/atmosphere/reach"
      value={air.reach}
      label="reach of the atmosphere"
      text="to all sides"
      unit="m"
      low={0.01}
      high={100000}
    />
    <VolumeFile name="air" />
  {/if}
{/if}
