<!-- Time: which frame is shown, dragged along the strip, stepped with the arrow keys, or played. -->
<script lang="ts">
  import { untrack } from 'svelte';
  import FramesBeside from '../lanes/FramesBeside.svelte';
  import KeyLanes from '../lanes/KeyLanes.svelte';
  import { curves } from '../state/curves.svelte';
  import { live } from '../state/live.svelte';
  import { shot } from '../state/shot.svelte';

  const frames = $derived(shot.document?.frames ?? { first: 1, last: 1, rate: 24 });
  const frame = $derived(live.frame ?? frames.first);
  const share = $derived((frame - frames.first) / Math.max(frames.last - frames.first, 1));
  /** About ten marks, at round frames. */
  const marks = $derived.by(() => {
    const span = Math.max(frames.last - frames.first, 1);
    const step =
      [1, 2, 4, 5, 8, 10, 12, 24, 48, 100, 240, 500, 1000].find((each) => span / each <= 12) ?? span;
    return Array.from({ length: Math.floor(span / step) + 1 }, (_, index) => frames.first + index * step);
  });
  let playing = $state(false);
  let held = $state(false);
  let open = $state<'lanes' | 'beside' | ''>('');
  const tracks = $derived(shot.document?.tracks ?? []);
  const marked = $derived(
    [...new Set(tracks.flatMap((track) => track.keys.map((key) => key.frame)))].filter(
      (each) => each >= frames.first && each <= frames.last,
    ),
  );
  $effect(() => {
    if (tracks.length) void curves.load(shot.id, shot.revision);
  });
  let strip: HTMLDivElement | undefined = $state();

  // Frames that were seen play at the shot's own pace; one that was not is waited for, so that the next time round none is missing.
  $effect(() => {
    if (!playing) return;
    const { first, last, rate } = frames;
    const timer = setInterval(() => {
      const now = untrack(() => frame);
      const next = now >= last ? first : now + 1;
      if (live.replay(next)) return;
      if (live.owed) return;
      live.setFrame(next);
    }, 1000 / rate);
    return () => {
      clearInterval(timer);
      live.stopReplaying();
    };
  });

  function go(to: number) {
    live.setFrame(Math.min(Math.max(Math.round(to), frames.first), frames.last));
  }
  function follow(event: PointerEvent) {
    const box = strip?.getBoundingClientRect();
    if (box) go(frames.first + ((event.clientX - box.left) / box.width) * (frames.last - frames.first));
  }
</script>

<div class="time" role="group" aria-label="time">
  <button
    class="plain play"
    aria-label={playing ? 'stop' : 'play'}
    aria-pressed={playing}
    onclick={() => (playing = !playing)}>{playing ? '❚❚' : '▶'}</button
  >
  <span class="mono frame">{frame}</span>
  <div
    class="strip"
    bind:this={strip}
    role="slider"
    tabindex="0"
    aria-label="frame"
    aria-valuemin={frames.first}
    aria-valuemax={frames.last}
    aria-valuenow={frame}
    onpointerdown={(event) => {
      event.currentTarget.setPointerCapture(event.pointerId);
      held = true;
      playing = false;
      follow(event);
    }}
    onpointermove={(event) => held && follow(event)}
    onpointerup={() => (held = false)}
    onkeydown={(event) => {
      const by = { ArrowLeft: -1, ArrowRight: 1, PageUp: -10, PageDown: 10 }[event.key];
      if (event.key === 'Home') go(frames.first);
      else if (event.key === 'End') go(frames.last);
      else if (by) go(frame + by);
      else return;
      event.preventDefault();
    }}
  >
    {#each marks as mark (mark)}
      <i class="mono" style:left="{((mark - frames.first) / Math.max(frames.last - frames.first, 1)) * 100}%"
        >{mark}</i
      >
    {/each}
    {#each marked as mark (mark)}
      <b style:left="{((mark - frames.first) / Math.max(frames.last - frames.first, 1)) * 100}%"></b>
    {/each}
    {#each live.cached.frames as each (each)}
      <span
        class="kept"
        style:left="{((each - frames.first) / Math.max(frames.last - frames.first, 1)) * 100}%"
        style:width="{100 / Math.max(frames.last - frames.first, 1)}%"
      ></span>
    {/each}
    <span class="head" style:left="{share * 100}%"></span>
  </div>
  <span class="end">
    <button
      class="plain lanes"
      aria-pressed={open === 'lanes'}
      onclick={() => (open = open === 'lanes' ? '' : 'lanes')}>lanes {tracks.length}</button
    >
    <button
      class="plain lanes"
      aria-label="×3: three frames side by side"
      title="three frames side by side"
      aria-pressed={open === 'beside'}
      onclick={() => (open = open === 'beside' ? '' : 'beside')}>×3</button
    >
    <span class="mono quiet">{frames.last} · {frames.rate} fps</span>
  </span>
  {#if open === 'lanes'}<KeyLanes />{:else if open === 'beside'}<FramesBeside {playing} />{/if}
</div>

<style>
  .time {
    position: relative;
    display: flex;
    gap: 12px;
    align-items: center;
    padding: 0 14px;
    border-top: 1px solid var(--line);
    min-height: 0;
  }
  .lanes {
    color: var(--quiet);
    white-space: nowrap;
  }
  .lanes[aria-pressed='true'],
  .lanes:hover {
    color: var(--amber);
  }
  b {
    position: absolute;
    bottom: -4px;
    width: 6px;
    height: 6px;
    margin-left: -3px;
    border-radius: 50%;
    background: var(--amber);
    pointer-events: none;
  }
  /* Frames that play in real time. */
  .kept {
    position: absolute;
    top: 0;
    height: 2px;
    transform: translateX(-50%);
    background: var(--bins);
    pointer-events: none;
  }
  .play {
    width: 16px;
    color: var(--quiet);
    font-size: 12px;
  }
  .play:hover,
  .play[aria-pressed='true'] {
    color: var(--amber);
  }
  .frame {
    color: var(--amber);
    width: 28px;
    text-align: right;
  }
  .strip {
    position: relative;
    flex: 1;
    height: 22px;
    cursor: ew-resize;
    touch-action: none;
    border-bottom: 1px solid var(--line);
  }
  i {
    position: absolute;
    top: 8px;
    height: 13px;
    padding-left: 3px;
    border-left: 1px solid var(--line);
    color: var(--faint);
    font-style: normal;
    font-size: 12px;
    line-height: 12px;
    pointer-events: none;
  }
  .head {
    position: absolute;
    top: 2px;
    bottom: -1px;
    width: 2px;
    margin-left: -1px;
    background: var(--amber);
    pointer-events: none;
  }
  .end {
    display: flex;
    gap: 12px;
    justify-content: space-between;
    width: 160px;
    flex: none;
  }
  .quiet {
    color: var(--quiet);
  }
</style>
