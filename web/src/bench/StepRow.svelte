<!-- The steps of a recipe from left to right: space steps, the source, and what refines its values. -->
<script lang="ts">
  import type { Json, Op, Operation, Recipe, Step } from '../api/client';
  import { bench, stepPointer } from '../state/bench.svelte';
  import { live } from '../state/live.svelte';
  import { shot } from '../state/shot.svelte';
  import { fresh } from './fresh';
  import OpMenu from './OpMenu.svelte';
  import StepCard from './StepCard.svelte';

  type Props = {
    recipe: Recipe;
    path: (string | number)[];
    units: string[];
    narrow: boolean;
    oninput: (step: number, name: string, value: Json) => void;
    onchange: (step: number, name: string, value: Json) => void;
    onedit: (operations: Operation[], what: string) => void;
  };
  let { recipe, path, units, narrow, oninput, onchange, onedit }: Props = $props();

  let inserting = $state<number | null>(null);
  let lifted = $state<number | null>(null);
  let over = $state<number | null>(null);

  const opOf = (step: Step) => shot.vocabulary.ops.find((op) => op.name === step.op);
  const kinds = $derived(recipe.steps.map((step) => opOf(step)?.kind ?? 'step'));
  const source = $derived(Math.max(kinds.indexOf('source'), 0));
  /** What may be put before the step at a place: what bends space before the source, what refines after it. */
  const kindAt = (index: number): Op['kind'] => (index <= source ? 'warp' : 'modifier');
  const advised = $derived(
    new Set(
      live.advice
        .filter((each) => each.address === bench.address && (!each.look || each.look === bench.look))
        .map((each) => each.step),
    ),
  );

  function insert(at: number, steps: Json[], what: string) {
    inserting = null;
    onedit(
      steps.map((value, index) => ({ op: 'add', path: stepPointer(path, at + index), value })),
      `insert ${what}`,
    );
  }
  /** Whether a step may go before the step at a place: space steps stay before the source, the others after it. */
  function fits(from: number, gap: number): boolean {
    if (gap === from || gap === from + 1) return false;
    return kinds[from] === 'warp' ? gap <= source : gap > source;
  }
  function move(from: number, gap: number) {
    if (kinds[from] === 'source' || !fits(from, gap)) return;
    const to = gap > from ? gap - 1 : gap;
    onedit(
      [{ op: 'move', from: stepPointer(path, from), path: stepPointer(path, to) }],
      `move ${recipe.steps[from]?.op}`,
    );
  }
</script>

{#snippet gap(at: number)}
  <span
    class="between"
    class:open={lifted !== null && fits(lifted, at)}
    class:over={over === at}
    role="group"
    aria-label="before step {at + 1}"
    ondragover={(event) => {
      if (lifted === null || !fits(lifted, at)) return;
      event.preventDefault();
      over = at;
    }}
    ondragleave={() => over === at && (over = null)}
    ondrop={(event) => {
      event.preventDefault();
      if (lifted !== null) move(lifted, at);
      lifted = over = null;
    }}
  >
    <button
      class="plain plus"
      aria-label={at === recipe.steps.length
        ? 'add a step'
        : at === 0
          ? 'bend space first'
          : `insert a step before ${recipe.steps[at]?.op}`}
      title={kindAt(at) === 'warp' ? 'bend where the source is looked up' : 'insert a step'}
      onclick={() => (inserting = at)}
      >{#if kindAt(at) === 'warp'}<small>bend<br />space</small>{:else}+{/if}</button
    >
    {#if inserting === at}
      <OpMenu
        kind={kindAt(at)}
        onpick={(op) => insert(at, [{ op: op.name, params: fresh(op, narrow) }], op.name)}
        onpaste={(steps) => insert(at, steps, 'what was copied')}
        onclose={() => (inserting = null)}
      />
    {/if}
  </span>
{/snippet}

{#each recipe.steps as step, index (index)}
  {@render gap(index)}
  <StepCard
    number={index + 1}
    {step}
    op={opOf(step)}
    unit={units[index] ?? ''}
    at={stepPointer(path, index)}
    measure={live.bench?.steps[index]}
    alone={live.show.kind !== 'picture' &&
      (bench.step === index || (bench.step === null && index === recipe.steps.length - 1))}
    advised={advised.has(index)}
    last={index === recipe.steps.length - 1}
    oninput={(name, value) => oninput(index, name, value)}
    onchange={(name, value) => onchange(index, name, value)}
    onshow={() => bench.showAlone(index)}
    onopen={(parameter) => bench.openInput(index, parameter)}
    onswitch={() =>
      onedit(
        [{ op: 'add', path: stepPointer(path, index, 'on'), value: !step.on }],
        `${step.op} ${step.on ? 'off' : 'on'}`,
      )}
    onremove={() => onedit([{ op: 'remove', path: stepPointer(path, index) }], `take ${step.op} away`)}
    onlift={(up) => {
      lifted = up ? index : null;
      over = null;
    }}
    onmove={(by) => move(index, by < 0 ? index - 1 : index + 2)}
    onfit={(ends) =>
      onedit(
        ends.map((end) => ({
          op: 'add',
          path: stepPointer(path, index, 'params', end.name),
          value: end.value,
        })),
        `fit ${step.op}`,
      )}
    onreplace={(op) =>
      onedit(
        [
          {
            op: 'replace',
            path: stepPointer(path, index),
            value: { op: op.name, params: fresh(op, narrow) },
          },
        ],
        `begin with ${op.name}`,
      )}
  />
{/each}
{@render gap(recipe.steps.length)}

<style>
  .between {
    position: relative;
    align-self: stretch;
    flex: none;
    display: grid;
    place-items: center;
  }
  .open {
    background: var(--amber-faint);
  }
  .over {
    background: var(--amber-soft);
    box-shadow: inset 0 0 0 1px var(--amber);
  }
  .plus {
    width: 24px;
    text-align: center;
    font-size: 16px;
    color: var(--faint);
  }
  .plus small {
    display: block;
    font-size: 12px;
    line-height: 13px;
    width: 36px;
  }
  .plus:has(small) {
    width: 38px;
  }
  .plus:hover {
    color: var(--amber);
  }
</style>
