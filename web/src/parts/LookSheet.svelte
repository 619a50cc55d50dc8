<!-- The look as a table: rows are layers, the top row covering those below; columns are where it lies and what it changes. -->
<script lang="ts">
  import type { Channel, Layer, Operation } from '../api/client';
  import { bench } from '../state/bench.svelte';
  import { live } from '../state/live.svelte';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';
  import Choice from './Choice.svelte';
  import DragNumber from './DragNumber.svelte';
  import { percent, shown } from './numbers';

  const GROUPS: Channel['channel_group'][] = ['colour', 'finish', 'glow', 'through', 'form'];

  let dragged = $state<number | null>(null);
  let over = $state<number | null>(null);
  let naming = $state<number | null>(null);
  let adding = $state('');

  const found = $derived(shot.look(bench.look));
  const layers = $derived(found ? found.look.layers.map((layer, index) => ({ layer, index })).reverse() : []);
  const worn = $derived(
    (shot.document?.objects ?? []).filter((item) => item.look === bench.look).map((item) => item.name),
  );
  const at = (index: number, ...more: (string | number)[]) =>
    pointer('looks', found?.index ?? 0, 'layers', index, ...more);
  const commit = (operations: Operation[], label: string) => void shot.commit(operations, label);

  const inGroup = (layer: Layer, group: string) =>
    shot.vocabulary.channels.filter(
      (channel) => channel.channel_group === group && channel.name in layer.channels,
    );
  const free = (layer: Layer, group: string) =>
    shot.vocabulary.channels.filter(
      (channel) => channel.channel_group === group && !(channel.name in layer.channels),
    );
  const isOpen = (layer: Layer, channel: string) =>
    bench.place[0] === 'look' &&
    bench.place[1] === layer.name &&
    (channel === 'where' ? bench.place[2] === 'where' : bench.place[3] === channel);
  const heldOf = (index: number, name: string): string => {
    const held = live.cells[`${index}/${name}`]?.held;
    return held ? `held at ${shown(held.at, 3)} (asked for ${shown(held.asked, 3)})` : '';
  };
  const meanOf = (index: number, name: string): string => {
    const mean = live.cells[`${index}/${name}`]?.mean;
    if (!mean) return '';
    return mean.length === 3
      ? mean.map((x) => shown(x, 2).replace(/^0\./, '.')).join(' ')
      : shown(mean[0] ?? 0, 2);
  };
  const pictureOf = (layer: Layer, index: number, channels: Channel[]) => {
    const open = channels.find((channel) => isOpen(layer, channel.name)) ?? channels[0];
    return open ? live.cells[`${index}/${open.name}`]?.picture : undefined;
  };
  const sign = (layer: Layer, name: string) =>
    ({ multiply: '× ', add: '+ ', lighter: '↑ ', darker: '↓ ', replace: '' })[
      layer.channels[name]?.blend ?? 'replace'
    ];

  function addLayer() {
    if (!found) return;
    const names = new Set(found.look.layers.map((layer) => layer.name));
    let name = 'new layer';
    for (let n = 2; names.has(name); n++) name = `new layer ${n}`;
    commit([{ op: 'add', path: at(found.look.layers.length), value: { name } }], `add ${name}`);
    bench.open(['look', name, 'where']);
  }
  function addChannel(layer: Layer, index: number, channel: Channel) {
    adding = '';
    const value = channel.width === 3 ? [...channel.default] : (channel.default[0] ?? 0);
    const recipe = { steps: [{ op: 'constant', params: { value } }] };
    commit(
      [{ op: 'add', path: at(index, 'channels', channel.name), value: { recipe } }],
      `${layer.name}: add ${channel.label}`,
    );
    bench.open(['look', layer.name, 'channels', channel.name]);
  }
  function drop(target: number) {
    const from = dragged;
    dragged = null;
    over = null;
    if (from === null || from === target) return;
    commit([{ op: 'move', from: at(from), path: at(target) }], `move ${found?.look.layers[from]?.name}`);
  }
  function rename(layer: Layer, index: number, name: string) {
    naming = null;
    if (!name.trim() || name === layer.name) return;
    commit([{ op: 'replace', path: at(index, 'name'), value: name.trim() }], `rename ${layer.name}`);
    if (bench.place[1] === layer.name)
      bench.open([...bench.place.slice(0, 1), name.trim(), ...bench.place.slice(2)]);
  }
</script>

<section class="sheet" aria-label="look sheet">
  <header>
    <Choice
      value={bench.look}
      label="look"
      options={(shot.document?.looks ?? []).map((look) => ({ value: look.name, text: look.name }))}
      onchange={(name) => bench.openLook(name)}
    />
    <span class="worn">{worn.length ? `worn by ${worn.join(', ')}` : 'worn by nothing'}</span>
    <button class="plain add" onclick={addLayer}>+ layer</button>
  </header>
  <div class="grid head">
    <span></span><span>where</span>
    {#each GROUPS as group (group)}<span>{group}</span>{/each}
  </div>
  <div class="rows">
    {#each layers as { layer, index } (layer.name)}
      <div
        class="grid row"
        class:off={!layer.on}
        class:current={bench.place[0] === 'look' && bench.place[1] === layer.name}
        class:over={over === index && dragged !== index}
        data-layer={layer.name}
        role="group"
        aria-label="layer {layer.name}"
        ondragover={(event) => {
          if (dragged === null) return;
          event.preventDefault();
          over = index;
        }}
        ondragleave={() => over === index && (over = null)}
        ondrop={(event) => {
          event.preventDefault();
          drop(index);
        }}
      >
        <div class="name">
          <div class="line">
            <span
              class="grip"
              role="button"
              tabindex="0"
              draggable="true"
              title="drag to reorder; arrow keys move it too"
              aria-label="reorder {layer.name}"
              ondragstart={() => (dragged = index)}
              ondragend={() => ((dragged = null), (over = null))}
              onkeydown={(event) => {
                const to = index + (event.key === 'ArrowUp' ? 1 : event.key === 'ArrowDown' ? -1 : 0);
                if (to === index || to < 0 || to >= layers.length) return;
                event.preventDefault();
                commit([{ op: 'move', from: at(index), path: at(to) }], `move ${layer.name}`);
              }}>⋮⋮</span
            >
            {#if naming === index}
              <!-- svelte-ignore a11y_autofocus -->
              <input
                value={layer.name}
                aria-label="layer's name"
                autofocus
                onblur={(event) => rename(layer, index, event.currentTarget.value)}
                onkeydown={(event) => {
                  event.stopPropagation();
                  if (event.key === 'Enter') rename(layer, index, event.currentTarget.value);
                  if (event.key === 'Escape') naming = null;
                }}
              />
            {:else}
              <button
                class="plain title"
                title="open; double-click renames"
                onclick={() => bench.open(['look', layer.name, 'where'])}
                ondblclick={() => (naming = index)}>{layer.name}</button
              >
            {/if}
          </div>
          <div class="line under">
            <button
              class="plain switch"
              role="switch"
              aria-checked={layer.on}
              aria-label="{layer.name} on or off"
              onclick={() =>
                commit(
                  [{ op: 'replace', path: at(index, 'on'), value: !layer.on }],
                  `${layer.name} ${layer.on ? 'off' : 'on'}`,
                )}>{layer.on ? 'on' : 'off'}</button
            >
            <DragNumber
              value={Math.round(layer.opacity * 100)}
              label="opacity of {layer.name}"
              unit="%"
              low={0}
              high={100}
              whole
              oninput={(value) =>
                shot.preview([{ op: 'replace', path: at(index, 'opacity'), value: value / 100 }])}
              onchange={(value) =>
                commit(
                  [{ op: 'replace', path: at(index, 'opacity'), value: value / 100 }],
                  `${layer.name}: opacity ${value} %`,
                )}
            />
            {#if layers.length > 1}
              <button
                class="plain remove"
                title="take the layer away"
                aria-label="take layer {layer.name} away"
                onclick={() => commit([{ op: 'remove', path: at(index) }], `take ${layer.name} away`)}
                >×</button
              >
            {/if}
          </div>
        </div>
        <div class="cell">
          <button
            class="plain thumb"
            class:open={isOpen(layer, 'where')}
            aria-label="{layer.name}, where"
            onclick={() => bench.open(['look', layer.name, 'where'])}
          >
            {#if layer.where && live.cells[`${index}/where`]}
              <img src={live.cells[`${index}/where`]?.picture} alt="mask of {layer.name}" />
              <span class="tag mono">{percent(live.cells[`${index}/where`]?.mean[0] ?? 0)}</span>
            {:else}<span class="everywhere">{layer.where ? '' : 'all'}</span>{/if}
          </button>
        </div>
        {#each GROUPS as group (group)}
          {@const channels = inGroup(layer, group)}
          {@const rest = free(layer, group)}
          {@const key = `${index}/${group}`}
          <div class="cell">
            {#if channels.length}
              <button
                class="plain thumb"
                class:open={channels.some((channel) => isOpen(layer, channel.name))}
                aria-label="{layer.name}, {group}"
                onclick={() => bench.open(['look', layer.name, 'channels', channels[0]?.name ?? ''])}
              >
                {#if pictureOf(layer, index, channels)}<img
                    src={pictureOf(layer, index, channels)}
                    alt="{group} of {layer.name}"
                  />{/if}
              </button>
              {#each channels as channel (channel.name)}
                <button
                  class="plain chip"
                  class:open={isOpen(layer, channel.name)}
                  class:held={heldOf(index, channel.name) !== ''}
                  title="{channel.label}: {sign(layer, channel.name)}{meanOf(index, channel.name)} {heldOf(
                    index,
                    channel.name,
                  )}"
                  onclick={() => bench.open(['look', layer.name, 'channels', channel.name])}
                  ><span>{channel.label}</span><span class="mono"
                    >{sign(layer, channel.name)}{(live.cells[`${index}/${channel.name}`]?.mean.length ??
                      3) === 1
                      ? meanOf(index, channel.name)
                      : ''}</span
                  ></button
                >
              {/each}
            {/if}
            {#if rest.length}
              <span class="adder">
                <button
                  class="plain dot"
                  aria-label="add {group} to {layer.name}"
                  title="add a value"
                  onclick={() => (adding = adding === key ? '' : key)}>{channels.length ? '+' : '·'}</button
                >
                {#if adding === key}
                  <span class="choices" role="menu">
                    {#each rest as channel (channel.name)}
                      <button
                        class="plain"
                        role="menuitem"
                        title={channel.purpose}
                        onclick={() => addChannel(layer, index, channel)}>{channel.label}</button
                      >
                    {/each}
                  </span>
                {/if}
              </span>
            {/if}
          </div>
        {/each}
      </div>
    {/each}
  </div>
</section>

<svelte:window
  onpointerdown={(event) => adding && !(event.target as HTMLElement).closest?.('.adder') && (adding = '')}
/>

<style>
  .sheet {
    display: flex;
    flex-direction: column;
    min-height: 0;
    height: 100%;
    border-left: 1px solid var(--line);
    padding: 8px 10px 0 12px;
  }
  header {
    display: flex;
    gap: 10px;
    align-items: baseline;
    padding-bottom: 4px;
  }
  header :global(select) {
    font-weight: 600;
    font-size: 13px;
  }
  .chip.held :global(.mono) {
    text-decoration: underline dotted var(--amber);
  }
  .worn {
    color: var(--quiet);
    flex: 1;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .add {
    color: var(--quiet);
  }
  .add:hover {
    color: var(--amber);
  }
  .grid {
    display: grid;
    grid-template-columns: minmax(80px, 1fr) 56px 72px 86px minmax(56px, 0.6fr) minmax(56px, 0.6fr) minmax(
        44px,
        0.5fr
      );
    gap: 6px;
  }
  .head {
    color: var(--quiet);
    padding: 2px 0 4px;
    border-bottom: 1px solid var(--line);
  }
  .rows {
    overflow: auto;
    flex: 1;
    min-height: 0;
  }
  .row {
    padding: 7px 0;
    border-bottom: 1px solid var(--line);
    position: relative;
  }
  .row.current {
    background: linear-gradient(90deg, #1b2028, #1b202800);
  }
  .row.current .title {
    color: var(--amber);
  }
  .row.over {
    box-shadow: inset 0 2px var(--amber);
  }
  .row.off .cell,
  .row.off .title {
    opacity: 0.4;
  }
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
    gap: 8px;
  }
  .title {
    font-weight: 600;
    overflow-wrap: anywhere;
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
  .name input {
    width: 82px;
    background: var(--ground);
    color: var(--text);
    border: 1px solid var(--amber);
    font: inherit;
  }
  .cell {
    min-width: 0;
    position: relative;
  }
  .thumb {
    position: relative;
    display: block;
    width: min(64px, 100%);
    height: 36px;
    background: #0d1014;
    overflow: hidden;
  }
  .thumb.open,
  .thumb:hover {
    box-shadow: 0 0 0 1.5px var(--amber);
  }
  img {
    width: 100%;
    height: 100%;
    object-fit: cover;
    display: block;
  }
  .tag {
    position: absolute;
    right: 1px;
    bottom: 1px;
    background: #12151acc;
    padding: 0 3px;
    font-size: 10px;
    line-height: 13px;
  }
  .everywhere {
    display: grid;
    place-items: center;
    height: 100%;
    color: var(--faint);
  }
  .chip {
    display: flex;
    /* Where a name and its number are too wide together, the number goes below. */
    flex-wrap: wrap;
    justify-content: space-between;
    column-gap: 4px;
    width: 100%;
    font-size: 11px;
    line-height: 15px;
    color: var(--quiet);
    white-space: nowrap;
  }
  .chip span:first-child {
    /* Names of several words take a second line rather than losing what tells them apart. */
    white-space: normal;
    text-align: left;
    line-height: 12px;
    min-width: min-content;
  }
  .chip span:last-child {
    margin-left: auto;
    line-height: 13px;
  }
  .chip:hover,
  .chip.open {
    color: var(--amber);
  }
  .dot {
    width: 18px;
    color: var(--faint);
    text-align: center;
    line-height: 14px;
  }
  .dot:hover {
    color: var(--amber);
  }
  .adder {
    position: relative;
  }
  .choices {
    position: absolute;
    right: 0;
    top: 100%;
    z-index: 20;
    background: var(--raised);
    border: 1px solid var(--line);
    box-shadow: 0 8px 24px #0009;
    padding: 4px 0;
    width: max-content;
  }
  .cell:nth-child(-n + 4) .choices {
    right: auto;
    left: 0;
  }
  .choices button {
    display: block;
    padding: 4px 10px;
  }
  .choices button:hover {
    background: var(--amber-soft);
  }
</style>
