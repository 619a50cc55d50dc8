<!-- How particles are seen: each as a ball, or all of them within one skin. -->
<script lang="ts">
  import type { Json, Shot } from '../api/client';
  import Choice from '../fields/Choice.svelte';
  import NumberRow from '../fields/NumberRow.svelte';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';

  type Props = { item: Shot['objects'][number]; index: number };
  let { item, index }: Props = $props();
  const seen = $derived(item.particles);
  const at = (...more: string[]) => pointer('objects', index, 'particles', ...more);
  const put = (path: string, value: Json) =>
    void shot.commit([{ op: 'add', path, value }], `how the particles of ${item.name} are seen`);
</script>

{#if seen}
  <div class="row">
    <span>particles are seen as</span>
    <Choice
      value={seen.skin ? 'skin' : 'balls'}
      label="how particles of {item.name} are seen"
      options={[
        { value: 'balls', text: 'balls' },
        { value: 'skin', text: 'one skin' },
      ]}
      onchange={(value) => put(at('skin'), value === 'skin' ? {} : null)}
    />
  </div>
  <NumberRow
    path={at('radius')}
    value={seen.radius}
    label="radius of particles of {item.name}"
    text="radius, where they carry none"
    unit="m"
    low={0.0001}
    high={10}
  />
  <NumberRow
    path={at('times')}
    value={seen.times}
    label="what the radius of particles of {item.name} is multiplied by"
    text="else times their own"
    unit="×"
    low={0.01}
    high={100}
  />
  {#if seen.skin}
    <NumberRow
      path={at('skin', 'smooth')}
      value={seen.skin.smooth}
      label="how far particles of {item.name} flow into one another"
      text="flow into one another over"
      unit="m"
      low={0}
      high={10}
    />
    <div class="row">
      <span>cells</span>
      <button
        class="plain act"
        onclick={() =>
          put(
            at('skin', 'cell'),
            seen?.skin?.cell ? null : Number((seen?.radius ?? 0.03).toPrecision(2)) / 3,
          )}>{seen.skin.cell ? 'of a length of their own' : 'a third of a middling radius'}</button
      >
    </div>
    {#if seen.skin.cell}
      <NumberRow
        path={at('skin', 'cell')}
        value={seen.skin.cell}
        label="length of the cells of the skin of {item.name}"
        text="of"
        unit="m"
        low={0.0005}
        high={10}
      />
    {/if}
  {/if}
{/if}

<style>
  .act {
    color: var(--amber);
  }
</style>
