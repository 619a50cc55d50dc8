<!-- What the tones of a signal shown alone stand for, and in which style they are shown. -->
<script lang="ts">
  import { bench } from '../state/bench.svelte';
  import { STYLES } from '../api/live';
  import { live } from '../state/live.svelte';
  import { shown } from '../fields/numbers';
  import { shot } from '../state/shot.svelte';

  const range = $derived(live.head?.range ?? null);
  let share = $state(live.cut ?? 0.5);
  const volume = $derived(shot.look(bench.look)?.look.domain === 'volume');
</script>

{#if live.show.kind !== 'picture'}
  <div class="scale" role="group" aria-label="scale">
    {#if range && live.head?.scale}
      <span class="mono">{shown(range.low)}</span>
      <img src={live.head.scale} alt="tones from the lowest to the highest value" />
      <span class="mono">{shown(range.high)}</span>
      {#if bench.style === 'lines'}<span class="quiet"
          >one line per <b class="mono">{shown(range.step)}</b></span
        >{/if}
    {/if}
    {#if volume}
      <label class="cut">
        <span class="quiet">cut</span>
        <input
          type="range"
          aria-label="cut, near to far"
          min="0"
          max="1"
          step="0.01"
          value={live.cut ?? share}
          oninput={(event) => live.setCut((share = Number(event.currentTarget.value)))}
        />
      </label>
      <button
        class="plain seen"
        aria-pressed={live.cut === null}
        title="as deep as the camera sees: half of what it sees of the volumes lies before, half behind"
        onclick={() => live.setCut(live.cut === null ? share : null)}>as seen</button
      >
    {/if}
    <span class="styles">
      {#each STYLES as style (style)}
        <button
          class="plain"
          aria-pressed={bench.style === style}
          title={style === 'grey' ? 'grey; negative values in cool blue' : style}
          onclick={() => bench.setStyle(style)}>{style === 'lines' ? 'iso-lines' : style}</button
        >
      {/each}
      <kbd title="next style">S</kbd>
    </span>
  </div>
{/if}

<style>
  .scale {
    position: absolute;
    left: 10px;
    bottom: 10px;
    display: flex;
    gap: 8px;
    align-items: center;
    background: var(--veil);
    padding: 3px 8px;
  }
  img {
    width: 120px;
    height: 10px;
  }
  .cut {
    display: flex;
    gap: 6px;
    align-items: center;
  }
  .seen {
    color: var(--quiet);
  }
  .seen[aria-pressed='true'] {
    color: var(--amber);
  }
  .cut input {
    width: 110px;
    accent-color: var(--amber);
  }
  .quiet {
    color: var(--quiet);
  }
  .styles {
    display: flex;
    gap: 8px;
    color: var(--quiet);
    margin-left: 4px;
  }
  .styles [aria-pressed='true'] {
    color: var(--amber);
  }
  kbd {
    font: inherit;
    font-family: var(--mono);
    border: 1px solid var(--line);
    padding: 0 4px;
    color: var(--text);
  }
</style>
