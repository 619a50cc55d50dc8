<!-- How this window looks at the picture: the view, and exposure and gamma for looking only. -->
<script lang="ts">
  import { AS_IT_IS } from '../api/live';
  import { live } from '../state/live.svelte';
  import { shot } from '../state/shot.svelte';
  import Choice from '../fields/Choice.svelte';
  import DragNumber from '../fields/DragNumber.svelte';

  const viewing = $derived(live.viewing);
  const view = $derived(viewing.view || (shot.vocabulary.views[0] ?? ''));
  const plain = $derived(view === shot.vocabulary.views[0] && viewing.exposure === 0 && viewing.gamma === 1);
</script>

{#if live.show.kind === 'picture'}
  <div class="view" role="group" aria-label="view">
    <Choice
      value={view}
      label="display view"
      options={shot.vocabulary.views.map((name) => ({ value: name, text: name }))}
      onchange={(next) => live.setViewing({ ...viewing, view: next })}
    />
    <DragNumber
      value={viewing.exposure}
      label="exposure for looking"
      unit="stops"
      low={-20}
      high={20}
      oninput={(exposure) => live.setViewing({ ...viewing, exposure })}
      onchange={(exposure) => live.setViewing({ ...viewing, exposure })}
    />
    <DragNumber
      value={viewing.gamma}
      label="gamma for looking"
      unit="γ"
      low={0.1}
      high={10}
      oninput={(gamma) => live.setViewing({ ...viewing, gamma })}
      onchange={(gamma) => live.setViewing({ ...viewing, gamma })}
    />
    {#if !plain}
      <button
        class="plain"
        onclick={() => live.setViewing({ ...AS_IT_IS, region: viewing.region, paused: viewing.paused })}
        >as it is</button
      >
    {/if}
  </div>
{/if}

<style>
  .view {
    display: flex;
    gap: 10px;
    align-items: baseline;
    background: var(--veil);
    padding: 2px 8px;
    opacity: 0.75;
  }
  .view:hover,
  .view:focus-within {
    opacity: 1;
  }
  button {
    color: var(--amber);
  }
</style>
