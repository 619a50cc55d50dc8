<!-- The values that come in, with the range's handles drawn on them. -->
<script lang="ts">
  import type { Response, Values } from '../api/live';
  import { percent, shown, tidy } from '../fields/numbers';
  import { spread } from './labels';

  type HandleOf = { name: string; value: number };
  type Props = {
    values: Values;
    /** What the step makes of the values, drawn over them. */
    response?: Response | null;
    handles?: HandleOf[];
    /** Whether the range has an end that differs from point to point: it has no one place here. */
    varies?: boolean;
    oninput?: (name: string, value: number) => void;
    onchange?: (name: string, value: number) => void;
    onfit?: (ends: { name: string; value: number }[]) => void;
  };
  let { values, response = null, handles = [], varies = false, oninput, onchange, onfit }: Props = $props();

  const W = 200;
  const H = 40;
  let frozen: [number, number] | null = $state(null);
  let held = $state('');

  const axis = $derived.by((): [number, number] => {
    if (frozen) return frozen;
    const points = [values.low, values.high, ...handles.map((handle) => handle.value)];
    const low = Math.min(...points);
    const high = Math.max(...points);
    const margin = (high - low || Math.abs(high) || 1) * 0.04;
    return [low - margin, high + margin];
  });
  const place = (value: number) => ((value - axis[0]) / (axis[1] - axis[0])) * W;
  const most = $derived(Math.max(...values.counts, 1));
  const bars = $derived(
    values.counts.map((count, index) => {
      const left = values.low + ((values.high - values.low) * index) / values.counts.length;
      const right = values.low + ((values.high - values.low) * (index + 1)) / values.counts.length;
      // Square roots let thin tails be seen beside a peak.
      const height = Math.sqrt(count / most) * (H - 2);
      const below = (left + right) / 2 < 0;
      return { x: place(left), width: Math.max(place(right) - place(left) - 0.4, 0.8), height, below };
    }),
  );
  const line = $derived.by(() => {
    if (!response || response.values.length < 2) return '';
    const { low, high, values: outs } = response;
    const finite = outs.filter((y) => Number.isFinite(y));
    const floor = Math.min(0, ...finite);
    const reach = Math.max(1, ...finite) - floor;
    return outs
      .map((y, index) => {
        const x = place(low + ((high - low) * index) / (outs.length - 1));
        return `${x.toFixed(1)},${(H - ((y - floor) / reach) * H).toFixed(1)}`;
      })
      .join(' ');
  });
  const span = $derived(
    handles.length === 2 && handles[0] && handles[1]
      ? [Math.min(handles[0].value, handles[1].value), Math.max(handles[0].value, handles[1].value)]
      : null,
  );
  const clipped = $derived.by(() => {
    const ends = span ?? (handles[0] ? [handles[0].value, handles[0].value] : null);
    if (!ends || varies || !values.count) return null;
    const size = (values.high - values.low) / values.counts.length;
    let below = 0;
    let above = 0;
    values.counts.forEach((count, index) => {
      const middle = values.low + size * (index + 0.5);
      if (middle < (ends[0] ?? 0)) below += count;
      else if (middle > (ends[1] ?? 0)) above += count;
    });
    return { below: below / values.count, above: above / values.count };
  });

  let breadth = $state(200);
  /** The lowest, mean and highest value, each under its place on the axis. */
  const labels = $derived(
    spread(
      [
        { at: values.low, text: shown(values.low, 2), tip: 'the lowest value that comes in' },
        { at: values.mean, text: `mean ${shown(values.mean, 2)}`, tip: 'the mean of what comes in' },
        { at: values.high, text: shown(values.high, 2), tip: 'the highest value that comes in' },
      ].map(({ at, ...label }) => ({ ...label, at: (place(at) / W) * breadth })),
      breadth,
    ),
  );

  /** Set both ends of a range to the data, the way round it was. */
  function fit(low: number, high: number) {
    const [first, second] = handles;
    if (!first || !second) return;
    const down = first.value > second.value;
    onfit?.([
      { name: first.name, value: tidy(down ? high : low) },
      { name: second.name, value: tidy(down ? low : high) },
    ]);
  }

  function value(event: PointerEvent & { currentTarget: SVGElement }): number {
    const box = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
    if (!box) return 0;
    return tidy(axis[0] + ((event.clientX - box.left) / box.width) * (axis[1] - axis[0]));
  }
  function down(event: PointerEvent & { currentTarget: SVGElement }, name: string) {
    event.currentTarget.setPointerCapture(event.pointerId);
    frozen = axis;
    held = name;
    event.stopPropagation();
  }
  function move(event: PointerEvent & { currentTarget: SVGElement }, name: string) {
    if (held === name) oninput?.(name, value(event));
  }
  function up(event: PointerEvent & { currentTarget: SVGElement }, name: string) {
    if (held !== name) return;
    held = '';
    frozen = null;
    onchange?.(name, value(event));
  }
  function key(event: KeyboardEvent, handle: HandleOf) {
    const sign = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
    if (!sign) return;
    event.preventDefault();
    onchange?.(handle.name, tidy(handle.value + (sign * (axis[1] - axis[0])) / 100));
  }
</script>

<div class="histogram">
  <svg viewBox="0 0 {W} {H + 7}" preserveAspectRatio="none" role="group" aria-label="values coming in">
    {#if span}
      <rect
        x={place(span[0] ?? 0)}
        y="0"
        width={Math.max(place(span[1] ?? 0) - place(span[0] ?? 0), 0)}
        height={H}
        class="span"
      />
    {/if}
    {#each bars as bar, index (index)}
      <rect
        x={bar.x}
        y={H - bar.height}
        width={bar.width}
        height={bar.height}
        class="bar"
        class:below={bar.below}
      />
    {/each}
    <line x1="0" x2={W} y1={H} y2={H} class="base" />
    {#if line}<polyline points={line} class="response" vector-effect="non-scaling-stroke" />{/if}
    {#each handles as handle (handle.name)}
      <g
        class="handle"
        class:held={held === handle.name}
        role="slider"
        tabindex="0"
        aria-label={handle.name.replace('_', ' ')}
        aria-valuenow={handle.value}
        data-handle={handle.name}
        onpointerdown={(event) => down(event, handle.name)}
        onpointermove={(event) => move(event, handle.name)}
        onpointerup={(event) => up(event, handle.name)}
        onkeydown={(event) => key(event, handle)}
      >
        <rect x={place(handle.value) - 7} y="0" width="14" height={H + 7} fill="transparent" />
        <line
          x1={place(handle.value)}
          x2={place(handle.value)}
          y1="0"
          y2={H}
          vector-effect="non-scaling-stroke"
        />
        <circle cx={place(handle.value)} cy={H} r="5" />
      </g>
    {/each}
  </svg>
  <div class="ends mono" bind:clientWidth={breadth}>
    {#each labels as label, index (index)}
      <span style:left="{label.left}px" title={label.tip}>{label.text}</span>
    {/each}
  </div>
  <div class="note">
    <span>
      {#if values.nan}<b class="nan" title="shown hatched in rose">{values.nan} no number</b>{/if}
      {#if values.not_finite > values.nan}<b class="infinite" title="shown hatched in amber and blue"
          >{values.not_finite - values.nan} infinite</b
        >{/if}
      {#if clipped && !values.not_finite}outside the range: {percent(clipped.below)} below, {percent(
          clipped.above,
        )} above
      {:else if values.negative}<span class="below" title="shown in cool blue"
          >{percent(values.negative / values.count)} negative</span
        >{:else}&nbsp;{/if}
    </span>
    {#if span && onfit}
      <span class="fit">
        <button class="plain" title="set the range to all values" onclick={() => fit(values.low, values.high)}
          >fit all</button
        >
        <button
          class="plain"
          title="set the range to the 2nd to 98th percentile"
          onclick={() => fit(values.inner_low, values.inner_high)}>fit without outliers</button
        >
      </span>
    {/if}
  </div>
</div>

<style>
  svg {
    display: block;
    width: 100%;
    height: 46px;
    overflow: visible;
  }
  .bar {
    fill: var(--bins);
  }
  .bar.below {
    fill: var(--bins-lit);
  }
  .response {
    fill: none;
    stroke: var(--text-soft);
    stroke-width: 1.2;
    pointer-events: none;
  }
  span.below {
    color: var(--named);
  }
  .note b.infinite {
    color: var(--amber);
  }
  .span {
    fill: var(--amber-soft);
  }
  .base {
    stroke: var(--line);
  }
  .handle {
    cursor: ew-resize;
    touch-action: none;
  }
  .handle line {
    stroke: var(--amber);
    stroke-width: 1.5;
  }
  .handle circle {
    fill: var(--amber);
    stroke: var(--ground);
  }
  .handle.held circle,
  .handle:hover circle {
    fill: var(--amber-bright);
  }
  .ends {
    position: relative;
    height: 16px;
    font-size: 12px;
    color: var(--quiet);
  }
  .ends span {
    position: absolute;
    white-space: nowrap;
  }
  .note {
    font-size: 12px;
    line-height: 14px;
    color: var(--faint);
  }
  .note {
    display: flex;
    flex-direction: column;
    gap: 2px;
  }
  .fit {
    display: flex;
    gap: 12px;
  }
  .fit button {
    min-height: 20px;
  }
  .fit button:hover {
    color: var(--amber);
  }
  .note b {
    color: var(--bad);
    font-weight: 600;
  }
</style>
