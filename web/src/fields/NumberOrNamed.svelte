<!-- A number of its own, a named one times a factor, or, where a parameter may vary from point to point, a signal or a recipe. -->
<script lang="ts">
  import type { Json } from '../api/client';
  import { bench } from '../state/bench.svelte';
  import { isNumberRef } from '../state/numberEdits';
  import { shot } from '../state/shot.svelte';
  import Choice from './Choice.svelte';
  import DragNumber from './DragNumber.svelte';
  import InputField from './InputField.svelte';
  import { recipeAbout, stepsIn } from './varying';

  type Props = {
    value: Json;
    label: string;
    unit: string;
    low: number | null;
    high: number | null;
    whole: boolean;
    /** Whether something else than a number can be chosen here. */
    offers: boolean;
    /** How often a recipe in its place is evaluated for each point; 0 where none may stand there. */
    varies?: number;
    /** What the parameter is unless given. */
    fallback?: number;
    oninput: (value: Json) => void;
    onchange: (value: Json) => void;
    onopen?: () => void;
  };
  let {
    value,
    label,
    unit,
    low,
    high,
    whole,
    offers,
    varies = 0,
    fallback = 0,
    oninput,
    onchange,
    onopen,
  }: Props = $props();

  const ref = $derived(isNumberRef(value) ? value : null);
  const varied = $derived(
    !ref && value !== null && typeof value === 'object' && !Array.isArray(value) ? value : null,
  );
  const numbers = $derived(
    (shot.document?.numbers ?? []).filter(
      (each) => each.look === null || each.look === bench.look || each.name === ref?.number,
    ),
  );
  const signals = $derived(varies ? (shot.document?.signals ?? []) : []);
  const named = $derived(numbers.find((each) => each.name === ref?.number));
  const now = $derived(
    ref && named
      ? named.value * (ref.times ?? 1) + (ref.plus ?? 0)
      : typeof value === 'number'
        ? value
        : fallback,
  );
  const steps = $derived(varied ? stepsIn(varied, shot.document?.signals ?? []) : 0);
  const others = $derived([
    ...numbers.map((each) => ({ value: `number:${each.name}`, text: `number ${each.name}` })),
    ...(varies ? [{ value: 'recipe:', text: 'varies: a nested recipe' }] : []),
    ...signals.map((each) => ({ value: `signal:${each.name}`, text: `varies: ${each.name}` })),
  ]);

  function choose(wanted: string) {
    const [kind, name = ''] = [wanted.slice(0, wanted.indexOf(':')), wanted.slice(wanted.indexOf(':') + 1)];
    if (kind === 'number') onchange({ number: name });
    else if (kind === 'signal') onchange({ signal: name });
    else if (kind === 'recipe') {
      onchange(recipeAbout(now, low, high));
      onopen?.();
    } else onchange(now);
  }
</script>

{#if ref}
  <Choice
    named
    value="number:{ref.number}"
    label="number for {label}"
    options={[{ value: 'own', text: 'a number of its own' }, ...others]}
    onchange={choose}
  />
  <DragNumber
    value={ref.times ?? 1}
    label="{label}: factor"
    unit="×"
    oninput={(times) => oninput({ ...ref, times })}
    onchange={(times) => onchange({ ...ref, times })}
  />
{:else if varied}
  <InputField value={varied} {label} {unit} kinds="no colour" {fallback} {oninput} {onchange} {onopen} />
  <span
    class="cost"
    title={varies > 1
      ? `${steps} ${steps === 1 ? 'step' : 'steps'}, run ${varies} times for each point: once for the value, and once aside along each axis to see how fast it changes, so that nothing finer than a sample is left`
      : `${steps} ${steps === 1 ? 'step' : 'steps'} more for each point`}
    >+{steps * Math.max(varies, 1)} {steps * varies === 1 ? 'step' : 'steps'}</span
  >
{:else}
  <DragNumber value={now} {label} {unit} {low} {high} {whole} {oninput} {onchange} />
  {#if offers && others.length}
    <Choice
      named
      value=""
      label="what stands for {label}"
      title="a named number{varies ? ', or a signal or recipe that varies from point to point' : ''}"
      options={[{ value: '', text: '▾' }, ...others]}
      onchange={choose}
    />
  {/if}
{/if}

<style>
  .cost {
    color: var(--quiet);
    font-size: 12px;
    cursor: help;
  }
</style>
