<!-- A snapshot over the picture: wiped across or down, in turn with it, or their difference. -->
<script lang="ts">
  import type { Compared } from '../state/compared';
  import Choice from '../fields/Choice.svelte';
  import DragNumber from '../fields/DragNumber.svelte';

  type Props = {
    compared: Compared;
    frame: HTMLElement | undefined;
    onstop: () => void;
    /** Both stand beside each other, the picture on the right at half its size. */
    onbeside: (beside: boolean) => void;
  };
  let { compared, frame, onstop, onbeside }: Props = $props();

  const MODES = ['wipe across', 'wipe down', 'beside', 'flicker', 'difference'] as const;
  let mode = $state<(typeof MODES)[number]>('wipe across');
  let wipe = $state(0.5);
  let wiping = $state(false);
  let gain = $state(4);
  let shown = $state(true);
  const down = $derived(mode === 'wipe down');
  const wipes = $derived(mode === 'wipe across' || down);
  const clip = $derived(
    !wipes ? 'none' : down ? `inset(0 0 ${100 - wipe * 100}% 0)` : `inset(0 ${100 - wipe * 100}% 0 0)`,
  );

  $effect(() => {
    if (mode !== 'flicker') return;
    shown = true;
    const timer = setInterval(() => (shown = !shown), 500);
    return () => {
      clearInterval(timer);
      shown = true;
    };
  });

  $effect(() => {
    onbeside(mode === 'beside');
    return () => onbeside(false);
  });

  // The difference is taken by the browser from both pictures as they are shown; the gain brightens what is left.
  $effect(() => {
    if (!frame || mode !== 'difference') return;
    frame.style.filter = `brightness(${gain})`;
    return () => (frame.style.filter = '');
  });

  function follow(event: PointerEvent) {
    const box = frame?.getBoundingClientRect();
    if (!wiping || !box) return;
    const share = down ? (event.clientY - box.top) / box.height : (event.clientX - box.left) / box.width;
    wipe = Math.min(Math.max(share, 0), 1);
  }
</script>

<img
  class="before"
  class:difference={mode === 'difference'}
  class:beside={mode === 'beside'}
  class:whole={compared.reference}
  src={compared.picture}
  alt="{compared.reference ? 'reference' : 'snapshot'} {compared.name}"
  style:clip-path={clip}
  style:visibility={shown ? 'visible' : 'hidden'}
/>
{#if wipes}
  <div
    class="wipe"
    class:down
    role="slider"
    tabindex="0"
    aria-label="wipe between the snapshot and the picture"
    aria-valuenow={Math.round(wipe * 100)}
    style={down ? `top:${wipe * 100}%` : `left:${wipe * 100}%`}
    onpointerdown={(event) => {
      wiping = true;
      event.currentTarget.setPointerCapture(event.pointerId);
      event.stopPropagation();
    }}
    onpointermove={follow}
    onpointerup={() => (wiping = false)}
    onkeydown={(event) => {
      const by = { ArrowLeft: -0.02, ArrowUp: -0.02, ArrowRight: 0.02, ArrowDown: 0.02 }[event.key];
      if (by) wipe = Math.min(Math.max(wipe + by, 0), 1);
    }}
  >
    <span class="first">{compared.name}</span><span class="second">now</span>
  </div>
{/if}
<!-- svelte-ignore a11y_no_static_element_interactions -->
<div class="bar" onpointerdown={(event) => event.stopPropagation()}>
  {#if mode === 'flicker'}<b>{shown ? compared.name : 'now'}</b>{/if}
  <Choice
    value={mode}
    label="way of comparing"
    options={MODES.map((each) => ({ value: each, text: each }))}
    onchange={(next) => (mode = next as typeof mode)}
  />
  {#if mode === 'difference'}
    <span>gain</span>
    <DragNumber
      value={gain}
      label="gain of the difference"
      low={1}
      high={64}
      onchange={(next) => (gain = next)}
    />
  {/if}
  <button class="plain" onclick={onstop}>end comparing</button>
</div>

<style>
  .before {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    object-fit: fill;
    pointer-events: none;
    user-select: none;
  }
  .whole {
    object-fit: contain;
  }
  .beside {
    width: 50%;
    object-fit: contain;
  }
  .difference {
    mix-blend-mode: difference;
  }
  .wipe,
  .bar {
    z-index: 2; /* above the handles of locators */
  }
  .wipe {
    position: absolute;
    top: 0;
    bottom: 0;
    width: 13px;
    margin-left: -7px;
    cursor: ew-resize;
    user-select: none;
    background: linear-gradient(90deg, transparent 6px, var(--amber) 6px 7.5px, transparent 7.5px);
    touch-action: none;
  }
  .wipe.down {
    left: 0;
    right: 0;
    bottom: auto;
    width: auto;
    height: 13px;
    margin: -7px 0 0;
    cursor: ns-resize;
    background: linear-gradient(transparent 6px, var(--amber) 6px 7.5px, transparent 7.5px);
  }
  .wipe span {
    position: absolute;
    bottom: 46px;
    background: var(--veil);
    padding: 1px 6px;
    white-space: nowrap;
    pointer-events: none;
  }
  .first {
    right: 12px;
  }
  .second {
    left: 12px;
  }
  .down .first {
    left: 10px;
    right: auto;
    bottom: 12px;
  }
  .down .second {
    left: 10px;
    bottom: -12px;
  }
  .bar {
    position: absolute;
    right: 10px;
    top: 10px;
    display: flex;
    gap: 10px;
    align-items: baseline;
    background: var(--veil);
    padding: 3px 8px;
  }
  .bar button {
    color: var(--amber);
  }
</style>
