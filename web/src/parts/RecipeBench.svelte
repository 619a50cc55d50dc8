<!-- The recipe that lies open: its sentence, and its steps from left to right. -->
<script lang="ts">
  import { Button } from 'carbon-components-svelte';
  import type { Json, Op, Operation, Step } from '../api/client';
  import { bench, stepPointer } from '../state/bench.svelte';
  import { live } from '../state/live.svelte';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';
  import Choice from './Choice.svelte';
  import OpMenu from './OpMenu.svelte';
  import Sentence from './Sentence.svelte';
  import StepCard from './StepCard.svelte';

  let inserting = $state<number | null>(null);
  let naming = $state(false);

  const opened = $derived(bench.opened);
  const recipe = $derived(opened?.recipe ?? null);
  const channel = $derived(bench.place[2] === 'channels' ? (bench.place[3] ?? '') : '');
  const isSignal = $derived(bench.place[0] === 'signal');
  const entryPath = $derived(opened?.path.slice(0, -1) ?? []);
  const blend = $derived.by(() => {
    const layer = shot.look(bench.look)?.look.layers.find((each) => each.name === bench.place[1]);
    return layer?.channels[channel]?.blend ?? 'replace';
  });
  const opOf = (step: Step) => shot.vocabulary.ops.find((op) => op.name === step.op);
  const unitOf = (op: Op | undefined) => (op?.name === 'height' ? 'm' : '');
  /** The unit of what comes into each step: a height is in metres until a step maps it onto something else. */
  const units = $derived.by(() => {
    let unit = '';
    return (recipe?.steps ?? []).map((step) => {
      const incoming = unit;
      const op = opOf(step);
      if (op?.kind === 'source') unit = unitOf(op);
      else if (step.on && op && op.name !== 'add') unit = '';
      return incoming;
    });
  });
  const start = $derived(
    isSignal ? (bench.place[1] ?? '') : channel ? (opened?.title ?? '') : (bench.place[1] ?? ''),
  );
  const verb = $derived(isSignal || channel ? 'is' : 'lies where');
  const usedBy = $derived.by(() => {
    if (!isSignal || !shot.document) return 0;
    const text = JSON.stringify([shot.document.looks, shot.document.signals]);
    return text.split(JSON.stringify({ signal: bench.place[1] }).slice(1, -1)).length - 1;
  });

  function set(step: number, name: string, value: Json): Operation[] {
    if (!opened) return [];
    const has = recipe?.steps[step]?.params && name in (recipe.steps[step].params as object);
    return [{ op: has ? 'replace' : 'add', path: stepPointer(opened.path, step, 'params', name), value }];
  }
  function input(step: number, name: string, value: Json) {
    shot.preview(set(step, name, value).map((each) => ({ ...each, op: 'add' })));
  }
  function change(step: number, name: string, value: Json) {
    const op = recipe?.steps[step]?.op ?? '';
    void shot.commit(
      set(step, name, value).map((each) => ({ ...each, op: 'add' })),
      `${opened?.title}: ${op} ${name.replaceAll('_', ' ')}`,
    );
  }
  function edit(operations: Operation[], what: string) {
    void shot.commit(operations, `${opened?.title}: ${what}`);
  }
  /** Parameters that an op can't do without. */
  function fresh(op: Op): Record<string, Json> {
    const needed = op.parameters.filter((parameter) => parameter.type === 'signal');
    return Object.fromEntries(
      needed.map((parameter) => [parameter.name, shot.document?.signals[0]?.name ?? '']),
    );
  }
  function insert(at: number, op: Op) {
    inserting = null;
    if (!opened) return;
    edit(
      [{ op: 'add', path: stepPointer(opened.path, at), value: { op: op.name, params: fresh(op) } }],
      `insert ${op.name}`,
    );
  }
  /** Make the open recipe a shared signal, and use that here. */
  function share(name: string) {
    naming = false;
    if (!opened || !recipe || !name.trim()) return;
    const steps = [{ op: 'signal', params: { signal: name.trim() } }];
    edit(
      [
        { op: 'add', path: '/signals/-', value: { name: name.trim(), recipe: recipe as unknown as Json } },
        { op: 'replace', path: pointer(...opened.path, 'steps'), value: steps },
      ],
      `share as ${name.trim()}`,
    );
  }
  function begin(op: Op) {
    inserting = null;
    if (!opened) return;
    const steps = [{ op: op.name, params: fresh(op) }];
    edit([{ op: 'replace', path: pointer(...opened.path), value: { steps } }], `begin with ${op.name}`);
  }
</script>

<section class="bench" aria-label="recipe">
  {#if opened}
    <div class="top">
      {#if recipe}
        <Sentence
          {start}
          {verb}
          {recipe}
          {units}
          oninput={input}
          onchange={change}
          onopen={(name) => bench.open(['signal', name])}
        />
      {:else}
        <p class="plainly"><b>{bench.place[1]}</b> lies everywhere.</p>
      {/if}
      <span class="more">
        {#if channel}
          <span>meets what lies below by</span>
          <Choice
            value={blend}
            label="blend"
            options={shot.vocabulary.blends.map((name) => ({ value: name, text: name }))}
            onchange={(value) =>
              edit([{ op: 'replace', path: pointer(...entryPath, 'blend'), value }], 'blend')}
          />
          <button class="plain act" onclick={() => bench.showChannel(channel)}>all layers alone</button>
          <button
            class="plain act"
            onclick={() => {
              edit([{ op: 'remove', path: pointer(...entryPath) }], 'take the value away');
              bench.open(['look', bench.place[1] ?? '', 'where']);
            }}>take away</button
          >
        {:else if isSignal}
          <span>shared, used {usedBy} {usedBy === 1 ? 'time' : 'times'}</span>
        {:else if recipe}
          <button
            class="plain act"
            onclick={() =>
              edit([{ op: 'replace', path: pointer(...opened.path), value: null }], 'everywhere')}
            >lie everywhere</button
          >
        {/if}
        {#if recipe && !isSignal}
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
              onclick={() => (naming = true)}>share by name</button
            >
          {/if}
        {/if}
        <button class="plain act key" onclick={() => bench.toggle()}>
          {live.show.kind === 'picture' ? 'show alone' : 'show the picture'} <kbd>A</kbd>
        </button>
      </span>
    </div>
    {#if live.problems.length}
      <p class="problem" role="alert">
        {live.problems[0]?.reason}{live.problems[0]?.hint ? ` — ${live.problems[0]?.hint}` : ''}
      </p>
    {/if}
    <div class="steps">
      {#if recipe}
        {#each recipe.steps as step, index (index)}
          {#if index > 0}
            <span class="between">
              <button
                class="plain plus"
                aria-label="insert a step before {step.op}"
                title="insert a step"
                onclick={() => (inserting = index)}>+</button
              >
              {#if inserting === index}
                <OpMenu kind="step" onpick={(op) => insert(index, op)} onclose={() => (inserting = null)} />
              {/if}
            </span>
          {/if}
          <StepCard
            number={index + 1}
            {step}
            op={opOf(step)}
            unit={units[index] ?? ''}
            measure={live.bench?.steps[index]}
            alone={live.show.kind !== 'picture' &&
              (bench.step === index || (bench.step === null && index === recipe.steps.length - 1))}
            first={index === 0}
            last={index === recipe.steps.length - 1}
            oninput={(name, value) => input(index, name, value)}
            onchange={(name, value) => change(index, name, value)}
            onshow={() => bench.showAlone(index)}
            onswitch={() =>
              edit(
                [{ op: 'replace', path: stepPointer(opened.path, index, 'on'), value: !step.on }],
                `${step.op} ${step.on ? 'off' : 'on'}`,
              )}
            onremove={() =>
              edit([{ op: 'remove', path: stepPointer(opened.path, index) }], `take ${step.op} away`)}
            onfit={(ends) =>
              edit(
                ends.map((end) => ({
                  op: 'add',
                  path: stepPointer(opened.path, index, 'params', end.name),
                  value: end.value,
                })),
                `fit ${step.op}`,
              )}
            onreplace={(op) =>
              edit(
                [
                  {
                    op: 'replace',
                    path: stepPointer(opened.path, index),
                    value: { op: op.name, params: fresh(op) },
                  },
                ],
                `begin with ${op.name}`,
              )}
            onmove={(by) => {
              const to = index + by;
              if (to > 0 && to < recipe.steps.length)
                edit(
                  [{ op: 'move', from: stepPointer(opened.path, index), path: stepPointer(opened.path, to) }],
                  `move ${step.op}`,
                );
            }}
          />
        {/each}
        <span class="between">
          <button
            class="plain plus"
            aria-label="add a step"
            title="add a step"
            onclick={() => (inserting = recipe.steps.length)}>+</button
          >
          {#if inserting === recipe.steps.length}
            <OpMenu
              kind="step"
              onpick={(op) => insert(recipe.steps.length, op)}
              onclose={() => (inserting = null)}
            />
          {/if}
        </span>
      {:else}
        <div class="empty">
          <p>No mask: the layer covers all. Begin one with a source to say where it lies.</p>
          <span class="between">
            <Button size="small" kind="tertiary" on:click={() => (inserting = 0)}>Begin a mask</Button>
            {#if inserting === 0}<OpMenu
                kind="source"
                onpick={begin}
                onclose={() => (inserting = null)}
              />{/if}
          </span>
        </div>
      {/if}
    </div>
  {:else}
    <p class="plainly quiet">Choose a cell of the look sheet to see how its values are made.</p>
  {/if}
</section>

<style>
  .bench {
    display: flex;
    flex-direction: column;
    gap: 8px;
    padding: 8px 14px 10px;
    min-height: 0;
    height: 100%;
    border-top: 1px solid var(--line);
  }
  .top {
    display: flex;
    justify-content: space-between;
    gap: 16px;
    align-items: baseline;
  }
  .more {
    display: flex;
    gap: 12px;
    color: var(--quiet);
    white-space: nowrap;
    align-items: baseline;
  }
  .act {
    color: var(--quiet);
  }
  .act:hover {
    color: var(--amber);
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
    overflow-x: auto;
    align-items: flex-start;
  }
  .between {
    position: relative;
    align-self: center;
    flex: none;
  }
  .plus {
    width: 26px;
    text-align: center;
    font-size: 16px;
    color: var(--faint);
  }
  .plus:hover {
    color: var(--amber);
  }
  .empty {
    color: var(--quiet);
    align-self: center;
  }
</style>
