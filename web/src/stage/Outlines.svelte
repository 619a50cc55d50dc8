<!-- The falloff shapes of the recipe that lies open, over the picture: themselves, and where they have faded. -->
<script lang="ts">
  import { live } from '../state/live.svelte';

  type Props = { width: number; height: number };
  let { width, height }: Props = $props();
  const shapes = $derived(live.head?.outlines ?? []);
  const path = (lines: [number, number][][]) =>
    lines
      .map(
        (line) =>
          'M' + line.map(([x, y]) => `${(x * width).toFixed(1)} ${(y * height).toFixed(1)}`).join('L'),
      )
      .join('');
</script>

{#if shapes.length}
  <svg class="overlay" viewBox="0 0 {width} {height}" role="img" aria-label="falloff shapes">
    {#each shapes as shape, number (number)}
      <path d={path(shape.faded)} class="faded" />
      <path d={path(shape.lines)} class="edge" data-outline={shape.shape} />
    {/each}
  </svg>
{/if}

<style>
  .overlay {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    pointer-events: none;
  }
  path {
    fill: none;
    stroke: var(--amber);
    stroke-width: 1.2;
  }
  .faded {
    stroke-dasharray: 1 4;
    opacity: 0.8;
  }
</style>
