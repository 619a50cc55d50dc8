<!-- The points of the tube that is chosen: dragged over the ground, with Shift up and down, or moved by arrow keys. -->
<script lang="ts">
  import type { Gizmo } from '../api/live';
  import { tidy } from '../fields/numbers';
  import { chosen } from '../state/chosen.svelte';
  import { along, freely, type Pixels } from '../state/gizmoEdits';
  import { live } from '../state/live.svelte';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';
  import { ledBy, movedPoint, withPoints, withTangents, type Point, type Tangents } from '../state/tubeEdits';

  type Props = { width: number; height: number };
  let { width, height }: Props = $props();

  /** What is dragged: a point, or an end of its tangent: 1 the one that follows, −1 the one before. */
  type Held = {
    gizmo: Gizmo;
    number: number;
    points: Point[];
    tangents: Tangents;
    from: Pixels;
    end: 0 | 1 | -1;
  };
  let held = $state.raw<Held | null>(null);
  /** The point whose tangent is shown: the one that was touched last. */
  let shown = $state(-1);

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
  const line = () => item?.geometry as unknown as { points: Point[]; tangents?: Tangents };
  const pointsNow = () => line().points;
  const tangentsNow = () => line().tangents ?? [];
  const spot = $derived(gizmo?.tube?.points.find((each) => each.number === shown && each.ends) ?? null);
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
  function take(event: PointerEvent, number: number, end: 0 | 1 | -1 = 0) {
    if (!gizmo || event.button !== 0) return;
    event.stopPropagation();
    (event.currentTarget as SVGElement).setPointerCapture(event.pointerId);
    held = { gizmo, number, points: pointsNow(), tangents: tangentsNow(), from: place(event), end };
  }
  const led = (number: number, tangent: readonly number[] | null | undefined, by: readonly number[]) => {
    const [x, y, z] = [0, 1, 2].map((k) => tidy((tangent?.[k] ?? 0) + (by[k] ?? 0)));
    return withTangents(
      index,
      ledBy(tangentsNow(), pointsNow().length, number, tangent ? [x ?? 0, y ?? 0, z ?? 0] : null),
    );
  };
  function patchFor({ gizmo, number, points, from, end, tangents }: Held, event: PointerEvent) {
    const to = place(event);
    const moved: Pixels = [to[0] - from[0], to[1] - from[1]];
    const spot = gizmo.tube?.points.find((each) => each.number === number);
    if (!spot) return [];
    const there = { ...gizmo, world: spot.axes };
    const by = event.shiftKey ? [0, along(there, 'y', false, size, moved), 0] : freely(there, size, moved);
    if (end) {
      const before = tangents[number] ?? spot.tangent;
      return led(
        number,
        before,
        by.map((each) => each * end),
      );
    }
    return withPoints(index, movedPoint(points, number, by));
  }
  function letGo(event: PointerEvent) {
    if (!held) return;
    const [patch, number, end] = [patchFor(held, event), held.number, held.end];
    held = null;
    if (shot.draft.length) void shot.commit(patch, said(number, end !== 0));
  }
  const said = (number: number, tangent: boolean) =>
    `${tangent ? 'tangent of point' : 'point'} ${number + 1} of ${item?.name ?? ''}`;
  function nudge(event: KeyboardEvent, number: number, end: 0 | 1 | -1 = 0) {
    const way = KEYS[event.key];
    const free = end !== 0 && (event.key === 'Delete' || event.key === 'Backspace');
    if (!way && !free) return;
    event.preventDefault();
    event.stopPropagation();
    if (free) return void shot.commit(led(number, null, []), said(number, true));
    const step = event.shiftKey ? 0.005 : 0.05;
    const by = way?.map((x) => x * step) ?? [];
    if (end && spot?.tangent)
      void shot.commit(
        led(
          number,
          tangentsNow()[number] ?? spot.tangent,
          by.map((each) => each * end),
        ),
        said(number, true),
      );
    else void shot.commit(withPoints(index, movedPoint(pointsNow(), number, by)), said(number, false));
  }
</script>

{#if gizmo?.tube && item}
  <svg class="handles" viewBox="0 0 {width} {height}" data-tube={item.name}>
    {#if spot?.ends}
      {@const ends = spot.ends.map(([x, y]) => [x * width, y * height] as const)}
      <line
        class="tangent"
        class:free={!spot.by_hand}
        x1={ends[0]?.[0]}
        y1={ends[0]?.[1]}
        x2={ends[1]?.[0]}
        y2={ends[1]?.[1]}
      />
      {#each ends as [x, y], side (side)}
        {@const end = side ? -1 : 1}
        <g
          class="handle"
          role="slider"
          tabindex="0"
          aria-label="tangent {side ? 'before' : 'after'} point {spot.number +
            1} of {item.name} in the picture"
          aria-valuenow={spot.by_hand ? 1 : 0}
          aria-valuetext={spot.by_hand ? 'by hand' : 'by its neighbours'}
          onpointerdown={(event) => take(event, spot.number, end)}
          onpointermove={(event) => held && shot.preview(patchFor(held, event))}
          onpointerup={letGo}
          onpointercancel={letGo}
          onkeydown={(event) => nudge(event, spot.number, end)}
        >
          <circle class="wide" cx={x} cy={y} r="12" />
          <path class="knob" class:free={!spot.by_hand} d="M{x - 4} {y}l4 -4l4 4l-4 4z" />
        </g>
      {/each}
    {/if}
    {#each gizmo.tube.points as spot (spot.number)}
      {@const [x, y] = [spot.at[0] * width, spot.at[1] * height]}
      <g
        class="handle"
        class:held={held?.number === spot.number}
        role="slider"
        tabindex="0"
        aria-label="point {spot.number + 1} of {item.name} in the picture"
        aria-valuenow={spot.number + 1}
        onfocus={() => (shown = spot.number)}
        onpointerdown={(event) => {
          shown = spot.number;
          take(event, spot.number);
        }}
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
  .tangent {
    stroke: var(--named);
    stroke-width: 1;
    pointer-events: none;
  }
  .tangent.free {
    stroke-dasharray: 3 3;
  }
  .knob {
    fill: var(--named);
    stroke: var(--named);
  }
  .knob.free {
    fill: var(--ground);
  }
  .handle:hover .knob {
    stroke: var(--amber);
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
