<!-- A number of the document outside of recipes: its own, or a named one times a factor. -->
<script lang="ts">
  import { choosing, canNameNumber, useAt, valueOf } from '../state/numberUses';
  import { pointer } from '../state/pointer';
  import { KeyedNumber } from '../state/keyedNumber.svelte';
  import { canHaveKeys } from '../state/tracks';
  import { shot } from '../state/shot.svelte';
  import Choice from './Choice.svelte';
  import DragNumber from './DragNumber.svelte';
  import KeyPin from './KeyPin.svelte';

  type Props = {
    /** JSON Pointer of the number, by positions. */
    path: string;
    value: number;
    label: string;
    unit?: string;
    low?: number | undefined;
    high?: number | undefined;
    oninput: (value: number) => void;
    onchange: (value: number) => void;
  };
  let { path, value, label, unit = '', low, high, oninput, onchange }: Props = $props();

  const found = $derived(shot.document ? useAt(shot.document, path) : null);
  const numbers = $derived(
    (shot.document?.numbers ?? []).filter((each) => each.look === null || each.name === found?.use.number),
  );
  const now = $derived(
    found
      ? valueOf(
          found.use,
          numbers.find((each) => each.name === found.use.number),
        )
      : value,
  );
  const keyed = new KeyedNumber(
    () => path,
    () => value,
  );
  const options = $derived(numbers.map((each) => ({ value: each.name, text: `number ${each.name}` })));
  const factor = (times: number) => [
    { op: 'replace' as const, path: pointer('number_uses', found?.index ?? 0, 'times'), value: times },
  ];
  function choose(name: string) {
    if (!shot.document || (!name && !found)) return;
    const patch = choosing(shot.document, path, name || null);
    void shot.commit(patch, name ? `${label} follows ${name}` : `${label}: a number of its own`);
  }
</script>

{#if found}
  <Choice
    named
    value={found.use.number}
    label="number for {label}"
    title="{Number(now.toPrecision(4))} {unit}"
    options={[{ value: '', text: 'a number of its own' }, ...options]}
    onchange={choose}
  />
  <DragNumber
    value={found.use.times ?? 1}
    label="{label}: factor"
    unit="×"
    oninput={(times) => shot.preview(factor(times))}
    onchange={(times) => void shot.commit(factor(times), `${label}: factor`)}
  />
{:else}
  <DragNumber
    value={keyed.now}
    {label}
    {unit}
    {...low === undefined ? {} : { low }}
    {...high === undefined ? {} : { high }}
    oninput={(next) => keyed.set(next, label, false) || oninput(next)}
    onchange={(next) => keyed.set(next, label, true) || onchange(next)}
  />
  {#if canHaveKeys(path)}
    <KeyPin tracked={keyed.found !== null} here={keyed.key >= 0} {label} onclick={() => keyed.pin(label)} />
  {/if}
  {#if options.length && canNameNumber(path)}
    <Choice
      named
      value=""
      label="what stands for {label}"
      title="a named number"
      options={[{ value: '', text: '▾' }, ...options]}
      onchange={choose}
    />
  {/if}
{/if}
