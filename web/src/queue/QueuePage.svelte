<!-- The queue: orders for frames, the newest first, and the workers that make them. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import Overlay from '../bar/Overlay.svelte';
  import { renders } from '../state/renders.svelte';
  import OrderCard from './OrderCard.svelte';

  type Props = { onclose: () => void };
  let { onclose }: Props = $props();

  const workers = $derived(renders.farm?.workers ?? []);
  const busy = $derived(renders.list.reduce((sum, each) => sum + (each.counts.running ?? 0), 0));

  onMount(() => renders.watch());
</script>

<Overlay label="queue of frames" {onclose}>
  {#snippet head()}
    <h2>queue of frames</h2>
    {#if renders.farm?.refused.length}
      <span class="refused"
        >{renders.farm.refused.length === 1 ? '1 worker runs' : `${renders.farm.refused.length} workers run`} another
        state of the code and {renders.farm.refused.length === 1 ? 'is' : 'are'} sent nothing: {renders.farm.refused
          .slice(0, 4)
          .join(', ')}</span
      >
    {/if}
    <span class="quiet" role="status">
      {#if renders.farm?.trouble}{renders.farm.trouble}
      {:else if workers.length}{workers.length === 1 ? '1 worker' : `${workers.length} workers`}{renders.farm
          ?.address
          ? ` of ${renders.farm.address}`
          : ' of this machine'}, {busy ? `${Math.min(busy, workers.length)} rendering` : 'none rendering'}
      {:else if renders.farm?.address}looking for workers of {renders.farm.address} …
      {:else}workers begin with the first frame{/if}
    </span>
  {/snippet}
  <ul>
    {#each renders.list as render (render.id)}
      <OrderCard {render} />
    {:else}
      <li class="quiet">
        {renders.known
          ? 'Nothing was ordered yet. “render” in the bar saves this frame, some frames or a whole shot.'
          : 'looking …'}
      </li>
    {/each}
    {#if renders.more}
      <li><button class="plain act" onclick={() => renders.showMore()}>show older orders</button></li>
    {/if}
  </ul>
</Overlay>

<style>
  h2 {
    margin: 0;
    font-size: 14px;
    font-weight: 600;
  }
  .quiet {
    color: var(--quiet);
  }
  .refused {
    color: var(--bad);
  }
  .act {
    color: var(--amber);
    min-height: 32px;
  }
  ul {
    flex: 1;
    min-height: 0;
    overflow: auto;
    margin: 0;
    padding: 0 16px 16px;
    list-style: none;
  }
</style>
