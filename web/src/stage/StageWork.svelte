<!-- How the stage works on its picture: at rest or not, and on which part of it. -->
<script lang="ts">
  import { live } from '../state/live.svelte';

  type Props = { drawing: boolean; ondraw: (drawing: boolean) => void };
  let { drawing, ondraw }: Props = $props();

  const viewing = $derived(live.viewing);
</script>

{#if live.show.kind === 'picture'}
  <div class="work" role="group" aria-label="work on the picture">
    <button
      class="plain"
      aria-pressed={viewing.paused}
      onclick={() => live.setViewing({ ...viewing, paused: !viewing.paused })}
      >{viewing.paused ? 'go on' : 'pause'}</button
    >
    {#if viewing.region}
      <button class="plain" onclick={() => live.setViewing({ ...viewing, region: null })}
        >whole picture</button
      >
    {:else}
      <button class="plain" aria-pressed={drawing} onclick={() => ondraw(!drawing)}
        >{drawing ? 'draw a rectangle…' : 'only a part'}</button
      >
    {/if}
  </div>
{/if}

<style>
  .work {
    display: flex;
    gap: 12px;
    background: var(--veil);
    padding: 2px 8px;
    opacity: 0.75;
  }
  .work:hover,
  .work:focus-within {
    opacity: 1;
  }
  button {
    color: var(--amber);
  }
</style>
