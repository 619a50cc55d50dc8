<!-- A number of its own, or a named one times a factor. -->
<script lang="ts">
  import type { Json } from '../api/client';
  import { bench } from '../state/bench.svelte';
  import { isNumberRef } from '../state/numberEdits';
  import { shot } from '../state/shot.svelte';
  import Choice from './Choice.svelte';
  import DragNumber from './DragNumber.svelte';

  type Props = {
    value: Json;
    label: string;
    unit: string;
    low: number | null;
    high: number | null;
    whole: boolean;
    /** Whether a named number can be chosen here. */
    offers: boolean;
    oninput: (value: Json) => void;
    onchange: (value: Json) => void;
  };
  let { value, label, unit, low, high, whole, offers, oninput, onchange }: Props = $props();

  const ref = $derived(isNumberRef(value) ? value : null);
  const numbers = $derived(
    (shot.document?.numbers ?? []).filter(
      (each) => each.look === null || each.look === bench.look || each.name === ref?.number,
    ),
  );
  const named = $derived(numbers.find((each) => each.name === ref?.number));
  const now = $derived(
    ref && named ? named.value * (ref.times ?? 1) + (ref.plus ?? 0) : typeof value === 'number' ? value : 0,
  );

  function choose(name: string) {
    onchange(name === '' ? now : { number: name });
  }
</script>

{#if ref}
  <Choice
    named
    value={ref.number}
    label="number for {label}"
    options={[
      { value: '', text: 'a number of its own' },
      ...numbers.map((each) => ({ value: each.name, text: each.name })),
    ]}
    onchange={choose}
  />
  <DragNumber
    value={ref.times ?? 1}
    label="{label}: factor"
    unit="×"
    oninput={(times) => oninput({ ...ref, times })}
    onchange={(times) => onchange({ ...ref, times })}
  />
{:else}
  <DragNumber value={now} {label} {unit} {low} {high} {whole} {oninput} {onchange} />
  {#if offers && numbers.length}
    <Choice
      named
      value=""
      label="named number for {label}"
      options={[{ value: '', text: '#' }, ...numbers.map((each) => ({ value: each.name, text: each.name }))]}
      onchange={choose}
    />
  {/if}
{/if}
