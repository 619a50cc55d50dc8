<!-- What a formula in place of keys says, and the moves that one click writes. -->
<script lang="ts">
  import type { Track } from '../api/client';
  import Choice from '../fields/Choice.svelte';
  import { keyed, stilling, writing } from '../state/moves';
  import { shot } from '../state/shot.svelte';
  import { byMove, BY } from './byMove';

  type Props = { track: Track; index: number; words: string; frame: number; value: number };
  const { track, index, words, frame, value }: Props = $props();

  function write(formula: string) {
    const to = formula.trim();
    if (to && to !== track.formula) void shot.commit(writing(track, index, to), `${words} by a formula`);
  }
</script>

<div class="row" role="group" aria-label="formula of {words}">
  <Choice
    value=""
    label="how {words} moves"
    options={BY}
    onchange={(name) => byMove(track, index, words, name, value)}
  />
  <input
    class="formula mono"
    value={track.formula}
    maxlength="1000"
    aria-label="formula of {words}"
    title="of frame, time in seconds, share 0…1 of the shot, rate; sin, wave, wander, mix, smoothstep …"
    onkeydown={(event) => {
      event.stopPropagation();
      if (event.key === 'Enter') event.currentTarget.blur();
    }}
    onblur={(event) => write(event.currentTarget.value)}
  />
  <button
    class="plain act"
    onclick={() => void shot.commit(keyed(track, index, frame, value), `${words}: by keys`)}>by keys</button
  >
  <button class="plain act" onclick={() => void shot.commit(stilling(track, index, value), `${words} stays`)}
    >take away</button
  >
</div>

<style>
  .row {
    display: flex;
    gap: 12px;
    align-items: center;
    padding-left: 68px;
    min-height: 26px;
  }
  .act {
    color: var(--amber);
  }
  .formula {
    flex: 1;
    max-width: 46em;
    padding: 2px 6px;
    border: 1px solid var(--line);
    background: none;
    color: inherit;
    font: inherit;
  }
</style>
