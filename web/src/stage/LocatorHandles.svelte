<!-- The handles of locators over the picture: lifted by hand, or by arrow keys. -->
<script lang="ts">
  import type { Handle } from '../api/live';
  import { live } from '../state/live.svelte';
  import { pointer } from '../state/pointer';
  import { withKeys } from '../state/keyedNumber.svelte';
  import { shot } from '../state/shot.svelte';
  import LocatorField from '../fields/LocatorField.svelte';
  import { tidy } from '../fields/numbers';

  type Props = { width: number; height: number };
  let { width, height }: Props = $props();

  let lifted = $state<{
    name: string;
    y0: number;
    x0: number;
    value: [number, number, number];
    axes: Handle['axes'];
  } | null>(null);

  const handles = $derived(live.head?.handles ?? []);
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
    void shot.commit(withKeys(patchFor(name, (placed(name)[1] ?? 0) + by)), `move ${name}`);
  }
</script>

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
        if (lifted?.name === handle.name) shot.preview(withKeys(patchFor(handle.name, raised(event))));
      }}
      onpointerup={(event) => {
        if (lifted?.name !== handle.name) return;
        const height = raised(event);
        const same = height === lifted.value[1];
        lifted = null;
        if (!same || shot.draft.length)
          void shot.commit(withKeys(patchFor(handle.name, height)), `move ${handle.name}`);
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
{#each handles as handle (handle.name)}
  <div class="plate" style:left="{handle.at[0] * width + 12}px" style:top="{handle.at[1] * height - 30}px">
    {handle.name}
    <LocatorField name={handle.name} />
  </div>
{/each}

<style>
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
  .plate {
    position: absolute;
    color: var(--named);
    background: var(--veil-thin);
    padding: 1px 5px;
    white-space: nowrap;
  }
</style>
