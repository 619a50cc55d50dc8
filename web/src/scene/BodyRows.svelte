<!-- The measures of a body that needs no file. -->
<script lang="ts">
  import type { Shot } from '../api/client';
  import NumberRow from '../fields/NumberRow.svelte';
  import { pointer } from '../state/pointer';
  import { MEASURES } from '../state/setEdits';
  import TubeRows from './TubeRows.svelte';

  type Props = { item: Shot['objects'][number]; index: number };
  let { item, index }: Props = $props();
  const body = $derived('shape' in item.geometry ? item.geometry : null);
</script>

{#if body}
  {#each MEASURES[body.shape] as [name, label, unit, low, high] (name)}
    <NumberRow
      path={pointer('objects', index, 'geometry', name)}
      value={Number((body as unknown as Record<string, number>)[name])}
      label="{label} of {item.name}"
      text={label}
      {unit}
      {low}
      {high}
      whole={['segments', 'spans', 'seed', 'count'].includes(name)}
    />
  {/each}
  {#if body.shape === 'tube'}<TubeRows {item} {body} {index} />{/if}
{/if}
