<!-- A ramp's stops on a strip: drag them along it, add one by clicking the strip, take the chosen one away. -->
<script lang="ts">
  import type { Json } from '../api/client';
  import DragNumber from './DragNumber.svelte';
  import InputField from './InputField.svelte';
  import { tidy } from './numbers';

  type Stop = { at: number; value: Json };
  type Props = {
    stops: Stop[];
    interpolation: string;
    oninput: (stops: Stop[]) => void;
    onchange: (stops: Stop[]) => void;
    /** Open the recipe of a stop. */
    onopen: (index: number) => void;
  };
  let { stops, interpolation, oninput, onchange, onopen }: Props = $props();

  let chosen = $state(0);
  let held = $state(-1);
  let frozen: [number, number] | null = $state(null);
  const axis = $derived.by((): [number, number] => {
    if (frozen) return frozen;
    const low = Math.min(...stops.map((stop) => stop.at));
    const high = Math.max(...stops.map((stop) => stop.at));
    const margin = (high - low || 1) * 0.06;
    return [low - margin, high + margin];
  });
  const place = (at: number) => ((at - axis[0]) / (axis[1] - axis[0])) * 100;
  const coded = (x: number) => Math.round(Math.min(Math.max(x, 0), 1) ** (1 / 2.2) * 255);
  const css = (value: Json) =>
    Array.isArray(value)
      ? `rgb(${value.map((each) => coded(Number(each))).join(' ')})`
      : typeof value !== 'number'
        ? 'var(--named-faint)' // it differs from point to point
        : `rgb(${Array(3)
            .fill(Math.round(Math.min(Math.max(value, 0), 1) * 255))
            .join(' ')})`;
  const hard = $derived(interpolation === 'constant');
  const band = $derived(
    `linear-gradient(90deg, ${stops
      .flatMap((stop, index) => {
        const here = `${css(stop.value)} ${place(stop.at)}%`;
        const next = stops[index + 1];
        return hard && next ? [here, `${css(stop.value)} ${place(next.at)}%`] : [here];
      })
      .join(', ')})`,
  );
  const coloured = $derived(stops.some((stop) => Array.isArray(stop.value)));
  /** From numbers to greys, or from colours to their luminance (Rec.709). */
  function turn() {
    onchange(
      stops.map((each) => {
        if (typeof each.value === 'object' && !Array.isArray(each.value)) return each;
        if (!coloured) return { ...each, value: Array(3).fill(Number(each.value)) as number[] };
        const [r, g, b] = Array.isArray(each.value) ? each.value : Array(3).fill(each.value);
        return {
          ...each,
          value: tidy(0.2126 * Number(r) + 0.7152 * Number(g) + 0.0722 * Number(b)),
        };
      }),
    );
  }
  const stop = $derived(stops[Math.min(chosen, stops.length - 1)]);

  const changed = (index: number, next: Partial<Stop>) =>
    stops.map((each, i) => (i === index ? { ...each, ...next } : each));
  const sorted = (list: Stop[]) => [...list].sort((a, b) => a.at - b.at);

  function at(event: PointerEvent & { currentTarget: HTMLElement }): number {
    const box = (event.currentTarget.closest('.strip') as HTMLElement).getBoundingClientRect();
    return tidy(axis[0] + ((event.clientX - box.left) / box.width) * (axis[1] - axis[0]));
  }
  function between(index: number, wanted: number): number {
    const low = stops[index - 1]?.at ?? -Infinity;
    const high = stops[index + 1]?.at ?? Infinity;
    return Math.min(Math.max(wanted, low), high);
  }
  function add(event: PointerEvent & { currentTarget: HTMLElement }) {
    const where = at(event);
    const after = stops.findIndex((each) => each.at > where);
    const near = stops[after < 0 ? stops.length - 1 : Math.max(after - 1, 0)];
    const next = sorted([...stops, { at: where, value: near?.value ?? 0 }]);
    chosen = next.findIndex((each) => each.at === where);
    onchange(next);
  }
</script>

<div class="ramp">
  <div
    class="strip"
    role="group"
    aria-label="stops"
    style:background={band}
    ondblclick={(event) => add(event as unknown as PointerEvent & { currentTarget: HTMLElement })}
    title="double-click adds a stop"
  >
    {#each stops as each, index (index)}
      <button
        class="plain stop"
        class:chosen={index === chosen}
        style:left="{place(each.at)}%"
        aria-label="stop {index + 1}"
        onpointerdown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          chosen = index;
          held = index;
          frozen = axis;
        }}
        onpointermove={(event) =>
          held === index && oninput(changed(index, { at: between(index, at(event)) }))}
        onpointerup={(event) => {
          if (held !== index) return;
          held = -1;
          const next = between(index, at(event));
          frozen = null;
          if (Math.abs(next - each.at) > 0 || next !== each.at) onchange(changed(index, { at: next }));
          else onchange(stops);
        }}
      ></button>
    {/each}
  </div>
  <button class="plain turn" onclick={turn}>{coloured ? 'colours ▸ numbers' : 'numbers ▸ colours'}</button>
  {#if stop}
    <div class="row">
      <span
        >at <DragNumber
          value={stop.at}
          label="place of the stop"
          oninput={(next) => oninput(changed(chosen, { at: between(chosen, next) }))}
          onchange={(next) => onchange(changed(chosen, { at: between(chosen, next) }))}
        /></span
      >
      <InputField
        value={stop.value}
        label="value of the stop"
        unit=""
        kinds="all"
        oninput={(value) => oninput(changed(chosen, { value }))}
        onchange={(value) => onchange(changed(chosen, { value }))}
        onopen={() => onopen(Math.min(chosen, stops.length - 1))}
      />
      {#if stops.length > 1}
        <button
          class="plain"
          aria-label="take the stop away"
          onclick={() => {
            onchange(stops.filter((_, i) => i !== chosen));
            chosen = 0;
          }}>×</button
        >
      {/if}
    </div>
  {/if}
</div>

<style>
  .strip {
    position: relative;
    height: 14px;
    border: 1px solid var(--line);
    margin: 2px 0 8px;
    cursor: copy;
  }
  .stop {
    position: absolute;
    top: 8px;
    width: 9px;
    height: 11px;
    margin-left: -5px;
    background: var(--quiet);
    clip-path: polygon(50% 0, 100% 45%, 100% 100%, 0 100%, 0 45%);
    cursor: ew-resize;
    touch-action: none;
  }
  .stop.chosen {
    background: var(--amber);
  }
  .turn {
    color: var(--quiet);
    font-size: 12px;
  }
  .turn:hover {
    color: var(--amber);
  }
  .row {
    display: flex;
    flex-wrap: wrap;
    justify-content: space-between;
    align-items: center;
    color: var(--quiet);
    gap: 6px;
    white-space: nowrap;
  }
</style>
