<!-- The stage: the rendered picture, the handles of locators over it, and the camera under the hand. -->
<script lang="ts">
  import type { Handle, PictureHead, Region } from '../api/live';
  import { live } from '../state/live.svelte';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';
  import CompareOverlay from './CompareOverlay.svelte';
  import LocatorField from './LocatorField.svelte';
  import ReadingPanel from './ReadingPanel.svelte';
  import StageScale from './StageScale.svelte';
  import StageWork from './StageWork.svelte';
  import ViewChooser from './ViewChooser.svelte';
  import { tidy } from './numbers';
  import type { Json } from '../api/client';
  import type { Compared } from '../state/compared';

  type Props = { compared: Compared | null; title: string; onstopcompare: () => void };
  let { compared, title, onstopcompare }: Props = $props();

  let canvas: HTMLCanvasElement | undefined = $state();
  let frame: HTMLDivElement | undefined = $state();
  let width = $state(640);
  let height = $state(360);
  let picture: HTMLDivElement | undefined = $state();
  let hand: { x: number; y: number; move: 'orbit' | 'pan'; moved: boolean } | null = null;
  let lifted = $state<{
    name: string;
    y0: number;
    x0: number;
    value: [number, number, number];
    axes: Handle['axes'];
  } | null>(null);
  let drawing = $state(false);
  let drawn = $state<Region | null>(null);
  const region = $derived(drawn ?? live.viewing.region);
  let wheel = 0;
  let wheelEnds = 0;

  const handles = $derived(live.head?.handles ?? []);
  /** How far the picture is, in per cent, by time where that is known. */
  function progress(head: PictureHead): number {
    if (head.finished) return 100;
    if (head.left === null) return 2;
    return Math.min((head.seconds / Math.max(head.seconds + head.left, 0.01)) * 100, 100);
  }
  const busy = $derived(!live.head || live.head.stage !== 'full');

  live.onEmpty = () => {
    canvas?.getContext('2d')?.clearRect(0, 0, canvas.width, canvas.height);
    for (const name of ['serial', 'stage', 'samples', 'show', 'revision']) delete canvas?.dataset[name];
  };
  live.onPicture = (picture, head) => {
    if (!canvas) return;
    const [across, down] = [Math.round(width * devicePixelRatio), Math.round(height * devicePixelRatio)];
    if (canvas.width !== across) canvas.width = across; // setting it clears the canvas, and makes a new one
    if (canvas.height !== down) canvas.height = down;
    const context = canvas.getContext('2d');
    if (!context) return;
    context.imageSmoothingQuality = 'high';
    context.drawImage(picture, 0, 0, canvas.width, canvas.height);
    canvas.dataset['serial'] = String(head.serial);
    canvas.dataset['stage'] = head.stage;
    canvas.dataset['samples'] = String(head.samples);
    canvas.dataset['show'] = head.show.kind;
    canvas.dataset['revision'] = String(head.revision);
  };

  live.onCamera = (camera: Json) => {
    void shot.commit([{ op: 'replace', path: '/camera', value: camera }], 'move the camera');
  };

  $effect(() => {
    if (!frame) return;
    const watcher = new ResizeObserver(([entry]) => {
      if (!entry) return;
      width = Math.max(Math.floor(entry.contentRect.width), 64);
      height = Math.max(Math.floor(entry.contentRect.height), 64);
      live.setSize(width, height);
    });
    watcher.observe(frame);
    return () => watcher.disconnect();
  });

  function down(event: PointerEvent & { currentTarget: HTMLElement }) {
    if (lifted) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    if (drawing) {
      const [x, y] = share(event);
      drawn = [x, y, x, y];
      return;
    }
    hand = {
      x: event.clientX,
      y: event.clientY,
      move: event.button === 0 && !event.shiftKey ? 'orbit' : 'pan',
      moved: false,
    };
  }
  function share(event: PointerEvent): [number, number] {
    const box = frame?.getBoundingClientRect();
    if (!box) return [0, 0];
    const within = (x: number) => Math.min(Math.max(x, 0), 1);
    return [within((event.clientX - box.left) / box.width), within((event.clientY - box.top) / box.height)];
  }
  /** The drawn rectangle, from whichever corner it was begun; nothing where it is too small to be meant. */
  function rectangle([x0, y0, x1, y1]: Region): Region | null {
    if (Math.abs(x1 - x0) < 0.01 || Math.abs(y1 - y0) < 0.01) return null;
    return [Math.min(x0, x1), Math.min(y0, y1), Math.max(x0, x1), Math.max(y0, y1)];
  }
  function moved(event: PointerEvent) {
    return {
      across: (event.clientX - (hand?.x ?? 0)) / width,
      down: (event.clientY - (hand?.y ?? 0)) / height,
    };
  }
  function move(event: PointerEvent) {
    if (drawn) drawn = [drawn[0], drawn[1], ...share(event)];
    if (!hand) return;
    const { across, down: lower } = moved(event);
    if (!hand.moved && Math.abs(across) * width + Math.abs(lower) * height < 3) return;
    hand.moved = true;
    live.moveCamera({ move: hand.move, across, down: lower, end: false });
  }
  function up(event: PointerEvent) {
    if (drawn) {
      live.setViewing({ ...live.viewing, region: rectangle(drawn) });
      drawn = null;
      drawing = false;
      return;
    }
    if (hand?.moved) live.moveCamera({ move: hand.move, ...moved(event), end: true });
    else if (hand && event.button === 0) live.read(...share(event));
    hand = null;
  }
  function roll(event: WheelEvent) {
    event.preventDefault();
    wheel -= event.deltaY * (event.deltaMode === 1 ? 0.04 : 0.0012);
    live.moveCamera({ move: 'dolly', across: 0, down: wheel, end: false });
    clearTimeout(wheelEnds);
    wheelEnds = window.setTimeout(() => {
      live.moveCamera({ move: 'dolly', across: 0, down: wheel, end: true });
      wheel = 0;
    }, 220);
  }

  const indexOf = (name: string) =>
    shot.document?.locators.findIndex((locator) => locator.name === name) ?? -1;
  const placed = (name: string) =>
    shot.document?.locators.find((locator) => locator.name === name)?.position ?? [0, 0, 0];

  function lift(event: PointerEvent & { currentTarget: SVGElement }, handle: Handle) {
    event.stopPropagation();
    event.currentTarget.setPointerCapture(event.pointerId);
    const [x, y, z] = placed(handle.name);
    lifted = {
      name: handle.name,
      x0: event.clientX,
      y0: event.clientY,
      value: [x ?? 0, y ?? 0, z ?? 0],
      axes: handle.axes,
    };
  }
  function raised(event: PointerEvent): number {
    if (!lifted) return 0;
    // How far along the picture of the upward axis the hand has gone, in metres.
    const [ax, ay] = [lifted.axes.y[0] * width, lifted.axes.y[1] * height];
    const along = (event.clientX - lifted.x0) * ax + (event.clientY - lifted.y0) * ay;
    return tidy(lifted.value[1] + along / Math.max(ax * ax + ay * ay, 1e-6));
  }
  function patchFor(name: string, value: number) {
    return [
      {
        op: 'replace' as const,
        path: pointer('locators', indexOf(name), 'position', 1),
        value: Math.round(value * 1000) / 1000,
      },
    ];
  }
  function nudge(event: KeyboardEvent, name: string) {
    const by = { ArrowUp: 0.01, ArrowDown: -0.01 }[event.key];
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    void shot.commit(patchFor(name, (placed(name)[1] ?? 0) + by), `move ${name}`);
  }
</script>

<div class="stage" aria-label="stage" role="application" bind:this={frame}>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
  <div
    class="picture"
    class:drawing
    bind:this={picture}
    role="img"
    aria-label="the rendered picture; click to read a point, drag to orbit, Shift-drag to pan, wheel to come nearer, arrow keys with Alt to fly"
    tabindex="0"
    onpointerdown={down}
    onpointermove={move}
    onpointerup={up}
    onpointercancel={() => (hand = null)}
    oncontextmenu={(event) => event.preventDefault()}
    onwheel={roll}
    onkeydown={(event) => {
      const step = 0.02;
      const to = { ArrowLeft: [step, 0], ArrowRight: [-step, 0], ArrowUp: [0, step], ArrowDown: [0, -step] }[
        event.key
      ];
      if (!to) return;
      event.preventDefault();
      // With Alt the camera flies: ahead and back, left and right.
      const flies = event.altKey;
      live.moveCamera({
        move: flies ? 'fly' : event.shiftKey ? 'pan' : 'orbit',
        across: (flies ? -2 : 1) * (to[0] ?? 0),
        down: (flies ? 2 : 1) * (to[1] ?? 0),
        end: true,
      });
    }}
  >
    <canvas bind:this={canvas} style:width="{width}px" style:height="{height}px"></canvas>
    {#if compared}<CompareOverlay {compared} frame={picture} onstop={onstopcompare} />{/if}
  </div>
  <svg class="overlay" viewBox="0 0 {width} {height}" aria-hidden={handles.length === 0}>
    {#each handles as handle (handle.name)}
      {@const x = handle.at[0] * width}
      {@const y = handle.at[1] * height}
      {@const up = handle.axes.y[1] * height}
      {@const tall = Math.min(Math.max(Math.abs(up) * 0.25, 34), 70)}
      {#if handle.ring.length}
        <polygon
          points={handle.ring.map(([px, py]) => `${px * width},${py * height}`).join(' ')}
          class="ring"
        />
      {/if}
      <g
        class="locator"
        class:lifted={lifted?.name === handle.name}
        role="slider"
        tabindex="0"
        aria-label="locator {handle.name}, height in metres"
        aria-valuenow={placed(handle.name)[1]}
        data-locator={handle.name}
        onpointerdown={(event) => lift(event, handle)}
        onpointermove={(event) => {
          if (lifted?.name === handle.name) shot.preview(patchFor(handle.name, raised(event)));
        }}
        onpointerup={(event) => {
          if (lifted?.name !== handle.name) return;
          const height = raised(event);
          const same = height === lifted.value[1];
          lifted = null;
          if (!same || shot.draft.length)
            void shot.commit(patchFor(handle.name, height), `move ${handle.name}`);
        }}
        onkeydown={(event) => nudge(event, handle.name)}
      >
        <rect x={x - 14} y={y - tall - 10} width="28" height={tall + 22} fill="transparent" />
        <line x1={x} y1={y} x2={x} y2={y - tall} />
        <path d="M{x - 5} {y - tall + 2}L{x} {y - tall - 9}L{x + 5} {y - tall + 2}Z" />
        <circle cx={x} cy={y} r="5" />
      </g>
    {/each}
  </svg>
  {#if region && live.show.kind === 'picture'}
    {@const [x0, y0, x1, y1] = region}
    <span
      class="region"
      style:left="{Math.min(x0, x1) * 100}%"
      style:top="{Math.min(y0, y1) * 100}%"
      style:width="{Math.abs(x1 - x0) * 100}%"
      style:height="{Math.abs(y1 - y0) * 100}%"
    ></span>
  {/if}
  {#if live.reading?.at}
    <span
      class="pin"
      data-pin
      style:left="{live.reading.at[0] * width}px"
      style:top="{live.reading.at[1] * height}px"
    ></span>
  {/if}
  {#each handles as handle (handle.name)}
    <div class="plate" style:left="{handle.at[0] * width + 12}px" style:top="{handle.at[1] * height - 30}px">
      {handle.name}
      <LocatorField name={handle.name} />
    </div>
  {/each}
  <div class="caption">
    <b>{live.show.kind === 'picture' ? 'picture' : 'alone'}</b>
    {title}
  </div>
  <StageScale />
  <div class="bars">
    <ViewChooser />
    <StageWork {drawing} ondraw={(next) => (drawing = next)} />
  </div>
  {#if !compared}<ReadingPanel />{/if}
  {#if live.restarting}<div class="state" role="status">the renderer is starting again…</div>
  {:else if !live.connected}<div class="state" role="status">waiting for the server…</div>
  {:else if live.loading}<div class="state" role="status" data-loading>
      loading {live.loading.what}… {live.loading.done} of {live.loading.total}
    </div>
  {:else if !live.head}<div class="state" role="status">the first picture is on its way…</div>{/if}
  <div class="progress" class:busy style:width="{live.head ? progress(live.head) : 0}%"></div>
</div>

<style>
  .stage {
    position: relative;
    overflow: hidden;
    background: #0b0d11;
    height: 100%;
    min-height: 0;
  }
  .picture {
    position: absolute;
    inset: 0;
    touch-action: none;
    cursor: grab;
  }
  .picture:active {
    cursor: grabbing;
  }
  .picture:focus-visible {
    outline-offset: -2px;
  }
  canvas {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    display: block;
    pointer-events: none;
    user-select: none;
  }
  .overlay {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    pointer-events: none;
  }
  .ring {
    fill: none;
    stroke: var(--named);
    stroke-dasharray: 5 4;
    opacity: 0.75;
  }
  .locator {
    pointer-events: all;
    cursor: ns-resize;
    touch-action: none;
  }
  .locator line {
    stroke: var(--named);
    stroke-width: 1.6;
  }
  .locator path {
    fill: var(--named);
  }
  .locator circle {
    fill: var(--ground);
    stroke: var(--named);
    stroke-width: 2;
  }
  .locator:hover line,
  .lifted line {
    stroke: var(--amber);
  }
  .locator:hover path,
  .lifted path {
    fill: var(--amber);
  }
  .locator:hover circle,
  .lifted circle {
    stroke: var(--amber);
  }
  .bars {
    position: absolute;
    left: 10px;
    bottom: 10px;
    display: flex;
    gap: 10px;
  }
  .region {
    position: absolute;
    border: 1px dashed var(--text);
    pointer-events: none;
  }
  .picture.drawing {
    cursor: crosshair;
  }
  .pin {
    position: absolute;
    width: 13px;
    height: 13px;
    margin: -7px 0 0 -7px;
    border: 2px solid var(--text);
    border-radius: 50%;
    box-shadow: 0 0 0 1px #000a;
    pointer-events: none;
  }
  .pin::after {
    content: '';
    position: absolute;
    inset: 3.5px;
    background: var(--text);
    border-radius: 50%;
  }
  .plate {
    position: absolute;
    color: var(--named);
    background: #12151a99;
    padding: 1px 5px;
    white-space: nowrap;
  }
  .caption,
  .state {
    position: absolute;
    left: 10px;
    top: 10px;
    background: #12151acc;
    padding: 3px 8px;
    pointer-events: none;
    color: var(--quiet);
  }
  .caption b {
    color: var(--text);
    margin-right: 6px;
  }
  .state {
    top: 38px;
    color: var(--amber);
  }
  .progress {
    position: absolute;
    left: 0;
    bottom: 0;
    height: 2px;
    background: var(--amber);
    transition: width 0.3s;
  }
</style>
