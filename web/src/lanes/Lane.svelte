<!-- One number over time: its curve, its keys to be dragged, and, while one of them is chosen, their values and slopes too. -->
<script lang="ts">
  import type { Key, Operation, Track } from '../api/client';
  import { shown, tidy } from '../fields/numbers';
  import { chosenKeys } from '../state/chosenKeys.svelte';
  import { curves } from '../state/curves.svelte';
  import { countOf, shifting, sloping, valuing } from '../state/keyEdits';
  import { live } from '../state/live.svelte';
  import { shot } from '../state/shot.svelte';
  import { MARGIN, place, runs } from './drawing';

  type Props = {
    track: Track;
    index: number;
    words: string;
    tall: boolean;
    tried: (patch: Operation[]) => void;
  };
  const { track, index, words, tall, tried }: Props = $props();

  type Side = 'in' | 'out';
  /** Pixels: of a slope's handle, and how far a key is dragged up or down before its value follows. */
  const REACH = 42;
  const DEAD = 3;

  type Held = {
    x: number;
    y: number;
    key: number;
    tracks: Track[];
    way: 'key' | Side;
    /** Of a slope: where its handle was taken, from its key. */
    tip: { x: number; y: number };
    moved: boolean;
    rises: boolean;
    low: number;
    high: number;
  };
  let held = $state.raw<Held | null>(null);
  let patch: Operation[] = [];
  let wide = $state(1);
  let deep = $state(28);

  const frames = $derived(shot.document?.frames ?? { first: 1, last: 1, rate: 24 });
  const span = $derived(Math.max(frames.last - frames.first, 1));
  const frame = $derived(live.frame ?? frames.first);
  const curve = $derived(curves.of(track.id));
  /** Between which values the lane reaches; while a key is in hand it stays as it is. */
  const bounds = $derived.by(() => {
    if (held) return held;
    const values = [...(curve?.values ?? []), ...track.keys.map((each) => each.value)];
    const low = Math.min(...values);
    const high = Math.max(...values);
    return high > low ? { low, high } : { low: low - 1, high: high + 1 };
  });
  const drawn = $derived(runs(curve, bounds.low, bounds.high));
  const chosenOnly = $derived(countOf(chosenKeys.picked) === 1);
  const share = (at: number) => ((at - frames.first) / span) * 100;
  const perFrame = $derived(wide / span);
  const perValue = $derived((deep * (1 - 2 * MARGIN)) / (bounds.high - bounds.low));

  /** The sides of a key on which its curve is led by a slope. */
  function sides(at: number): Side[] {
    const found: Side[] = [];
    if (at > 0 && track.keys[at - 1]?.interpolation === 'smooth') found.push('in');
    if (at < track.keys.length - 1 && track.keys[at]?.interpolation === 'smooth') found.push('out');
    return found;
  }
  function slopeOf(at: number, side: Side): number {
    const key = track.keys[at];
    return (
      (side === 'in' ? key?.slope_in : key?.slope_out) ??
      curve?.slopes[at]?.[side === 'in' ? 'before' : 'after'] ??
      0
    );
  }
  /** Where a slope's handle lies, in pixels from its key. */
  function handle(at: number, side: Side): { x: number; y: number } {
    const [x, y] = [perFrame, slopeOf(at, side) * perValue];
    const by = (side === 'in' ? -REACH : REACH) / (Math.hypot(x, y) || 1);
    return { x: x * by, y: -y * by };
  }
  const apart = (key: Key) => (key.slope_in ?? null) !== (key.slope_out ?? null);

  function grab(event: PointerEvent & { currentTarget: HTMLElement }, at: number, way: Held['way']) {
    const key = track.keys[at];
    if (event.button || !key) return;
    event.stopPropagation();
    if (way === 'key') {
      if (event.shiftKey) chosenKeys.choose([[track.id, key.id]], true);
      else if (!chosenKeys.has(track, key)) chosenKeys.choose([[track.id, key.id]]);
      else chosenKeys.last = { track: track.id, key: key.id };
      live.setFrame(Math.min(Math.max(Math.round(key.frame), frames.first), frames.last));
    }
    event.currentTarget.setPointerCapture(event.pointerId);
    patch = [];
    held = {
      x: event.clientX,
      y: event.clientY,
      key: at,
      tracks: shot.document?.tracks ?? [],
      way,
      tip: way === 'key' ? { x: 0, y: 0 } : handle(at, way),
      moved: false,
      rises: false,
      low: bounds.low,
      high: bounds.high,
    };
  }
  function drag(event: PointerEvent) {
    if (!held) return;
    const [x, y] = [event.clientX - held.x, event.clientY - held.y];
    if (!held.moved && Math.hypot(x, y) < DEAD) return;
    held = { ...held, moved: true, rises: held.rises || (tall && chosenOnly && Math.abs(y) > DEAD) };
    const before = held.tracks[index];
    const key = before?.keys[held.key];
    if (!before || !key) return;
    if (held.way === 'key') {
      // Onto whole frames; Alt frees it.
      const to = key.frame + x / perFrame;
      patch = shifting(
        held.tracks,
        chosenKeys.picked,
        (event.altKey ? tidy(to) : Math.round(to)) - key.frame,
      );
      if (held.rises) patch = valuing(patch, before, index, held.key, tidy(key.value - y / perValue));
    } else {
      const side = held.way === 'in' ? -1 : 1;
      const along = side * Math.max(side * (held.tip.x + x), 2);
      const slope = (-(held.tip.y + y) / along) * (perFrame / perValue);
      patch = sloping(before, index, held.key, held.way, tidy(slope), event.altKey || apart(key));
    }
    tried(patch);
  }
  function drop() {
    if (!held) return;
    const { moved, way } = held;
    held = null;
    if (!moved) return;
    if (patch.length)
      void shot.commit(patch, way === 'key' ? `${words}: keys moved` : `${words}: slope of a key`);
    else shot.drop();
  }
  function leave() {
    if (held?.moved) shot.drop();
    curves.drop();
    held = null;
  }
  function lean(event: KeyboardEvent, at: number, side: Side) {
    const key = track.keys[at];
    if (!key) return;
    const by = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    const step = (bounds.high - bounds.low) / span / 10;
    const to = by ? tidy(slopeOf(at, side) + by * step) : null;
    if (!by && event.key !== 'Delete') return;
    event.preventDefault();
    event.stopPropagation();
    void shot.commit(
      sloping(track, index, at, side, to, event.altKey || apart(key)),
      `${words}: slope of a key`,
    );
  }
</script>

<div class="strip" class:tall bind:clientWidth={wide} bind:clientHeight={deep}>
  <span class="name">{words}</span>
  {#if tall}
    <span class="mono end top">{shown(bounds.high)}</span>
    <span class="mono end">{shown(bounds.low)}</span>
  {/if}
  <svg viewBox="0 0 1000 100" preserveAspectRatio="none" aria-hidden="true">
    {#each drawn as run, at (at)}
      <polyline class:fast={run.fast} points={run.points} />
    {/each}
  </svg>
  {#each track.keys as key, at (key.id)}
    {@const chosen = chosenKeys.has(track, key)}
    <button
      class="plain key"
      class:chosen
      style:left="{share(key.frame)}%"
      data-key="{track.id} {key.id}"
      aria-label="key of {words} at frame {shown(key.frame)}"
      aria-pressed={chosen}
      onpointerdown={(event) => grab(event, at, 'key')}
      onpointermove={drag}
      onpointerup={drop}
      onpointercancel={leave}
      onfocus={() => !held && !chosen && chosenKeys.choose([[track.id, key.id]])}
      ><i style:top="{tall ? place(key.value, bounds.low, bounds.high) * 100 : 0}%"></i></button
    >
    {#if tall && chosen && chosenOnly}
      {#each sides(at) as side (side)}
        {@const tip = handle(at, side)}
        <span
          class="arm"
          style:left="{share(key.frame)}%"
          style:top="{place(key.value, bounds.low, bounds.high) * 100}%"
          style:transform="rotate({Math.atan2(tip.y, tip.x)}rad)"
          style:width="{REACH}px"
        ></span>
        <button
          class="plain tip"
          class:given={(side === 'in' ? key.slope_in : key.slope_out) !== null}
          style:left="calc({share(key.frame)}% + {tip.x}px)"
          style:top="calc({place(key.value, bounds.low, bounds.high) * 100}% + {tip.y}px)"
          aria-label="slope {side === 'in' ? 'into' : 'out of'} frame {shown(key.frame)} of {words}"
          title="slope: {shown(
            slopeOf(at, side) * frames.rate,
          )}/s; Alt parts both sides, a double click gives it back to its neighbours"
          onpointerdown={(event) => grab(event, at, side)}
          onpointermove={drag}
          onpointerup={drop}
          onpointercancel={leave}
          ondblclick={() =>
            void shot.commit(
              sloping(track, index, at, side, null, apart(key)),
              `${words}: slope by its neighbours`,
            )}
          onkeydown={(event) => lean(event, at, side)}><b></b></button
        >
      {/each}
    {/if}
  {/each}
  <span class="head" style:left="{share(frame)}%"></span>
</div>

<style>
  .strip {
    position: relative;
    height: 28px;
    background: var(--well);
  }
  .strip.tall {
    height: 116px;
  }
  .name {
    position: absolute;
    left: 12px;
    top: 1px;
    max-width: 60%;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    color: var(--quiet);
    pointer-events: none;
  }
  .end {
    position: absolute;
    right: 6px;
    bottom: 0;
    color: var(--faint);
    pointer-events: none;
  }
  .end.top {
    bottom: auto;
    top: 0;
  }
  svg {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    pointer-events: none;
  }
  polyline {
    fill: none;
    stroke: var(--bins);
    stroke-width: 1.5;
    vector-effect: non-scaling-stroke;
  }
  /* Too fast to watch. */
  polyline.fast {
    stroke: var(--bad);
    stroke-dasharray: 3 2;
  }
  .key {
    position: absolute;
    top: 0;
    width: 24px;
    height: 100%;
    margin-left: -12px;
    cursor: ew-resize;
    touch-action: none;
  }
  .tall .key {
    cursor: move;
  }
  .key::before {
    content: '';
    position: absolute;
    left: 11px;
    top: 0;
    bottom: 0;
    width: 2px;
    background: var(--amber-faint);
  }
  .key i {
    position: absolute;
    left: 8px;
    width: 8px;
    height: 8px;
    border-radius: 50%;
    background: var(--quiet);
  }
  .tall .key i {
    margin-top: -4px;
  }
  .key.chosen i,
  .key:hover i {
    background: var(--amber);
  }
  .key.chosen::before {
    background: var(--amber-line);
  }
  .arm {
    position: absolute;
    height: 1px;
    transform-origin: 0 50%;
    background: var(--amber-line);
    pointer-events: none;
  }
  .tip {
    position: absolute;
    width: 24px;
    height: 24px;
    margin: -12px 0 0 -12px;
    cursor: crosshair;
    touch-action: none;
  }
  .tip b {
    display: block;
    width: 9px;
    height: 3px;
    margin: 0 auto;
    background: var(--quiet);
  }
  .tip.given b,
  .tip:hover b {
    background: var(--amber);
  }
  .head {
    position: absolute;
    top: 0;
    bottom: 0;
    width: 1px;
    background: var(--amber);
    pointer-events: none;
  }
</style>
