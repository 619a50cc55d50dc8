<!-- Where the bright points of a volume lie: one at random in each cell of a lattice. -->
<script lang="ts">
  import type { Look } from '../api/client';
  import NumberRow from '../fields/NumberRow.svelte';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';

  type Props = { look: Look; index: number };
  let { look, index }: Props = $props();

  const at = (...more: string[]) => pointer('looks', index, 'points', ...more);
  const lit = $derived(look.layers.some((layer) => 'point_emission' in layer.channels));
</script>

<div class="points">
  {#if look.points}
    <NumberRow
      path={at('spacing')}
      value={look.points.spacing}
      label="spacing of bright points"
      text="bright points every"
      unit="m"
      low={0.0001}
      high={100}
    />
    <NumberRow
      path={at('filled')}
      value={look.points.filled}
      label="share of cells with a bright point"
      text="in so many cells"
      low={0}
      high={1}
    />
    {#if !lit}<span class="quiet">dark: no layer sets “bright points”</span>{/if}
    <button
      class="plain"
      onclick={() => void shot.commit([{ op: 'replace', path: at(), value: null }], 'no bright points')}
      >take them away</button
    >
  {:else}
    <button
      class="plain"
      onclick={() => void shot.commit([{ op: 'add', path: at(), value: {} }], 'add bright points')}
      >add bright points</button
    >
  {/if}
</div>

<style>
  .points {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 14px;
    align-items: center;
    min-height: 26px;
  }
  .points :global(.row) {
    gap: 6px;
  }
  .quiet {
    color: var(--quiet);
  }
</style>
