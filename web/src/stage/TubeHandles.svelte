<!-- The points of the tube that is chosen: dragged over the ground, with Shift up and down, or moved by arrow keys. -->
<script lang="ts">
  import type { Gizmo } from '../api/live';
  import { chosen } from '../state/chosen.svelte';
  import { along, freely, type Pixels } from '../state/gizmoEdits';
  import { live } from '../state/live.svelte';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';
  import { movedPoint, withPoints, type Point } from '../state/tubeEdits';

  type Props = { width: number; height: number };
  let { width, height }: Props = $props();

  type Held = { gizmo: Gizmo; number: number; points: Point[]; from: Pixels };
  let held = $state.raw<Held | null>(null);

  const size = $derived([width, height] as const);
  const index = $derived(
    chosen.list === 'objects'
      ? (shot.document?.objects.findIndex((each) => each.id === chosen.id) ?? -1)
      : -1,
  );
  const item = $derived(index >= 0 ? (shot.document?.objects[index] ?? null) : null);
  const gizmo = $derived.by(() => {
    const found = live.head?.gizmo ?? null;
    return found?.tube && found.thing === pointer('objects', chosen.id) ? found : null;
  });
  const pointsNow = () => (item?.geometry as unknown as { points: Point[] }).points;
  const KEYS: Record<string, Point> = {
    ArrowLeft: [-1, 0, 0],
    ArrowRight: [1, 0, 0],
    ArrowUp: [0, 0, -1],
    ArrowDown: [0, 0, 1],
    PageUp: [0, 1, 0],
    PageDown: [0, -1, 0],
  };

  const place = (event: PointerEvent): Pixels => {
    const box = (event.currentTarget as SVGElement).ownerSVGElement?.getBoundingClientRect();
    return [event.clientX - (box?.left ?? 0), event.clientY - (box?.top ?? 0)];
  };
  function take(event: PointerEvent, number: number) {
    if (!gizmo || event.button !== 0) return;
    event.stopPropagation();
    (event.currentTarget as SVGElement).setPointerCapture(event.pointerId);
    held = { gizmo, number, points: pointsNow(), from: place(event) };
  }
  function patchFor({ gizmo, number, points, from }: Held, event: PointerEvent) {
    const to = place(event);
    const moved: Pixels = [to[0] - from[0], to[1] - from[1]];
    const spot = gizmo.tube?.points.find((each) => each.number === number);
    if (!spot) return [];
    const there = { ...gizmo, world: spot.axes };
    const by = event.shiftKey ? [0, along(there, 'y', false, size, moved), 0] : freely(there, size, moved);
    return withPoints(index, movedPoint(points, number, by));
  }
  function letGo(event: PointerEvent) {
    if (!held) return;
    const [patch, number] = [patchFor(held, event), held.number];
    held = null;
    if (shot.draft.length) void shot.commit(patch, `point ${number + 1} of ${item?.name ?? ''}`);
  }
  function nudge(event: KeyboardEvent, number: number) {
    const way = KEYS[event.key];
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    const step = event.shiftKey ? 0.005 : 0.05;
    const by = way.map((x) => x * step);
    void shot.commit(
      withPoints(index, movedPoint(pointsNow(), number, by)),
      `point ${number + 1} of ${item?.name ?? ''}`,
    );
  }
</script>

{#if gizmo?.tube && item}
  <svg class="handles" viewBox="0 0 {width} {height}" data-tube={item.name}>
    {#each gizmo.tube.points as spot (spot.number)}
      {@const [x, y] = [spot.at[0] * width, spot.at[1] * height]}
      <g
        class="handle"
        class:held={held?.number === spot.number}
        role="slider"
        tabindex="0"
        aria-label="point {spot.number + 1} of {item.name} in the picture"
        aria-valuenow={spot.number + 1}
        onpointerdown={(event) => take(event, spot.number)}
        onpointermove={(event) => held && shot.preview(patchFor(held, event))}
        onpointerup={letGo}
        onpointercancel={letGo}
        onkeydown={(event) => nudge(event, spot.number)}
      >
        <circle class="wide" cx={x} cy={y} r="13" />
        <circle class="spot" cx={x} cy={y} r="4.5" />
        <text x={x + 9} y={y - 7}>{spot.number + 1}</text>
      </g>
    {/each}
  </svg>
{/if}

<style>
  .handles {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    pointer-events: none;
  }
  .handle {
    pointer-events: all;
    cursor: move;
    touch-action: none;
  }
  .wide {
    fill: transparent;
  }
  .spot {
    fill: var(--ground);
    stroke: var(--named);
    stroke-width: 2;
  }
  .handle:hover .spot,
  .held .spot {
    stroke: var(--amber);
  }
  text {
    fill: var(--named);
    font-size: 12px;
  }
</style>
