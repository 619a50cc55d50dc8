<!-- One cell: what a layer changes in one group of channels, as a picture and a line for each channel. -->
<script lang="ts">
  import type { Channel, Json, Layer } from '../api/client';
  import { cellClipboard } from '../state/cellClipboard.svelte';
  import { bench } from '../state/bench.svelte';
  import { live } from '../state/live.svelte';
  import { shot } from '../state/shot.svelte';
  import { shown, shownIn } from '../fields/numbers';
  import AddChannel from './AddChannel.svelte';

  type Props = {
    layer: Layer;
    index: number;
    group: Channel['channel_group'];
    onadd: (channel: Channel) => void;
    onpaste: (channels: [name: string, value: Json][]) => void;
  };
  let { layer, index, group, onadd, onpaste }: Props = $props();

  const domain = $derived(shot.look(bench.look)?.look.domain ?? 'surface');
  const ofGroup = $derived(
    shot.vocabulary.channels.filter(
      (channel) => channel.channel_group === group && channel.domain === domain,
    ),
  );
  /** What it sets itself, or what the look that it carries does. */
  const sets = (name: string) => (layer.look ? `${index}/${name}` in live.cells : name in layer.channels);
  const channels = $derived(ofGroup.filter((channel) => sets(channel.name)));
  const free = $derived(layer.look ? [] : ofGroup.filter((channel) => !sets(channel.name)));
  const cell = (name: string) => live.cells[`${index}/${name}`];
  const isOpen = (name: string) => bench.opened?.layer?.id === layer.id && bench.opened.channel === name;
  const picture = $derived.by(() => {
    const open = channels.find((channel) => isOpen(channel.name)) ?? channels[0];
    return open ? cell(open.name)?.picture : undefined;
  });
  const held = (name: string): string => {
    const found = cell(name)?.held;
    return found ? `held at ${shown(found.at, 3)} (asked for ${shown(found.asked, 3)})` : '';
  };
  const mean = (name: string): string => {
    const found = cell(name)?.mean;
    if (!found) return '';
    return found.length === 3
      ? found.map((x) => shown(x, 2).replace(/^0\./, '.')).join(' ')
      : shownIn(found[0] ?? 0, ofGroup.find((each) => each.name === name)?.unit ?? '', 2);
  };
  const sign = (name: string) =>
    ({ multiply: 'multiplies ', add: 'adds ', lighter: 'lighter ', darker: 'darker ', replace: '' })[
      layer.channels[name]?.blend ?? 'replace'
    ];
  const copied = $derived(layer.look ? [] : cellClipboard.of(ofGroup.map((channel) => channel.name)));
  const copy = () =>
    cellClipboard.copy(
      layer,
      channels.map((channel) => channel.name),
    );
  function key(event: KeyboardEvent) {
    if (!(event.ctrlKey || event.metaKey) || layer.look) return;
    if (event.key.toLowerCase() === 'c' && channels.length) copy();
    else if (event.key.toLowerCase() === 'v' && copied.length) onpaste(copied);
    else return;
    event.preventDefault();
  }
  const open = (name: string) =>
    layer.look ? bench.openLook(layer.look.look) : bench.openChannel(layer, name);
</script>

<!-- svelte-ignore a11y_no_static_element_interactions -->
<div class="cell" onkeydown={key}>
  {#if channels.length}
    <button
      class="plain thumb"
      class:open={channels.some((channel) => isOpen(channel.name))}
      aria-label="{layer.name}, {group}"
      onclick={() => open(channels[0]?.name ?? '')}
    >
      {#if picture}<img src={picture} alt="{group} of {layer.name}" />{/if}
    </button>
    {#each channels as channel (channel.name)}
      <button
        class="plain chip"
        class:open={isOpen(channel.name)}
        class:held={held(channel.name) !== ''}
        title="{channel.label}: {sign(channel.name)}{mean(channel.name)} {held(channel.name)}"
        onclick={() => open(channel.name)}
        ><span>{channel.label}</span><span class="mono"
          >{sign(channel.name)}{(cell(channel.name)?.mean.length ?? 3) === 1 ? mean(channel.name) : ''}</span
        ></button
      >
    {/each}
  {/if}
  {#if free.length}
    <AddChannel
      {group}
      layer={layer.name}
      channels={free}
      sign={channels.length ? '+' : '·'}
      copies={channels.length}
      pastes={copied.length}
      {onadd}
      oncopy={copy}
      onpaste={() => onpaste(copied)}
    />
  {/if}
</div>

<style>
  .cell {
    min-width: 0;
    position: relative;
  }
  .chip {
    display: flex;
    /* Where a name and its number are too wide together, the number goes below. */
    flex-wrap: wrap;
    justify-content: space-between;
    column-gap: 4px;
    width: 100%;
    line-height: 15px;
    color: var(--quiet);
  }
  .chip.held :global(.mono) {
    text-decoration: underline dotted var(--amber);
  }
  .chip span:first-child {
    /* Names of several words take a second line rather than losing what tells them apart. */
    white-space: normal;
    text-align: left;
    line-height: 13px;
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
</style>
