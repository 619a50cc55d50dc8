<!-- The look as a table: rows are layers, the top row covering those below; columns are where it lies and what it changes. -->
<script lang="ts">
  import type { Channel, Json, Layer, Operation } from '../api/client';
  import { bench } from '../state/bench.svelte';
  import { live } from '../state/live.svelte';
  import { pointer } from '../state/pointer';
  import { newId } from '../state/recipeAddress';
  import { shelf } from '../shelf/shelf.svelte';
  import { shot } from '../state/shot.svelte';
  import Choice from '../fields/Choice.svelte';
  import { percent } from '../fields/numbers';
  import { layerClipboard } from '../state/layerClipboard.svelte';
  import { LOOK, asNewLayers, removedLook, renamedLook, usesOfLook } from '../state/lookEdits';
  import { freeName } from '../state/setEdits';
  import { columns } from './columns';
  import AddLayer from './AddLayer.svelte';
  import CarriedLook from './CarriedLook.svelte';
  import LayerName from './LayerName.svelte';
  import Knobs from './Knobs.svelte';
  import LookMenu from './LookMenu.svelte';
  import PointsRow from './PointsRow.svelte';
  import RemoveLook from './RemoveLook.svelte';
  import SheetCell from './SheetCell.svelte';

  type Props = { onreview: () => void; onshelf: () => void };
  let { onreview, onshelf }: Props = $props();

  const COLUMNS: Record<Channel['domain'], Channel['channel_group'][]> = {
    surface: ['colour', 'finish', 'glow', 'through', 'form'],
    volume: ['density', 'scattering', 'glow', 'points'],
  };

  let dragged = $state<number | null>(null);
  let over = $state<number | null>(null);
  let naming = $state(false);
  let removing = $state(false);
  let field: HTMLInputElement | undefined = $state();
  $effect(() => field?.focus());

  const found = $derived(shot.look(bench.look));
  const domain = $derived(found?.look.domain ?? 'surface');
  const groups = $derived(COLUMNS[domain]);
  const layers = $derived(found ? found.look.layers.map((layer, index) => ({ layer, index })).reverse() : []);
  /** Groups in which a layer sets anything, itself or by the look that it carries. */
  const filled = $derived(
    new Set(
      shot.vocabulary.channels
        .filter((channel) =>
          layers.some(({ layer, index }) =>
            layer.look ? `${index}/${channel.name}` in live.cells : channel.name in layer.channels,
          ),
        )
        .map((channel) => channel.channel_group),
    ),
  );
  const template = $derived(columns(groups, filled));
  const newer = $derived(shelf.newer(found?.look.shelf));
  const worn = $derived(
    shot.document
      ? usesOfLook(shot.document, bench.look)
          .filter((use) => use.how === 'worn' || use.how === 'filled')
          .map((use) => use.where)
      : [],
  );
  /** What may take its place: a look of the same domain. */
  const others = $derived(
    (shot.document?.looks ?? [])
      .filter((look) => look.domain === domain && look.name !== bench.look)
      .map((look) => look.name),
  );
  const at = (index: number, ...more: (string | number)[]) =>
    pointer('looks', found?.index ?? 0, 'layers', index, ...more);
  const commit = (operations: Operation[], label: string) => void shot.commit(operations, label);
  const isCurrent = (layer: Layer) => bench.opened?.layer?.id === layer.id;

  function addLayer() {
    if (!found) return;
    const names = new Set(found.look.layers.map((layer) => layer.name));
    const id = newId();
    let name = 'new layer';
    for (let n = 2; names.has(name); n++) name = `new layer ${n}`;
    commit([{ op: 'add', path: at(found.look.layers.length), value: { id, name } }], `add ${name}`);
    bench.openWhere({ id });
  }
  function carry(name: string) {
    if (!found) return;
    const taken = found.look.layers.map((layer) => layer.name);
    const value = { id: newId(), name: freeName(name, taken), look: { look: name } };
    commit([{ op: 'add', path: at(found.look.layers.length), value }], `put ${name} on it as a layer`);
  }
  function paste() {
    if (!found) return;
    const taken = found.look.layers.map((layer) => layer.name);
    commit(
      asNewLayers(layerClipboard.layers, taken).map((value) => ({
        op: 'add',
        path: at('-' as never),
        value,
      })),
      'paste layers',
    );
  }
  function renameLook(text: string) {
    if (!naming || !found || !shot.document) return;
    naming = false;
    const name = text.trim();
    if (!name || name === found.look.name) return;
    const patch = renamedLook(shot.document, found.index, name);
    commit(patch, `rename ${found.look.name} to ${name}`);
    bench.look = String(patch[0]?.value ?? name);
  }
  function removeLook(instead: string) {
    removing = false;
    if (!found || !shot.document) return;
    commit(removedLook(shot.document, found.index, instead), `delete the look ${found.look.name}`);
    bench.openLook(instead);
  }
  function addChannel(layer: Layer, index: number, channel: Channel) {
    const value = channel.width === 3 ? [...channel.default] : (channel.default[0] ?? 0);
    const recipe = { steps: [{ op: 'constant', params: { value } }] };
    commit(
      [{ op: 'add', path: at(index, 'channels', channel.name), value: { recipe } }],
      `${layer.name}: add ${channel.label}`,
    );
    bench.openChannel(layer, channel.name);
  }
  function pasteChannels(layer: Layer, index: number, channels: [name: string, value: Json][]) {
    commit(
      channels.map(([name, value]) => ({ op: 'add', path: at(index, 'channels', name), value })),
      `${layer.name}: paste ${channels.length === 1 ? 'a channel' : `${channels.length} channels`}`,
    );
  }
  function move(from: number, to: number) {
    if (from === to || to < 0 || to >= layers.length) return;
    commit([{ op: 'move', from: at(from), path: at(to) }], `move ${found?.look.layers[from]?.name}`);
  }
  function drop(target: number) {
    if (dragged !== null) move(dragged, target);
    dragged = over = null;
  }
  function rename(layer: Layer, index: number, name: string) {
    commit([{ op: 'replace', path: at(index, 'name'), value: name }], `rename ${layer.name}`);
  }
  function setOpacity(layer: Layer, index: number, share: Layer['opacity'], done: boolean) {
    const patch: Operation[] = [{ op: 'replace', path: at(index, 'opacity'), value: share }];
    const shown = typeof share === 'number' ? `${Math.round(share * 100)} %` : `number ${share.number}`;
    if (done) commit(patch, `${layer.name}: opacity ${shown}`);
    else shot.preview(patch);
  }
</script>

<section class="sheet" aria-label="look sheet">
  <header>
    {#if naming}
      <input
        class="naming"
        value={bench.look}
        maxlength="80"
        aria-label="name of the look"
        bind:this={field}
        onfocus={(event) => event.currentTarget.select()}
        onblur={(event) => renameLook(event.currentTarget.value)}
        onkeydown={(event) => {
          event.stopPropagation();
          if (event.key === 'Enter') renameLook(event.currentTarget.value);
          if (event.key === 'Escape') naming = false;
        }}
      />
    {:else}
      <span
        class="grip"
        role="img"
        draggable="true"
        aria-label="drag the look onto the picture"
        title="drag it onto the picture: the object there wears it"
        ondragstart={(event) => event.dataTransfer?.setData(LOOK, bench.look)}>⋮⋮</span
      >
      <Choice
        value={bench.look}
        label="look"
        options={(shot.document?.looks ?? []).map((look) => ({ value: look.name, text: look.name }))}
        onchange={(name) => bench.openLook(name)}
      />
    {/if}
    <LookMenu {onreview} {onshelf} onrename={() => (naming = true)} onremove={() => (removing = true)} />
    {#if newer}
      <button
        class="plain newer"
        title="version {newer.version}{newer.author
          ? ` by ${newer.author}`
          : ''}; the knobs that were turned here stay"
        onclick={() => shelf.take(newer.name, true, bench.look)}>a newer one is on the shelf: take it</button
      >
    {/if}
    <span class="worn"
      >{domain === 'volume'
        ? worn.length
          ? `a volume; fills ${worn.join(', ')}`
          : 'a volume; fills nothing'
        : worn.length
          ? `worn by ${worn.join(', ')}`
          : 'worn by nothing'}</span
    >
    <AddLayer onempty={addLayer} oncarry={carry} onpaste={paste} />
  </header>
  <Knobs />
  {#if domain === 'volume' && found}<PointsRow look={found.look} index={found.index} />{/if}
  <div class="grid head" style:--columns={template}>
    <span></span><span>where</span>
    {#each groups as group (group)}<span>{group}</span>{/each}
  </div>
  <div class="rows">
    {#each layers as { layer, index } (layer.id || layer.name)}
      <div
        class="grid row"
        style:--columns={template}
        class:off={!layer.on}
        class:current={isCurrent(layer)}
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
        <div class="name-cell">
          <LayerName
            {layer}
            path={at(index, 'opacity')}
            removable={layers.length > 1}
            onmove={(by) => move(index, index + by)}
            ondrag={(dragging) => (dragging ? (dragged = index) : (dragged = over = null))}
            onrename={(name) => rename(layer, index, name)}
            onswitch={() =>
              commit(
                [{ op: 'replace', path: at(index, 'on'), value: !layer.on }],
                `${layer.name} ${layer.on ? 'off' : 'on'}`,
              )}
            onopacity={(share, done) => setOpacity(layer, index, share, done)}
            oncopy={() => layerClipboard.copy([layer])}
            onremove={() => commit([{ op: 'remove', path: at(index) }], `delete ${layer.name}`)}
          />
          {#if layer.look}<CarriedLook
              {layer}
              onchange={(member, value) =>
                commit(
                  [{ op: 'replace', path: at(index, 'look', member), value }],
                  `${layer.name}: ${member.replace('_', ' ')}`,
                )}
            />{/if}
        </div>
        <div class="cell">
          <button
            class="plain thumb"
            class:open={isCurrent(layer) && bench.opened?.channel === ''}
            aria-label="{layer.name}, where"
            onclick={() => bench.openWhere(layer)}
          >
            {#if layer.where && live.cells[`${index}/where`]}
              <img src={live.cells[`${index}/where`]?.picture} alt="" />
              <span class="tag mono" data-text={percent(live.cells[`${index}/where`]?.mean[0] ?? 0)}></span>
            {:else}<span class="everywhere" data-text={layer.where ? '' : 'all'}></span>{/if}
          </button>
        </div>
        {#each groups as group (group)}
          <SheetCell
            {layer}
            {index}
            {group}
            onadd={(channel) => addChannel(layer, index, channel)}
            onpaste={(channels) => pasteChannels(layer, index, channels)}
          />
        {/each}
      </div>
    {/each}
  </div>
</section>
{#if removing && shot.document}
  <RemoveLook
    name={bench.look}
    uses={usesOfLook(shot.document, bench.look)}
    {others}
    onanswer={(instead) => (instead === null ? (removing = false) : removeLook(instead))}
  />
{/if}

<style>
  .name-cell {
    min-width: 0;
  }
  .grip {
    cursor: grab;
    color: var(--quiet);
    letter-spacing: -2px;
  }
  .naming {
    background: var(--ground);
    color: var(--text);
    border: 1px solid var(--amber);
    font: inherit;
    width: 150px;
  }
  .sheet {
    display: flex;
    flex-direction: column;
    min-height: 0;
    height: 100%;
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
  .newer {
    color: var(--amber);
    min-height: 24px;
  }
  .worn {
    color: var(--quiet);
    flex: 1;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .grid {
    display: grid;
    grid-template-columns: var(--columns);
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
    background: linear-gradient(90deg, var(--row), transparent);
  }
  .row.over {
    box-shadow: inset 0 2px var(--amber);
  }
  .row.off :global(.thumb) {
    opacity: 0.4;
  }
  .cell {
    min-width: 0;
    position: relative;
  }
  .sheet :global(.thumb) {
    position: relative;
    display: block;
    width: min(64px, 100%);
    height: 36px;
    background: var(--well);
    overflow: hidden;
  }
  .sheet :global(.thumb.open),
  .sheet :global(.thumb:hover) {
    box-shadow: 0 0 0 1.5px var(--amber);
  }
  .sheet :global(.thumb img) {
    width: 100%;
    height: 100%;
    object-fit: cover;
    display: block;
  }
  /* Beside the name of the button, not part of it. */
  .tag::before,
  .everywhere::before {
    content: attr(data-text);
  }
  .tag {
    position: absolute;
    right: 1px;
    bottom: 1px;
    background: var(--veil);
    padding: 0 3px;
    line-height: 14px;
  }
  .everywhere {
    display: grid;
    place-items: center;
    height: 100%;
    color: var(--faint);
  }
</style>
