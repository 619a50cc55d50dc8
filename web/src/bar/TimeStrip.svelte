<!-- Time: which frame is shown, dragged along the strip, stepped with the arrow keys, or played. -->
<script lang="ts">
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
  let strip: HTMLDivElement | undefined = $state();

  // The next frame is asked for when a picture has come, at the shot's own pace where the renderer keeps up.
  $effect(() => {
    if (!playing) return;
    const begun = performance.now();
    const from = live.frame ?? frames.first;
    const count = frames.last - frames.first + 1;
    const timer = setInterval(() => {
      if (live.head && live.head.serial < live.lastSerial) return;
      const gone = Math.floor(((performance.now() - begun) / 1000) * frames.rate);
      live.setFrame(frames.first + ((from - frames.first + gone) % count));
    }, 1000 / frames.rate);
    return () => clearInterval(timer);
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
    <span class="head" style:left="{share * 100}%"></span>
  </div>
  <span class="mono quiet">{frames.last} · {frames.rate} fps</span>
</div>

<style>
  .time {
    display: flex;
    gap: 12px;
    align-items: center;
    padding: 0 14px;
    border-top: 1px solid var(--line);
    min-height: 0;
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
  .quiet {
    color: var(--quiet);
  }
</style>
