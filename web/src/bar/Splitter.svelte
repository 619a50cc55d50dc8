<!-- A border that can be dragged, or moved by arrow keys; double-click puts it back. -->
<script lang="ts">
  type Props = {
    /** Which way the border lies. */
    way: 'upright' | 'level';
    label: string;
    value: number;
    low: number;
    high: number;
    /** How much an arrow key moves it. */
    step: number;
    /** The value for a place of the hand, in pixels of the window. */
    at: (x: number, y: number) => number;
    onmove: (value: number | null) => void;
  };
  let { way, label, value, low, high, step, at, onmove }: Props = $props();

  let held = $state(false);
  const fitted = (next: number) => Math.min(Math.max(next, low), high);
</script>

<!-- A separator that can be focused is a control (WAI-ARIA 1.2). -->
<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
<div
  class="splitter {way}"
  class:held
  role="separator"
  tabindex="0"
  aria-label={label}
  aria-orientation={way === 'upright' ? 'vertical' : 'horizontal'}
  aria-valuenow={Math.round(value * 100) / 100}
  aria-valuemin={low}
  aria-valuemax={high}
  title="{label}: drag, or arrow keys; double-click puts it back"
  onpointerdown={(event) => {
    held = true;
    event.currentTarget.setPointerCapture(event.pointerId);
  }}
  onpointermove={(event) => held && onmove(fitted(at(event.clientX, event.clientY)))}
  onpointerup={() => (held = false)}
  onpointercancel={() => (held = false)}
  ondblclick={() => onmove(null)}
  onkeydown={(event) => {
    const by = { ArrowLeft: -1, ArrowUp: -1, ArrowRight: 1, ArrowDown: 1 }[event.key];
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    onmove(fitted(value + by * step));
  }}
></div>

<style>
  .splitter {
    position: relative;
    background: var(--line);
    z-index: 5;
    touch-action: none;
  }
  /* Wide enough to be met by a hand, thin enough not to be seen as a bar. */
  .splitter::after {
    content: '';
    position: absolute;
  }
  .upright {
    width: 1px;
    cursor: col-resize;
  }
  .upright::after {
    inset: 0 -4px;
  }
  .level {
    height: 1px;
    cursor: row-resize;
  }
  .level::after {
    inset: -4px 0;
  }
  .splitter:hover,
  .splitter:focus-visible,
  .held {
    background: var(--amber);
    outline: none;
    box-shadow: 0 0 0 1px var(--amber);
  }
</style>
