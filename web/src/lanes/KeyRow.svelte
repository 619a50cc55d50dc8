<!-- The key that was touched last: its value, how it goes on, and what lies beyond the ends. -->
<script lang="ts">
  import type { Key, Track } from '../api/client';
  import Choice from '../fields/Choice.svelte';
  import DragNumber from '../fields/DragNumber.svelte';
  import { shown } from '../fields/numbers';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';
  import { BY, byMove } from './byMove';

  type Props = { track: Track; index: number; words: string; key: Key; number: number };
  const { track, index, words, key, number }: Props = $props();

  const INTERPOLATIONS = ['smooth', 'linear', 'eased', 'stepped'].map((value) => ({ value, text: value }));
  const BEYOND = ['hold', 'loop', 'ping-pong', 'go on'].map((value) => ({ value, text: value }));

  const change = (label: string, value: string | number, ...path: (string | number)[]) =>
    void shot.commit([{ op: 'replace', path: pointer('tracks', index, ...path), value }], label);
</script>

<div class="row" role="group" aria-label="key of {words}">
  <span class="quiet">frame {shown(key.frame)}</span>
  <DragNumber
    value={key.value}
    label="value of the key"
    oninput={(value) =>
      shot.preview([{ op: 'replace', path: pointer('tracks', index, 'keys', number, 'value'), value }])}
    onchange={(value) => change(`key of ${words}`, value, 'keys', number, 'value')}
  />
  <Choice
    value={key.interpolation}
    label="from this key to the next"
    options={INTERPOLATIONS}
    onchange={(value) => change(`${value} from here`, value, 'keys', number, 'interpolation')}
  />
  <span class="quiet">before</span>
  <Choice
    value={track.before}
    label="before the first key"
    options={BEYOND}
    onchange={(value) => change(`before the first key: ${value}`, value, 'before')}
  />
  <span class="quiet">after</span>
  <Choice
    value={track.after}
    label="after the last key"
    options={BEYOND}
    onchange={(value) => change(`after the last key: ${value}`, value, 'after')}
  />
  <Choice
    value=""
    label="how {words} moves"
    title="a move in place of its keys"
    options={BY}
    onchange={(name) => byMove(track, index, words, name, key.value)}
  />
</div>

<style>
  .row {
    display: flex;
    gap: 12px;
    align-items: center;
    padding-left: 68px;
    min-height: 26px;
  }
  .quiet {
    color: var(--quiet);
  }
</style>
