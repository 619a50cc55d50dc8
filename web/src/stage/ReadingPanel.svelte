<!-- The reading: every layer's mask and steps at the picked point, the channels that result, and what decided each. -->
<script lang="ts">
  import Choice from '../fields/Choice.svelte';
  import { dressed, dressedWords, wornBy } from '../state/partEdits';
  import { pointer } from '../state/pointer';
  import { bench } from '../state/bench.svelte';
  import { shot } from '../state/shot.svelte';
  import type { LayerReading, StepReading, Value } from '../api/live';
  import { live } from '../state/live.svelte';
  import { shown } from '../fields/numbers';

  const reading = $derived(live.reading);
  const layers = $derived(reading ? [...reading.layers].reverse() : []);
  let closed = $state<Record<string, boolean>>({});

  const one = (x: number | string) => (typeof x === 'string' ? x : shown(x, 2).replace(/^(−?)0\./, '$1.'));
  const text = (value: Value) => value.map(one).join(' ');
  const weight = (layer: LayerReading) =>
    typeof layer.weight === 'number' ? shown(layer.weight, 2) : layer.weight;
  const deciding = (layer: LayerReading) => layer.mask.find((step) => step.decided && step.reason);
  const labelled = (step: StepReading) => (step.on ? step.op : `${step.op} (off)`);

  const layerOf = (name: string) =>
    shot.look(reading?.look ?? '')?.look.layers.find((each) => each.name === name);
  const index = $derived(shot.document?.objects.findIndex((each) => each.name === reading?.object) ?? -1);
  const item = $derived(index >= 0 ? shot.document?.objects[index] : undefined);
  function wear(look: string) {
    if (!item || !reading) return;
    if (reading.part)
      void shot.commit(dressed(item, index, reading.part, look), dressedWords(item, reading.part, look));
    else
      void shot.commit(
        [{ op: 'replace', path: pointer('objects', index, 'look'), value: look }],
        `${item.name} wears ${look}`,
      );
  }

  function openWhere(name: string) {
    const layer = layerOf(name);
    if (layer && reading) bench.openWhere(layer, reading.look);
  }
  function openChannel(name: string, channel: string) {
    const layer = layerOf(name);
    if (layer && reading) bench.openChannel(layer, channel, reading.look);
  }
</script>

{#if reading}
  <div class="panel" role="region" aria-label="reading">
    <header>
      <b>reading</b>
      <span class="quiet">{reading.object}{reading.part ? ` · ${reading.part}` : ''} · {reading.look}</span>
      <button class="plain" aria-label="stop reading" onclick={() => live.stopReading()}>×</button>
    </header>
    {#if item}
      <div class="quiet">
        {reading.part ? `the part ${reading.part} wears` : `${item.name} wears`}
        <Choice
          value={reading.part ? wornBy(item, reading.part) : item.look}
          label="look of {reading.part || item.name}"
          options={[
            ...(reading.part ? [{ value: '', text: `as the whole (${item.look})` }] : []),
            ...(shot.document?.looks ?? []).map((look) => ({ value: look.name, text: look.name })),
          ]}
          onchange={wear}
        />
      </div>
    {/if}
    <div class="quiet mono">{reading.position.map((x) => shown(x, 3)).join(' ')} m</div>
    <button
      class="plain quiet focus"
      title="set the camera's focus to this point"
      onclick={() =>
        void shot.commit(
          [{ op: 'add', path: '/camera/focus_distance', value: Math.max(reading.depth, 0.001) }],
          'focus on a point',
        )}>{shown(reading.depth, 3)} m deep · focus here</button
    >
    {#if reading.light}
      <div class="quiet" title="scene-linear light of the picture at this point">
        light <span class="mono">{reading.light.map(one).join(' ')}</span>
      </div>
    {/if}
    {#if !reading.at}<div class="quiet">out of the picture now; it stays pinned</div>{/if}
    {#each layers as layer (layer.name)}
      <section class:off={!layer.on}>
        <button
          class="plain row layer"
          aria-expanded={!closed[layer.name]}
          onclick={() => (closed[layer.name] = !closed[layer.name])}
        >
          <span
            >{closed[layer.name] ? '▸' : '▾'}
            {layer.name}{layer.look ? ` · look ${layer.look}` : ''}{layer.on ? '' : ' (off)'}</span
          >
          <span class="mono">{weight(layer)}</span>
        </button>
        {#if !closed[layer.name]}
          {#each layer.mask as step, index (index)}
            <button
              class="plain row step"
              class:decided={step.decided}
              title={step.reason || 'open this mask'}
              onclick={() => openWhere(layer.name)}
            >
              <span
                >{labelled(step)}{#if step.decided}<small class="here">decided here</small>{/if}</span
              ><span class="mono">{text(step.value)}</span>
            </button>
          {/each}
          {#if deciding(layer)}
            <p><i>{deciding(layer)?.op}</i> {deciding(layer)?.reason}</p>
          {/if}
          {#each layer.channels as channel (channel.name)}
            <button
              class="plain row step puts"
              title={channel.steps.map((step) => `${labelled(step)}: ${text(step.value)}`).join('\n')}
              onclick={() => openChannel(layer.name, channel.name)}
            >
              <span>{channel.label} {channel.blend === 'replace' ? '=' : channel.blend}</span>
              <span class="mono">{text(channel.value)}</span>
            </button>
          {/each}
        {/if}
      </section>
    {/each}
    <section class="result" aria-label="resulting channels">
      {#each reading.channels as channel (channel.name)}
        <div class="row" title={channel.name}>
          <span>{channel.label}</span>
          <span class="mono">{text(channel.value)}<small>{channel.unit && ` ${channel.unit}`}</small></span>
          <span class="by">{channel.layer || 'default'}</span>
        </div>
        {#if channel.asked.length}
          <p class="held">held at {text(channel.value)} (asked for {text(channel.asked)})</p>
        {/if}
      {/each}
    </section>
  </div>
{/if}

<style>
  .here {
    margin-left: 6px;
    color: var(--amber);
  }
  .panel {
    position: absolute;
    right: 10px;
    top: 10px;
    width: 236px;
    max-height: calc(100% - 24px);
    overflow: auto;
    background: var(--veil-thick);
    border: 1px solid var(--line);
    padding: 6px 10px 8px;
  }
  header {
    display: flex;
    gap: 8px;
    align-items: baseline;
  }
  header span {
    flex: 1;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  header button:hover {
    color: var(--amber);
  }
  .quiet {
    color: var(--quiet);
    font-size: 12px;
  }
  .focus:hover {
    color: var(--amber);
  }
  section {
    border-top: 1px solid var(--line);
    padding: 3px 0;
  }
  section.off {
    opacity: 0.45;
  }
  .row {
    display: flex;
    justify-content: space-between;
    gap: 8px;
    width: 100%;
    line-height: 15px;
  }
  .row > :first-child {
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .row > .mono {
    white-space: nowrap;
  }
  .layer {
    font-weight: 600;
  }
  .step {
    padding-left: 14px;
    color: var(--quiet);
  }
  .step .mono {
    color: var(--text);
  }
  .step:hover {
    color: var(--text);
  }
  .decided,
  .decided .mono {
    color: var(--amber);
  }
  .puts {
    color: var(--faint);
  }
  p {
    margin: 0 0 2px 14px;
    color: var(--amber);
    font-size: 12px;
    line-height: 14px;
  }
  .result {
    margin-top: 2px;
  }
  .result .row > :first-child {
    flex: 1;
  }
  .held {
    color: var(--amber);
    text-align: right;
  }
  .by {
    color: var(--quiet);
    width: 64px;
    text-align: right;
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  small {
    color: var(--quiet);
  }
</style>
