<!-- The stage: the rendered picture, the handles of locators over it, and the camera under the hand. -->
<script lang="ts">
  import type { PictureHead, Region } from '../api/live';
  import { live } from '../state/live.svelte';
  import { withKeys } from '../state/keyedNumber.svelte';
  import { shot } from '../state/shot.svelte';
  import CompareOverlay from './CompareOverlay.svelte';
  import Gizmo from './Gizmo.svelte';
  import LampHandles from './LampHandles.svelte';
  import LocatorHandles from './LocatorHandles.svelte';
  import Outlines from './Outlines.svelte';
  import TubeHandles from './TubeHandles.svelte';
  import ReadingPanel from './ReadingPanel.svelte';
  import StageScale from './StageScale.svelte';
  import StageWork from './StageWork.svelte';
  import ViewChooser from './ViewChooser.svelte';
  import type { Json } from '../api/client';
  import type { Compared } from '../state/compared';
  import { chosen } from '../state/chosen.svelte';
  import { LOOK } from '../state/lookEdits';
  import { notices } from '../state/notices.svelte';
  import { pointer } from '../state/pointer';

  type Props = { compared: Compared | null; title: string; onstopcompare: () => void };
  let { compared, title, onstopcompare }: Props = $props();

  let canvas: HTMLCanvasElement | undefined = $state();
  let frame: HTMLDivElement | undefined = $state();
  let width = $state(640);
  let height = $state(360);
  let picture: HTMLDivElement | undefined = $state();
  let hand: { x: number; y: number; move: 'orbit' | 'pan'; moved: boolean } | null = null;
  /** Whether a kept picture stands beside, so that this one has the right half. */
  let beside = $state(false);
  const view = $derived(
    beside
      ? { left: width / 2, top: height / 4, width: width / 2, height: height / 2 }
      : { left: 0, top: 0, width, height },
  );
  let drawing = $state(false);
  let drawn = $state<Region | null>(null);
  const region = $derived(drawn ?? live.viewing.region);
  let wheel = 0;
  let wheelEnds = 0;

  /** How far the picture is, in per cent, by time where that is known. */
  function progress(head: PictureHead): number {
    if (head.finished) return 100;
    if (head.left === null) return 2;
    return Math.min((head.seconds / Math.max(head.seconds + head.left, 0.01)) * 100, 100);
  }
  const busy = $derived(!live.head || live.head.stage !== 'full');

  live.onEmpty = () => {
    canvas?.getContext('2d')?.clearRect(0, 0, canvas.width, canvas.height);
    for (const name of ['shot', 'serial', 'stage', 'samples', 'show', 'revision'])
      delete canvas?.dataset[name];
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
    canvas.dataset['shot'] = String(head.shot);
    canvas.dataset['serial'] = String(head.serial);
    canvas.dataset['stage'] = head.stage;
    canvas.dataset['samples'] = String(head.samples);
    canvas.dataset['show'] = head.show.kind;
    canvas.dataset['revision'] = String(head.revision);
  };

  live.onCamera = (camera: Json) => {
    void shot.commit(withKeys([{ op: 'replace', path: '/camera', value: camera }]), 'move the camera');
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
  function share(event: MouseEvent): [number, number] {
    const box = frame?.getBoundingClientRect();
    if (!box) return [0, 0];
    const within = (x: number) => Math.min(Math.max(x, 0), 1);
    return [
      within((event.clientX - box.left - view.left) / view.width),
      within((event.clientY - box.top - view.top) / view.height),
    ];
  }
  /** The drawn rectangle, from whichever corner it was begun; nothing where it is too small to be meant. */
  function rectangle([x0, y0, x1, y1]: Region): Region | null {
    if (Math.abs(x1 - x0) < 0.01 || Math.abs(y1 - y0) < 0.01) return null;
    return [Math.min(x0, x1), Math.min(y0, y1), Math.max(x0, x1), Math.max(y0, y1)];
  }
  function moved(event: PointerEvent) {
    return {
      across: (event.clientX - (hand?.x ?? 0)) / view.width,
      down: (event.clientY - (hand?.y ?? 0)) / view.height,
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
    else if (hand && event.button === 0) void clicked(share(event));
    hand = null;
  }
  /** A click reads the point, unless something waits for a place. */
  async function clicked(at: [number, number]) {
    const waiting = chosen.click;
    if (!waiting) return live.read(...at);
    const found = await live.look(...at);
    if (!found) return notices.say('info', 'Nothing there', 'The picture shows only sky at that point.');
    chosen.click = null;
    waiting.done(found);
  }

  /** A look that was dragged here: the object under the hand wears it. */
  async function dropLook(event: DragEvent) {
    const look = event.dataTransfer?.getData(LOOK);
    if (!look) return;
    event.preventDefault();
    const found = await live.look(...share(event));
    const index = shot.document?.objects.findIndex((item) => item.name === found?.object) ?? -1;
    if (index < 0) return notices.say('info', 'Nothing there to wear it', 'Drop a look onto an object.');
    const path = pointer('objects', index, 'look');
    void shot.commit([{ op: 'replace', path, value: look }], `${found?.object} wears ${look}`);
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
    ondragover={(event) => event.dataTransfer?.types.includes(LOOK) && event.preventDefault()}
    ondrop={(event) => void dropLook(event)}
    oncontextmenu={(event) => event.preventDefault()}
    onwheel={roll}
    onkeydown={(event) => {
      if (event.key === 'Enter') void clicked([0.5, 0.5]);
      if (event.key === 'Escape' && chosen.click) {
        chosen.click = null;
        event.stopPropagation();
      }
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
    <canvas
      bind:this={canvas}
      style:left="{view.left}px"
      style:top="{view.top}px"
      style:width="{view.width}px"
      style:height="{view.height}px"
    ></canvas>
    {#if compared}<CompareOverlay
        {compared}
        frame={picture}
        onstop={onstopcompare}
        onbeside={(now) => (beside = now)}
      />{/if}
  </div>
  <div
    class="over"
    style:left="{view.left}px"
    style:top="{view.top}px"
    style:width="{view.width}px"
    style:height="{view.height}px"
  >
    <Outlines width={view.width} height={view.height} />
    <TubeHandles width={view.width} height={view.height} />
    <LocatorHandles width={view.width} height={view.height} />
    <Gizmo width={view.width} height={view.height} />
    <LampHandles width={view.width} height={view.height} />
    {#if live.reading?.at}
      <span
        class="pin"
        data-pin
        style:left="{live.reading.at[0] * view.width}px"
        style:top="{live.reading.at[1] * view.height}px"
      ></span>
    {/if}
  </div>
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
  <div class="caption">
    <b>{live.show.kind === 'picture' ? 'picture' : 'alone'}</b>
    {title}
  </div>
  {#if chosen.click}
    <div class="state" role="status">
      {chosen.click.said}
      <button class="plain cancel" onclick={() => (chosen.click = null)}>cancel</button>
    </div>
  {/if}
  <StageScale />
  <div class="bars">
    <ViewChooser />
    <StageWork {drawing} ondraw={(next) => (drawing = next)} />
  </div>
  {#if !compared}<ReadingPanel />{/if}
  {#if live.setAside}<div class="state" role="alert">
      this shot has ended the renderer several times; it is tried again once something is changed
    </div>
  {:else if live.restarting}<div class="state" role="status">the renderer is starting again…</div>
  {:else if live.fault}<div class="state" role="alert">
      something went wrong with this picture (number {live.fault.number} in the log);
      {live.fault.again === null ? 'it is tried again once something is changed' : 'it is being tried again'}
    </div>
  {:else if !live.connected}<div class="state" role="status">waiting for the server…</div>
  {:else if live.loading}<div class="state" role="status" data-loading>
      loading {live.loading.what}… {live.loading.done} of {live.loading.total}
    </div>
  {:else if live.working}<div class="state" role="status" data-working>
      {live.working.what}: frame {live.working.done} of {live.working.total}…
    </div>
  {:else if !live.head}<div class="state" role="status">the first picture is on its way…</div>{/if}
  <div class="progress" class:busy style:width="{live.head ? progress(live.head) : 0}%"></div>
</div>

<style>
  .stage {
    position: relative;
    overflow: hidden;
    background: var(--well);
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
  /* What lies over the picture; only its handles and plates are in the way of the hand. */
  .over {
    position: absolute;
    pointer-events: none;
  }
  .over > :global(div) {
    pointer-events: auto;
  }
  .bars {
    position: absolute;
    left: 10px;
    bottom: 10px;
    right: 10px;
    display: flex;
    flex-wrap: wrap;
    align-items: flex-end;
    gap: 6px 10px;
    pointer-events: none;
  }
  .bars > :global(*) {
    pointer-events: auto;
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
    box-shadow: 0 0 0 1px var(--shadow);
    pointer-events: none;
  }
  .pin::after {
    content: '';
    position: absolute;
    inset: 3.5px;
    background: var(--text);
    border-radius: 50%;
  }
  .caption,
  .state {
    position: absolute;
    left: 10px;
    top: 10px;
    background: var(--veil);
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
  .cancel {
    pointer-events: all;
    margin-left: 10px;
    border-bottom: 1px dotted var(--amber-line);
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
