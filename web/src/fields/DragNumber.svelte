<!-- A number that can be dragged sideways, stepped with the arrow keys, and typed. -->
<script lang="ts">
  import { clamp, shown, tidy } from './numbers';
  import { typed } from './typed';

  type Props = {
    value: number;
    label: string;
    unit?: string;
    low?: number | null;
    high?: number | null;
    whole?: boolean;
    oninput?: (value: number) => void;
    onchange: (value: number) => void;
  };
  let {
    value,
    label,
    unit = '',
    low = null,
    high = null,
    whole = false,
    oninput,
    onchange,
  }: Props = $props();

  let editing = $state(false);
  let text = $state('');
  let wrong = $state('');
  let start: { x: number; value: number; moved: boolean } | null = null;
  let field: HTMLInputElement | undefined = $state();

  const step = $derived(
    low !== null && high !== null && high - low <= 1000
      ? (high - low) / 300
      : Math.max(Math.abs(value), 0.2) / 120,
  );

  function fitted(next: number): number {
    return clamp(whole ? Math.round(next) : tidy(next), low, high);
  }

  function down(event: PointerEvent & { currentTarget: HTMLElement }) {
    if (event.button !== 0) return;
    start = { x: event.clientX, value, moved: false };
    event.currentTarget.setPointerCapture(event.pointerId);
  }

  function move(event: PointerEvent) {
    if (!start) return;
    const away = event.clientX - start.x;
    if (!start.moved && Math.abs(away) < 3) return;
    start.moved = true;
    const next = fitted(start.value + away * (whole ? 0.1 : step) * (event.shiftKey ? 0.1 : 1));
    if (next !== value) oninput?.(next);
  }

  function up() {
    if (start?.moved)
      onchange(value); // also where it came back to: what was tried must end
    else if (start) edit();
    start = null;
  }

  function cancel() {
    if (start?.moved) onchange(start.value);
    start = null;
  }

  function edit() {
    text = shown(value, 4);
    editing = true;
    wrong = '';
    queueMicrotask(() => field?.select());
  }

  function accept() {
    if (!editing) return;
    const found = typed(text, unit);
    if ('wrong' in found) {
      wrong = text.trim() ? found.wrong : '';
      if (wrong) return; // it stays where it is, to be mended
      editing = false;
      return;
    }
    editing = false;
    wrong = '';
    if (fitted(found.value) !== value) onchange(fitted(found.value));
  }

  function key(event: KeyboardEvent) {
    const sign = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[event.key];
    if (event.key === 'Enter') edit();
    else if (sign) onchange(fitted(value + sign * (whole ? 1 : step * 3)));
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
</script>

{#if editing}
  <!-- svelte-ignore a11y_autofocus -->
  <input
    class="mono"
    bind:this={field}
    bind:value={text}
    aria-label={label}
    autofocus
    aria-invalid={wrong !== ''}
    title={wrong || 'also with units and sums: 35 cm, 50/2'}
    oninput={() => (wrong = '')}
    onblur={() => {
      accept();
      // Who goes elsewhere leaves the number as it was.
      editing = false;
    }}
    onkeydown={(event) => {
      event.stopPropagation();
      if (event.key === 'Enter') accept();
      else if (event.key === 'Escape') editing = false;
    }}
  />{#if wrong}<span class="wrong" role="alert">{wrong}</span>{/if}
{:else}
  <span
    class="number mono"
    role="spinbutton"
    tabindex="0"
    title="{label}: drag sideways, or click to type"
    aria-label={label}
    aria-valuenow={value}
    aria-valuemin={low ?? undefined}
    aria-valuemax={high ?? undefined}
    onpointerdown={down}
    onpointermove={move}
    onpointerup={up}
    onpointercancel={cancel}
    onkeydown={key}
    >{shown(value)}{#if unit}<small>&thinsp;{unit}</small>{/if}</span
  >
{/if}

<style>
  .number {
    color: var(--amber);
    cursor: ew-resize;
    border-bottom: 1px dotted var(--amber-line);
    white-space: nowrap;
    touch-action: none;
    user-select: none;
  }
  .number:hover {
    background: var(--amber-soft);
  }
  input[aria-invalid='true'] {
    border-color: var(--bad);
    color: var(--bad);
  }
  .wrong {
    position: absolute;
    z-index: 20;
    margin: 20px 0 0 -64px;
    padding: 2px 6px;
    background: var(--raised);
    border: 1px solid var(--bad);
    color: var(--bad);
    white-space: nowrap;
  }
  small {
    font-size: 12px;
    color: var(--quiet);
  }
  input {
    width: 64px;
    height: 18px;
    padding: 0 4px;
    background: var(--ground);
    color: var(--amber);
    border: 1px solid var(--amber);
    font-size: 12px;
  }
</style>
