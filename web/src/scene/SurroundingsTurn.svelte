<!-- A small sphere that stands for the surroundings: dragged it turns them about any axis; the numbers stand beside it. -->
<script lang="ts">
  import { camera as cameraAxes, sphereLines } from '../state/sphere';
  import { shot } from '../state/shot.svelte';
  import { about, fromAngles, times, toAngles, type Vector } from '../state/turns';
  import DragNumber from '../fields/DragNumber.svelte';

  const R = 38;
  let held = $state.raw<{ x: number; y: number; from: Vector } | null>(null);

  const tilt = $derived((shot.document?.environment.tilt ?? [0, 0, 0]) as unknown as Vector);
  const rotation = $derived(shot.document?.environment.rotation ?? 0);
  const eye = $derived(
    cameraAxes(shot.document?.camera.position ?? [0, 0, 1], shot.document?.camera.target ?? [0, 0, 0]),
  );
  /** The surroundings' own axes, as the camera sees them. */
  const lines = $derived(sphereLines(times(fromAngles(tilt), about([0, 1, 0], -rotation)), eye, R));

  const patch = (value: Vector) => [{ op: 'add' as const, path: '/environment/tilt', value: [...value] }];

  /** Turned as a ball under the hand: about the camera's own right and up. */
  function turned(from: Vector, dx: number, dy: number): Vector {
    const [right, up] = eye;
    const turn = times(about(up, (dx / R) * 57.3), about(right, (dy / R) * 57.3));
    return toAngles(times(turn, fromAngles(from))).map(
      (each) => Math.round(each * 10) / 10,
    ) as unknown as Vector;
  }
  function letGo(event: PointerEvent) {
    if (!held) return;
    const value = turned(held.from, event.clientX - held.x, event.clientY - held.y);
    held = null;
    if (shot.draft.length) void shot.commit(patch(value), 'turn the surroundings');
  }
  function key(event: KeyboardEvent) {
    const step = (event.shiftKey ? 1 : 5) * (R / 57.3);
    const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[
      event.key
    ];
    if (!by && event.key !== 'Home') return;
    event.preventDefault();
    event.stopPropagation();
    const value = by ? turned(tilt, by[0] ?? 0, by[1] ?? 0) : ([0, 0, 0] as const);
    void shot.commit(patch(value), 'turn the surroundings');
  }
</script>

<div class="turn">
  <svg
    viewBox="{-R - 3} {-R - 3} {2 * R + 6} {2 * R + 6}"
    width={2 * R + 6}
    height={2 * R + 6}
    role="slider"
    tabindex="0"
    aria-label="turn the surroundings about any axis"
    aria-valuenow={tilt[0]}
    aria-valuetext="tilted by {tilt.join(', ')} degrees about x, y and z"
    class:held={held !== null}
    onpointerdown={(event) => {
      event.currentTarget.setPointerCapture(event.pointerId);
      held = { x: event.clientX, y: event.clientY, from: tilt };
    }}
    onpointermove={(event) =>
      held && shot.preview(patch(turned(held.from, event.clientX - held.x, event.clientY - held.y)))}
    onpointerup={letGo}
    onpointercancel={letGo}
    onkeydown={key}
  >
    <title>drag it, or arrow keys; Home sets it upright</title>
    <circle r={R} />
    {#each lines.back as line (line)}<polyline class="back" points={line} />{/each}
    {#each lines.front as line (line)}<polyline points={line} />{/each}
    {#if lines.pole}<circle class="pole" cx={lines.pole[0]} cy={lines.pole[1]} r="3.5" />{/if}
  </svg>
  <div class="numbers">
    <span>tilt</span>
    {#each tilt as part, axis (axis)}
      <DragNumber
        value={part}
        label="tilt of the surroundings {'xyz'[axis]}"
        unit="°"
        low={-360}
        high={360}
        oninput={(value) =>
          shot.preview(patch(tilt.map((x, i) => (i === axis ? value : x)) as unknown as Vector))}
        onchange={(value) =>
          void shot.commit(
            patch(tilt.map((x, i) => (i === axis ? value : x)) as unknown as Vector),
            'turn the surroundings',
          )}
      />
    {/each}
  </div>
</div>

<style>
  .turn {
    display: flex;
    gap: 14px;
    align-items: center;
    padding: 4px 0;
  }
  svg {
    cursor: grab;
    touch-action: none;
    flex: none;
  }
  .held {
    cursor: grabbing;
  }
  circle {
    fill: var(--ground);
    stroke: var(--line);
  }
  polyline {
    fill: none;
    stroke: var(--quiet);
  }
  .back {
    opacity: 0.3;
  }
  .pole {
    fill: var(--amber);
    stroke: none;
  }
  svg:focus-visible > circle:first-of-type,
  svg:hover > circle:first-of-type {
    stroke: var(--amber);
  }
  .numbers {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 10px;
    color: var(--quiet);
  }
</style>
