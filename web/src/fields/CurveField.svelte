<!-- A curve through points: drag them, double-click for another, Delete takes the chosen one away. -->
<script lang="ts">
  import type { Response } from '../api/live';
  import { shown, tidy } from './numbers';

  type Knot = [number, number];
  type Props = {
    points: Knot[];
    response: Response | null;
    oninput: (points: Knot[]) => void;
    onchange: (points: Knot[]) => void;
  };
  let { points, response, oninput, onchange }: Props = $props();

  const W = 200;
  const H = 84;
  let chosen = $state(0);
  let held = $state(-1);
  let frozen: [number, number, number, number] | null = $state(null);
  let box: SVGSVGElement | undefined = $state();

  const reach = (values: number[]): [number, number] => {
    const low = Math.min(...values);
    const high = Math.max(...values);
    const margin = (high - low || 1) * 0.08;
    return [low - margin, high + margin];
  };
  const axes = $derived.by((): [number, number, number, number] => {
    if (frozen) return frozen;
    return [...reach(points.map((each) => each[0])), ...reach(points.map((each) => each[1]))];
  });
  const px = (x: number) => ((x - axes[0]) / (axes[1] - axes[0])) * W;
  const py = (y: number) => H - ((y - axes[2]) / (axes[3] - axes[2])) * H;
  /** What the step really does to values, as the server measured it. */
  const line = $derived(
    (response?.values ?? [])
      .map((y, index, all) => {
        const x =
          (response?.low ?? 0) + (((response?.high ?? 1) - (response?.low ?? 0)) * index) / (all.length - 1);
        return `${px(x).toFixed(1)},${py(y).toFixed(1)}`;
      })
      .join(' '),
  );

  function at(event: MouseEvent): Knot {
    const area = box?.getBoundingClientRect();
    if (!area) return [0, 0];
    const x = axes[0] + ((event.clientX - area.left) / area.width) * (axes[1] - axes[0]);
    const y = axes[3] - ((event.clientY - area.top) / area.height) * (axes[3] - axes[2]);
    return [tidy(x), tidy(y)];
  }
  function moved(index: number, [x, y]: Knot): Knot[] {
    const gap = (axes[1] - axes[0]) / 500;
    const low = (points[index - 1]?.[0] ?? -Infinity) + gap;
    const high = (points[index + 1]?.[0] ?? Infinity) - gap;
    const kept = Math.min(Math.max(x, low), high);
    return points.map((each, i) => (i === index ? [tidy(kept), y] : each));
  }
  function add(event: MouseEvent) {
    const knot = at(event);
    if (points.length >= 32 || points.some((each) => each[0] === knot[0])) return;
    const next = [...points, knot].sort((a, b) => a[0] - b[0]);
    chosen = next.indexOf(knot);
    onchange(next);
  }
  function key(event: KeyboardEvent, index: number) {
    const knot = points[index];
    if (!knot) return;
    const [dx, dy] = [(axes[1] - axes[0]) / 100, (axes[3] - axes[2]) / 100];
    const by = { ArrowLeft: [-dx, 0], ArrowRight: [dx, 0], ArrowUp: [0, dy], ArrowDown: [0, -dy] }[event.key];
    if (by) onchange(moved(index, [knot[0] + (by[0] ?? 0), tidy(knot[1] + (by[1] ?? 0))]));
    else if ((event.key === 'Delete' || event.key === 'Backspace') && points.length > 2)
      onchange(points.filter((_, i) => i !== index));
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
</script>

<svg
  bind:this={box}
  viewBox="0 0 {W} {H}"
  preserveAspectRatio="none"
  role="group"
  aria-label="curve; double-click adds a point"
  ondblclick={add}
>
  <line x1={px(0)} x2={px(0)} y1="0" y2={H} class="axis" />
  <line x1="0" x2={W} y1={py(0)} y2={py(0)} class="axis" />
  <polyline points={line} class="curve" vector-effect="non-scaling-stroke" />
  {#each points as [x, y], index (index)}
    <circle
      cx={px(x)}
      cy={py(y)}
      r="4.5"
      class:chosen={index === chosen}
      role="slider"
      tabindex="0"
      aria-label="point {index + 1} of the curve"
      aria-valuenow={y}
      onpointerdown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        chosen = index;
        held = index;
        frozen = axes;
      }}
      onpointermove={(event) => held === index && oninput(moved(index, at(event)))}
      onpointerup={() => {
        if (held !== index) return;
        held = -1;
        frozen = null;
        onchange(points);
      }}
      onkeydown={(event) => key(event, index)}
    />
  {/each}
</svg>
<div class="mono at">{shown(points[chosen]?.[0] ?? 0)} → {shown(points[chosen]?.[1] ?? 0)}</div>

<style>
  svg {
    display: block;
    width: 100%;
    height: 84px;
    background: var(--well);
    overflow: visible;
    touch-action: none;
  }
  .axis {
    stroke: var(--line);
  }
  .curve {
    fill: none;
    stroke: var(--text);
    stroke-width: 1.4;
  }
  circle {
    fill: var(--quiet);
    stroke: var(--ground);
    cursor: move;
  }
  circle.chosen,
  circle:hover {
    fill: var(--amber);
  }
  .at {
    color: var(--quiet);
    font-size: 12px;
  }
</style>
