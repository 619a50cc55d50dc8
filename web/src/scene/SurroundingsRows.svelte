<!-- What surrounds the shot: a sky of the sun's height, a picture or an even colour; and what the camera sees behind everything. -->
<script lang="ts">
  import type { Json, Operation } from '../api/client';
  import { shot } from '../state/shot.svelte';
  import Choice from '../fields/Choice.svelte';
  import ColourField from '../fields/ColourField.svelte';
  import GroupChoice from './GroupChoice.svelte';
  import SurroundingsTurn from './SurroundingsTurn.svelte';
  import FileField from '../fields/FileField.svelte';
  import NumberRow from '../fields/NumberRow.svelte';

  const document = $derived(shot.document);
  const around = $derived(document?.environment);
  const kind = $derived(around?.sky ? 'sky' : around?.image ? 'picture' : 'even colour');
  const behind = $derived(
    document?.backdrop ? (document.backdrop.image ? 'picture' : 'colour') : 'surroundings',
  );
  const commit = (patch: Operation[], label: string) => void shot.commit(patch, label);
  const first = $derived(shot.pictures[0]);
  const firstPicture = $derived<Json>(first ? { file: first.file, sha256: first.sha256 } : null);

  type Numbers = [name: string, label: string, value: number, unit: string, low: number, high: number][];
  const ofSky = $derived<Numbers>(
    around?.sky
      ? [
          ['sky/sun_height', 'height of the sun', around.sky.sun_height, '°', -90, 90],
          ['sky/sun_direction', 'direction of the sun', around.sky.sun_direction, '°', -360, 360],
          ['sky/haze', 'haze', around.sky.haze, '', 2, 10],
          ['sky/stars', 'stars', around.sky.stars, '×', 0, 10],
        ]
      : [],
  );
  const numbers = $derived<Numbers>([
    ...ofSky,
    ['intensity', 'sky intensity', around?.intensity ?? 1, '×', 0, 20],
    ['rotation', 'sky rotation', around?.rotation ?? 0, '°', -360, 360],
  ]);

  function surround(next: string) {
    commit(
      [
        { op: 'add', path: '/environment/sky', value: next === 'sky' ? {} : null },
        {
          op: 'add',
          path: '/environment/image',
          value: next === 'picture' ? ((around?.image as Json) ?? firstPicture) : null,
        },
      ],
      `surroundings: ${next}`,
    );
  }
  function back(next: string) {
    const value: Json =
      next === 'surroundings'
        ? null
        : next === 'picture'
          ? { image: firstPicture, colour: [1, 1, 1] }
          : { colour: [0.05, 0.05, 0.06] };
    commit([{ op: 'add', path: '/backdrop', value }], `background: ${next}`);
  }
</script>

{#if document && around}
  <div class="row">
    <span>surroundings</span>
    <Choice
      value={kind}
      label="kind of surroundings"
      options={['sky', 'even colour', ...(first || around.image ? ['picture'] : [])].map((each) => ({
        value: each,
        text: each,
      }))}
      onchange={surround}
    />
    <button
      class="plain"
      role="switch"
      aria-checked={around.visible}
      aria-label="sky seen by the camera"
      onclick={() =>
        commit([{ op: 'replace', path: '/environment/visible', value: !around.visible }], 'sky seen')}
      >{around.visible ? 'seen' : 'not seen'}</button
    >
  </div>
  {#if kind === 'picture'}
    <div class="row">
      <span>picture</span>
      <FileField
        kind="image"
        value={around.image as Json}
        label="surrounding picture"
        onchange={(value) =>
          commit([{ op: 'replace', path: '/environment/image', value }], 'surrounding picture')}
      />
    </div>
  {/if}
  {#each numbers as [name, label, value, unit, low, high] (name)}
    <NumberRow path={`/environment/${name}`} {value} {label} {unit} {low} {high} />
  {/each}
  {#if kind !== 'even colour'}<SurroundingsTurn />{/if}
  <GroupChoice path="/environment/group" value={around.group} label="light group of the surroundings" />
  <div class="row">
    <span>background</span>
    <Choice
      value={behind}
      label="kind of background"
      options={['surroundings', 'colour', ...(first ? ['picture'] : [])].map((each) => ({
        value: each,
        text: each,
      }))}
      onchange={back}
    />
  </div>
  {#if document.backdrop}
    <div class="row">
      {#if document.backdrop.image}
        <FileField
          kind="image"
          value={document.backdrop.image as Json}
          label="picture of the background"
          onchange={(value) => commit([{ op: 'add', path: '/backdrop/image', value }], 'backdrop')}
        />
      {/if}
      <span></span>
      <ColourField
        value={[...document.backdrop.colour]}
        label="colour of the background"
        oninput={(value) => shot.preview([{ op: 'replace', path: '/backdrop/colour', value }])}
        onchange={(value) => commit([{ op: 'replace', path: '/backdrop/colour', value }], 'backdrop')}
      />
    </div>
  {/if}
{/if}

<style>
  button {
    color: var(--amber);
  }
</style>
