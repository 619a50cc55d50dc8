<!-- The recipe that lies open: its sentence, its steps from left to right, and what was noticed. -->
<script lang="ts">
  import { Button } from 'carbon-components-svelte';
  import type { Json, Op, Operation, Recipe, Step } from '../api/client';
  import { bench, stepPointer } from '../state/bench.svelte';
  import { clipboard } from '../state/clipboard.svelte';
  import { live } from '../state/live.svelte';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';
  import { usesOfSignal } from '../state/signalUses';
  import AdviceColumn from '../advice/AdviceColumn.svelte';
  import Choice from '../fields/Choice.svelte';
  import { fresh } from './fresh';
  import OpMenu from './OpMenu.svelte';
  import Refusal from './Refusal.svelte';
  import Sentence from './Sentence.svelte';
  import StepRow from './StepRow.svelte';

  type Props = { advice: boolean; onuses: () => void; onscene: () => void; onkeys: () => void };
  let { advice, onuses, onscene, onkeys }: Props = $props();

  let beginning = $state(false);
  let naming = $state(false);

  const opened = $derived(bench.opened);
  const recipe = $derived(opened?.recipe ?? null);
  const inner = $derived((opened?.within ?? '') !== '');
  const layer = $derived(opened?.layer ?? null);
  const channel = $derived(inner ? '' : (opened?.channel ?? ''));
  /** Whether the recipe must end with a number. */
  const narrow = $derived(
    !inner &&
      ((layer && !channel) || shot.vocabulary.channels.find((each) => each.name === channel)?.width === 1),
  );
  const isSignal = $derived((opened?.signal ?? '') !== '');
  const entryPath = $derived(opened?.path.slice(0, -1) ?? []);
  const blend = $derived(layer?.channels[channel]?.blend ?? 'replace');
  const opOf = (step: Step) => shot.vocabulary.ops.find((op) => op.name === step.op);
  const unitOf = (op: Op | undefined) => (op?.name === 'height' ? 'm' : '');
  /** The unit of what comes into each step: a height is in metres until a step maps it onto something else. */
  const units = $derived.by(() => {
    let unit = '';
    return (recipe?.steps ?? []).map((step) => {
      const incoming = unit;
      const op = opOf(step);
      if (op?.kind === 'source') unit = unitOf(op);
      else if (step.on && op && op.kind === 'modifier' && op.name !== 'add') unit = '';
      return incoming;
    });
  });
  const start = $derived(
    isSignal || inner || channel ? (opened?.title.split(' › ').at(-1) ?? '') : (layer?.name ?? ''),
  );
  const verb = $derived(isSignal || channel || inner ? 'is' : 'lies where');

  function set(step: number, name: string, value: Json): Operation[] {
    return opened ? [{ op: 'add', path: stepPointer(opened.path, step, 'params', name), value }] : [];
  }
  function input(step: number, name: string, value: Json) {
    shot.preview(set(step, name, value));
  }
  function change(step: number, name: string, value: Json) {
    const op = recipe?.steps[step]?.op ?? '';
    void shot.commit(set(step, name, value), `${opened?.title}: ${op} ${name.replaceAll('_', ' ')}`);
  }
  function edit(operations: Operation[], what: string) {
    void shot.commit(operations, `${opened?.title}: ${what}`);
  }
  function replace(next: Recipe | { steps: Json[] }, what: string) {
    if (opened)
      edit([{ op: 'replace', path: pointer(...opened.path), value: next as unknown as Json }], what);
  }
  function begin(op: Op) {
    beginning = false;
    replace({ steps: [{ op: op.name, params: fresh(op, narrow) }] }, `begin with ${op.name}`);
  }
  /** Make the open recipe a shared signal, and use that here. */
  function share(wanted: string) {
    naming = false;
    const name = wanted.trim();
    if (!opened || !recipe || !name) return;
    edit(
      [
        { op: 'add', path: '/signals/-', value: { name, recipe: recipe as unknown as Json } },
        {
          op: 'replace',
          path: pointer(...opened.path, 'steps'),
          value: [{ op: 'signal', params: { signal: name } }],
        },
      ],
      `share as ${name}`,
    );
  }
  /** The first problem that is not told beside the text that it is in. */
  const told = $derived(
    live.problems.find(
      (each) =>
        each.character === null ||
        each.character === undefined ||
        !each.pointer.startsWith(pointer(...(opened?.path ?? ['?']))),
    ),
  );
  const places = $derived(isSignal && shot.document ? usesOfSignal(shot.document, opened?.signal ?? '') : []);
  const pastable = $derived(clipboard.fitting('source').length > 0);
</script>

<section class="bench" class:with-advice={advice} aria-label="recipe">
  <div class="main">
    {#if opened}
      <div class="top">
        {#if inner}
          <button
            class="plain act back"
            title="back to the recipe that this is an input of"
            onclick={() => bench.open(opened.within)}>‹ back</button
          >
        {/if}
        {#if recipe}
          <Sentence
            {start}
            {verb}
            {recipe}
            {units}
            oninput={input}
            onchange={change}
            onopen={(name) => bench.openSignal(name)}
            onopeninput={(step, name) => bench.openInput(step, name)}
          />
        {:else}
          <p class="plainly"><b>{layer?.name}</b> lies everywhere.</p>
        {/if}
        <span class="more">
          {#if channel}
            <span>blend with the layers below</span>
            <Choice
              value={blend}
              label="blend"
              options={shot.vocabulary.blends.map((name) => ({ value: name, text: name }))}
              onchange={(value) =>
                edit([{ op: 'replace', path: pointer(...entryPath, 'blend'), value }], 'blend')}
            />
            {#if channel === 'wetness'}
              <button
                class="plain act"
                title="a layer of coat, darkening and reflectivity in its place"
                onclick={() => {
                  if (!layer) return;
                  void shot.expandWetness(bench.look, layer.name);
                  bench.openWhere(layer);
                }}>take apart</button
              >
            {/if}
            <button
              class="plain act"
              title="every layer's part in it, blended, alone on the stage"
              onclick={() => bench.showChannel(channel)}
              >show the whole look's {channel.replaceAll('_', ' ')}</button
            >
            <button
              class="plain act"
              onclick={() => {
                edit([{ op: 'remove', path: pointer(...entryPath) }], 'take the value away');
                if (layer) bench.openWhere(layer);
              }}>delete</button
            >
          {:else if isSignal && !inner}
            <button
              class="plain named"
              title="{places.join('\n') ||
                'nothing in this shot uses it'}\nOpens the list, where it can also be written out"
              onclick={onuses}
              >shared: changes {places.length} {places.length === 1 ? 'place' : 'places'}</button
            >
          {:else if recipe && !inner}
            <button
              class="plain act"
              onclick={() =>
                edit([{ op: 'replace', path: pointer(...opened.path), value: null }], 'everywhere')}
              >remove mask</button
            >
          {/if}
          {#if recipe}
            <button
              class="plain act"
              title="copy all steps, to paste them in another recipe"
              onclick={() => clipboard.copy(recipe.steps)}>copy all</button
            >
            {#if pastable}
              <button
                class="plain act"
                title="put the copied recipe in this one's place"
                onclick={() => replace({ steps: clipboard.steps as unknown as Json[] }, 'paste a recipe')}
                >paste over</button
              >
            {/if}
          {/if}
          {#if recipe && !(isSignal && !inner)}
            {#if naming}
              <!-- svelte-ignore a11y_autofocus -->
              <input
                class="name"
                aria-label="name of the shared signal"
                placeholder="name of the signal"
                autofocus
                onblur={() => (naming = false)}
                onkeydown={(event) => {
                  event.stopPropagation();
                  if (event.key === 'Enter') share(event.currentTarget.value);
                  if (event.key === 'Escape') naming = false;
                }}
              />
            {:else}
              <button
                class="plain act"
                title="use this recipe elsewhere by a name"
                onclick={() => (naming = true)}>make shared signal …</button
              >
            {/if}
          {/if}
          <button class="plain act key" onclick={() => bench.toggle()}>
            {live.show.kind === 'picture' ? 'show alone' : 'show the picture'} <kbd>A</kbd>
          </button>
        </span>
      </div>
      {#if shot.refusal}
        <Refusal />
      {:else if told}
        <p class="problem" role="alert">{told.reason}{told.hint ? ` — ${told.hint}` : ''}</p>
      {/if}
      <div class="steps">
        {#if recipe}
          <StepRow
            {recipe}
            path={opened.path}
            {units}
            {narrow}
            oninput={input}
            onchange={change}
            onedit={edit}
          />
        {:else}
          <div class="empty">
            <p>
              No mask: the layer covers all. Begin one with a source to say where it lies.
              <button class="plain act" onclick={onkeys}>keys and gestures</button>
            </p>
            <span class="between">
              <Button size="small" kind="tertiary" on:click={() => (beginning = true)}>Begin a mask</Button>
              {#if beginning}<OpMenu
                  kind="source"
                  onpick={begin}
                  onsignal={(name) => {
                    beginning = false;
                    replace({ steps: [{ op: 'signal', params: { signal: name } }] }, `begin with ${name}`);
                  }}
                  onpaste={() => {
                    beginning = false;
                    replace({ steps: clipboard.steps as unknown as Json[] }, 'paste a recipe');
                  }}
                  onclose={() => (beginning = false)}
                />{/if}
            </span>
          </div>
        {/if}
      </div>
    {:else}
      {#if shot.refusal}<Refusal />{/if}
      <p class="plainly quiet">Choose a cell of the look sheet to see how its values are made.</p>
    {/if}
  </div>
  {#if advice}<AdviceColumn {onscene} />{/if}
</section>

<style>
  .bench {
    display: grid;
    grid-template-columns: minmax(0, 1fr);
    min-height: 0;
    height: 100%;
  }
  .bench.with-advice {
    grid-template-columns: minmax(0, 1fr) 232px;
  }
  .main {
    display: flex;
    flex-direction: column;
    gap: 6px;
    padding: 8px 8px 8px 14px;
    min-height: 0;
    min-width: 0;
  }
  .top {
    display: flex;
    gap: 12px;
    align-items: baseline;
  }
  .top :global(.sentence) {
    flex: 1;
  }
  .more {
    display: flex;
    flex-wrap: wrap;
    justify-content: flex-end;
    gap: 2px 12px;
    color: var(--quiet);
    white-space: nowrap;
    align-items: baseline;
    max-width: 46%;
    margin-left: auto;
  }
  .act {
    color: var(--quiet);
  }
  .act:hover {
    color: var(--amber);
  }
  .back {
    white-space: nowrap;
    color: var(--amber);
  }
  .named {
    color: var(--named);
  }
  kbd {
    font: inherit;
    font-family: var(--mono);
    border: 1px solid var(--line);
    padding: 0 4px;
    border-radius: 2px;
    color: var(--text);
  }
  .name {
    width: 140px;
    background: var(--ground);
    color: var(--text);
    border: 1px solid var(--amber);
    font: inherit;
  }
  .plainly {
    font-size: 14px;
    line-height: 22px;
    margin: 0;
  }
  .quiet {
    color: var(--quiet);
  }
  .problem {
    color: var(--bad);
    margin: 0;
  }
  .steps {
    display: flex;
    min-height: 0;
    flex: 1;
    overflow: auto;
    align-items: stretch;
  }
  .steps :global(article) {
    align-self: flex-start;
  }
  .between {
    position: relative;
  }
  .empty {
    color: var(--quiet);
    display: flex;
    gap: 16px;
    align-items: baseline;
  }
  .empty p {
    margin: 0;
  }
</style>
