<!-- What can be done with all chosen keys at once; their span in time has ends that stretch it. -->
<script lang="ts">
  import type { Operation, Track } from '../api/client';
  import { shown } from '../fields/numbers';
  import { countOf, spanOf, stretching } from '../state/keyEdits';
  import { chosenKeys } from '../state/chosenKeys.svelte';
  import { shot } from '../state/shot.svelte';

  type Props = {
    frame: number;
    tried: (patch: Operation[]) => void;
    shift: (by: number) => void;
    copy: () => void;
    put: () => void;
    remove: () => void;
  };
  const { frame, tried, shift, copy, put, remove }: Props = $props();

  const tracks = $derived(shot.document?.tracks ?? []);
  const frames = $derived(shot.document?.frames ?? { first: 1, last: 1, rate: 24 });
  const wide = $derived(Math.max(frames.last - frames.first, 1));
  const count = $derived(countOf(chosenKeys.picked));
  const span = $derived(spanOf(tracks, chosenKeys.picked));
  const stretches = $derived(count > 1 && span !== null && span.last > span.first);
  const share = (at: number) => ((at - frames.first) / wide) * 100;

  type Held = { x: number; per: number; tracks: Track[]; stays: number; end: number };
  let held: Held | null = null;
  let patch: Operation[] = [];
  let strip: HTMLDivElement | undefined = $state();

  function grab(event: PointerEvent & { currentTarget: HTMLElement }, stays: number, end: number) {
    if (event.button) return;
    event.stopPropagation();
    event.currentTarget.setPointerCapture(event.pointerId);
    patch = [];
    held = { x: event.clientX, per: (strip?.clientWidth ?? 1) / wide, tracks, stays, end };
  }
  function drag(event: PointerEvent) {
    if (!held) return;
    const to = held.end + (event.clientX - held.x) / held.per;
    const found = by(held.tracks, held.stays, held.end, event.altKey ? to : Math.round(to), event.altKey);
    if (!found.length) return;
    patch = found;
    tried(patch);
  }
  function drop() {
    if (held && patch.length) void shot.commit(patch, `${count} keys stretched in time`);
    held = null;
  }
  const by = (all: Track[], stays: number, end: number, to: number, free: boolean) =>
    stretching(all, chosenKeys.picked, stays, (to - stays) / (end - stays), !free);

  function step(event: KeyboardEvent, stays: number, end: number) {
    const to = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!to) return;
    event.preventDefault();
    event.stopPropagation();
    const found = by(tracks, stays, end, end + to, event.altKey);
    if (found.length) void shot.commit(found, `${count} keys stretched in time`);
  }
</script>

{#if stretches && span}
  <div class="lane">
    <div class="span" bind:this={strip}>
      <i style:left="{share(span.first)}%" style:width="{share(span.last) - share(span.first)}%"></i>
      {#each [{ stays: span.last, end: span.first, words: 'start' }, { stays: span.first, end: span.last, words: 'end' }] as each (each.words)}
        <button
          class="plain"
          style:left="{share(each.end)}%"
          aria-label="stretch the chosen keys by their {each.words}"
          title="stretch in time"
          onpointerdown={(event) => grab(event, each.stays, each.end)}
          onpointermove={drag}
          onpointerup={drop}
          onpointercancel={drop}
          onkeydown={(event) => step(event, each.stays, each.end)}><b></b></button
        >
      {/each}
    </div>
  </div>
{/if}
<div class="row" role="group" aria-label="chosen keys">
  {#if count > 1 && span}
    <span class="quiet">{count} keys, frames {shown(span.first)} … {shown(span.last)}</span>
  {/if}
  {#if count > 0}
    <button class="plain act" onclick={() => shift(-1)}>a frame earlier</button>
    <button class="plain act" onclick={() => shift(1)}>a frame later</button>
    <button class="plain act" title="Ctrl C" onclick={copy}>copy</button>
  {/if}
  {#if chosenKeys.copied.length > 0}
    <button class="plain act" title="Ctrl V" onclick={put}>put in from frame {frame}</button>
  {/if}
  {#if count > 0}
    <button class="plain act" title="Delete" onclick={remove}>take away</button>
  {/if}
</div>

<style>
  .lane {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 70px 90px;
    gap: 6px;
    margin-left: 68px;
  }
  .span {
    position: relative;
    height: 24px;
  }
  .span i {
    position: absolute;
    top: 11px;
    height: 2px;
    background: var(--amber-line);
  }
  .span button {
    position: absolute;
    top: 0;
    width: 24px;
    height: 24px;
    margin-left: -12px;
    cursor: ew-resize;
    touch-action: none;
  }
  .span b {
    display: block;
    width: 3px;
    height: 14px;
    margin: 0 auto;
    background: var(--quiet);
  }
  .span button:hover b,
  .span button:focus-visible b {
    background: var(--amber);
  }
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
  .quiet {
    color: var(--quiet);
  }
</style>
