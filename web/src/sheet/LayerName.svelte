<!-- A layer's name, whether it is on, how much of it counts; dragged by its grip, it changes places. -->
<script lang="ts">
  import type { Layer } from '../api/client';
  import { bench } from '../state/bench.svelte';
  import Icon from '../fields/Icon.svelte';
  import Choice from '../fields/Choice.svelte';
  import KeyPin from '../fields/KeyPin.svelte';
  import { KeyedNumber } from '../state/keyedNumber.svelte';
  import DragNumber from '../fields/DragNumber.svelte';
  import NumberOrNamed from '../fields/NumberOrNamed.svelte';
  import { shot } from '../state/shot.svelte';

  type Props = {
    layer: Layer;
    removable: boolean;
    onmove: (by: 1 | -1) => void;
    ondrag: (dragging: boolean) => void;
    onrename: (name: string) => void;
    onswitch: () => void;
    /** JSON Pointer of its opacity, by positions. */
    path: string;
    onopacity: (share: Layer['opacity'], done: boolean) => void;
    oncopy: () => void;
    onremove: () => void;
  };
  let { layer, path, removable, onmove, ondrag, onrename, onswitch, onopacity, oncopy, onremove }: Props =
    $props();
  const keyed = new KeyedNumber(
    () => path,
    () => (typeof layer.opacity === 'number' ? layer.opacity : 1),
  );
  const set = (share: number, done: boolean) =>
    keyed.set(share, `opacity of ${layer.name}`, done) || onopacity(share, done);

  let naming = $state(false);
  const named = $derived(
    (shot.document?.numbers ?? [])
      .filter((each) => each.look === null || each.look === bench.look)
      .map((each) => ({ value: each.name, text: `number ${each.name}` })),
  );

  function rename(name: string) {
    naming = false;
    if (name.trim() && name !== layer.name) onrename(name.trim());
  }
</script>

<div class="name">
  <div class="line">
    <span
      class="grip"
      role="button"
      tabindex="0"
      draggable="true"
      title="drag to reorder; arrow keys move it too"
      aria-label="reorder {layer.name}"
      ondragstart={() => ondrag(true)}
      ondragend={() => ondrag(false)}
      onkeydown={(event) => {
        const by = { ArrowUp: 1 as const, ArrowDown: -1 as const }[event.key];
        if (!by) return;
        event.preventDefault();
        onmove(by);
      }}
    ></span>
    {#if naming}
      <!-- svelte-ignore a11y_autofocus -->
      <input
        value={layer.name}
        aria-label="layer's name"
        autofocus
        onblur={(event) => rename(event.currentTarget.value)}
        onkeydown={(event) => {
          event.stopPropagation();
          if (event.key === 'Enter') rename(event.currentTarget.value);
          if (event.key === 'Escape') naming = false;
        }}
      />
    {:else}
      <button
        class="plain title"
        title="open; double-click or F2 renames"
        onclick={() => bench.openWhere(layer)}
        onkeydown={(event) => event.key === 'F2' && (naming = true)}
        ondblclick={() => (naming = true)}>{layer.name}</button
      >
    {/if}
  </div>
  <div class="line under">
    <button
      class="plain switch"
      role="switch"
      aria-checked={layer.on}
      aria-label="{layer.name} on or off"
      title={layer.on ? 'shown; click to leave this layer out' : 'left out; click to show this layer'}
      onclick={onswitch}><Icon name={layer.on ? 'eye' : 'eye off'} /></button
    >
    {#if typeof layer.opacity === 'number'}
      <DragNumber
        value={Math.round(keyed.now * 100)}
        label="opacity of {layer.name}"
        unit="%"
        low={0}
        high={100}
        whole
        oninput={(value) => set(value / 100, false)}
        onchange={(value) => set(value / 100, true)}
      />
      <KeyPin
        tracked={keyed.found !== null}
        here={keyed.key >= 0}
        label="opacity of {layer.name}"
        onclick={() => keyed.pin(`opacity of ${layer.name}`)}
      />
      {#if named.length}
        <Choice
          named
          value=""
          label="what stands for the opacity of {layer.name}"
          title="a named number"
          options={[{ value: '', text: '▾' }, ...named]}
          onchange={(number) => number && onopacity({ number, times: 1, plus: 0 }, true)}
        />
      {/if}
    {:else}
      <NumberOrNamed
        value={layer.opacity}
        label="opacity of {layer.name}"
        unit=""
        low={0}
        high={1}
        whole={false}
        offers
        oninput={(value) => onopacity(value as Layer['opacity'], false)}
        onchange={(value) => onopacity(value as Layer['opacity'], true)}
      />
    {/if}
    <button class="plain remove" title="copy the layer, to paste it in another look or shot" onclick={oncopy}
      >copy</button
    >
    {#if removable}
      <button
        class="plain remove"
        title="delete the layer"
        aria-label="delete layer {layer.name}"
        onclick={onremove}>×</button
      >
    {/if}
  </div>
</div>

<style>
  .name {
    min-width: 0;
  }
  .line {
    display: flex;
    gap: 6px;
    align-items: baseline;
  }
  .under {
    color: var(--quiet);
    margin: 4px 0 0 14px;
    gap: 0 8px;
    flex-wrap: wrap;
    align-items: center;
  }
  .title {
    font-weight: 600;
    overflow-wrap: anywhere;
  }
  :global(.row.current) .title {
    color: var(--amber);
  }
  :global(.row.off) .title {
    color: var(--faint);
  }
  .grip::before {
    content: '⋮⋮';
  }
  .grip {
    cursor: grab;
    color: var(--faint);
    letter-spacing: -2px;
  }
  .switch[aria-checked='true'] {
    color: var(--text);
  }
  .switch:hover,
  .remove:hover {
    color: var(--amber);
  }
  input {
    width: 82px;
    background: var(--ground);
    color: var(--text);
    border: 1px solid var(--amber);
    font: inherit;
  }
</style>
