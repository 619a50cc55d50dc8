<!-- One parameter of an op: what it is called, and the right way to change a value of its kind. -->
<script lang="ts">
  import type { Json, Parameter } from '../api/client';
  import type { Response } from '../api/live';
  import { KeyedNumber } from '../state/keyedNumber.svelte';
  import { shot } from '../state/shot.svelte';
  import Choice from '../fields/Choice.svelte';
  import CurveField from '../fields/CurveField.svelte';
  import DragNumber from '../fields/DragNumber.svelte';
  import { makesColour } from './fresh';
  import FileField from '../fields/FileField.svelte';
  import FormulaField from '../fields/FormulaField.svelte';
  import GridField from '../fields/GridField.svelte';
  import KeyPin from '../fields/KeyPin.svelte';
  import NumberOrNamed from '../fields/NumberOrNamed.svelte';
  import InputField from '../fields/InputField.svelte';
  import PlaceField from '../fields/PlaceField.svelte';
  import RampField from '../fields/RampField.svelte';
  import StandInsField from '../fields/StandInsField.svelte';

  type Props = {
    parameter: Parameter;
    value: Json;
    unit?: string;
    bare?: boolean;
    /** JSON Pointer to the value, by which its problems are found. */
    at?: string;
    response?: Response | null;
    /** All values of the step, where a field needs its neighbours. */
    beside?: Record<string, Json>;
    oninput: (value: Json) => void;
    onchange: (value: Json) => void;
    /** Open the recipe that stands in its place; or, of a list, at a place within it. */
    onopen?: (within?: string) => void;
  };
  let {
    parameter,
    value,
    unit = '',
    bare = false,
    at = '',
    response = null,
    beside = {},
    oninput,
    onchange,
    onopen,
  }: Props = $props();

  const label = $derived(parameter.name.replaceAll('_', ' '));
  const kind = $derived(parameter.type);
  // A picture in a recipe of data is never offered as colour, but stays what it is.
  const offered = $derived(
    parameter.name === 'role' && !makesColour()
      ? parameter.choices.filter((choice) => choice !== 'colour' || choice === value)
      : parameter.choices,
  );
  const takesKeys = $derived(!bare && at !== '' && kind === 'number' && typeof value === 'number');
  const keyed = new KeyedNumber(
    () => (takesKeys ? at : ''),
    () => Number(value),
  );
  const wide = $derived(['stops', 'curve', 'formula', 'stand-ins'].includes(kind));
  /** A file by the name that it came in with. */
  function fileName(ref: Json): string {
    const { file = '', sha256 = '' } = (ref ?? {}) as { file?: string; sha256?: string };
    const known = [...shot.pictures, ...shot.voxelFiles];
    const found = known.find((each) => sha256 && each.sha256 === sha256);
    return (found?.name ?? file).replace(/^.*\//, '');
  }
</script>

{#snippet editor()}
  {#if kind === 'number' || kind === 'whole number'}
    <NumberOrNamed
      value={keyed.found ? keyed.now : value}
      {label}
      unit={parameter.unit || unit}
      low={parameter.range[0] ?? null}
      high={parameter.range[1] ?? null}
      whole={kind === 'whole number'}
      offers={!bare && kind === 'number'}
      varies={parameter.varies}
      fallback={typeof parameter.default === 'number' ? parameter.default : 0}
      onopen={() => onopen?.()}
      oninput={(next) => keyed.set(Number(next), label, false) || oninput(next)}
      onchange={(next) => keyed.set(Number(next), label, true) || onchange(next)}
    />
    {#if takesKeys}
      <KeyPin tracked={keyed.found !== null} here={keyed.key >= 0} {label} onclick={() => keyed.pin(label)} />
    {/if}
  {:else if kind === 'choice'}
    <Choice
      value={String(value)}
      {label}
      options={offered.map((choice) => ({ value: choice, text: choice }))}
      {onchange}
    />
  {:else if kind === 'switch'}
    <Choice
      value={value ? 'yes' : 'no'}
      {label}
      options={[
        { value: 'yes', text: 'yes' },
        { value: 'no', text: 'no' },
      ]}
      onchange={(text) => onchange(text === 'yes')}
    />
  {:else if kind === 'place'}
    <PlaceField {value} {label} {onchange} />
  {:else if kind === 'signal'}
    <Choice
      named
      value={String(value)}
      {label}
      options={(shot.document?.signals ?? []).map((each) => ({ value: each.name, text: each.name }))}
      {onchange}
    />
  {:else if kind === 'stand-ins'}
    {#if !bare}
      <StandInsField
        signal={String(beside['signal'] ?? '')}
        value={(value ?? {}) as Record<string, Json>}
        {onchange}
      />
    {/if}
  {:else if kind === 'attribute'}
    <Choice
      named
      value={String(value)}
      {label}
      options={shot.attributes.map((name) => ({ value: name, text: name }))}
      {onchange}
    />
  {:else if kind === 'image' || kind === 'voxel file'}
    {#if bare}<span class="mono">{fileName(value)}</span>{:else}<FileField
        {kind}
        {value}
        {label}
        {onchange}
      />{/if}
  {:else if kind === 'voxel grid'}
    {#if bare}<span class="mono">{String(value)}</span>{:else}<GridField
        value={String(value)}
        file={beside['file'] ?? null}
        {label}
        {onchange}
      />{/if}
  {:else if kind === 'input' || kind === 'scalar input' || kind === 'number or colour'}
    {#if bare && typeof value === 'number'}
      <DragNumber {value} {label} {unit} {oninput} {onchange} />
    {:else}
      <InputField
        {value}
        {label}
        {unit}
        kinds={kind === 'input' ? 'all' : kind === 'scalar input' ? 'no colour' : 'constants'}
        {oninput}
        {onchange}
        onopen={() => onopen?.()}
      />
    {/if}
  {:else if kind === 'vector'}
    <span class="vector">
      {#each value as Json[] as part, index (index)}
        <NumberOrNamed
          value={part}
          low={null}
          high={null}
          whole={false}
          offers={false}
          label="{label} {'xyz'[index]}"
          unit={index === 2 ? parameter.unit : ''}
          oninput={(next) => oninput((value as Json[]).map((x, i) => (i === index ? next : x)))}
          onchange={(next) => onchange((value as Json[]).map((x, i) => (i === index ? next : x)))}
        />
      {/each}
    </span>
  {:else if kind === 'stops'}
    {#if bare}
      a ramp of {(value as Json[]).length} stops
    {:else}
      <RampField
        stops={value as { at: number; value: Json }[]}
        onopen={(index) => onopen?.(`/${index}/value`)}
        interpolation={String(beside['interpolation'] ?? 'linear')}
        oninput={(stops) => oninput(stops as Json)}
        onchange={(stops) => onchange(stops as Json)}
      />
    {/if}
  {:else if kind === 'curve'}
    {#if !bare}
      <CurveField
        points={value as [number, number][]}
        {response}
        oninput={(points) => oninput(points as Json)}
        onchange={(points) => onchange(points as Json)}
      />
    {/if}
  {:else if kind === 'formula'}
    {#if bare}<span class="mono formula">{String(value)}</span>
    {:else}<FormulaField value={String(value)} {label} {at} {oninput} {onchange} />{/if}
  {:else}
    <span class="mono">{String(value)}</span>
  {/if}
{/snippet}

{#if bare}
  {@render editor()}
{:else}
  <div class="parameter" class:wide title={parameter.purpose}>
    {#if !wide}<span class="label">{label}</span>{/if}
    <span class="value">{@render editor()}</span>
  </div>
{/if}

<style>
  .parameter {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
    gap: 6px;
    min-height: 19px;
  }
  .label {
    color: var(--quiet);
    white-space: nowrap;
  }
  .value {
    display: inline-flex;
    flex-wrap: wrap;
    justify-content: flex-end;
    gap: 2px 6px;
    align-items: center;
    min-width: 0;
  }
  .wide .value {
    display: block;
    width: 100%;
  }
  .vector {
    display: inline-flex;
    gap: 8px;
  }
  .formula {
    color: var(--amber);
  }
</style>
