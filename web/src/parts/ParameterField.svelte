<!-- One parameter of an op: what it is called, and the right way to change a value of its kind. -->
<script lang="ts">
  import type { Json, Parameter } from '../api/client';
  import { shot } from '../state/shot.svelte';
  import Choice from './Choice.svelte';
  import ColourField from './ColourField.svelte';
  import DragNumber from './DragNumber.svelte';
  import RampField from './RampField.svelte';

  type Props = {
    parameter: Parameter;
    value: Json;
    unit?: string;
    bare?: boolean;
    oninput: (value: Json) => void;
    onchange: (value: Json) => void;
  };
  let { parameter, value, unit = '', bare = false, oninput, onchange }: Props = $props();

  const label = $derived(parameter.name.replaceAll('_', ' '));
  const kind = $derived(parameter.type);
  const document = $derived(shot.document);
  const places = $derived([
    { value: 'world', text: 'the world' },
    { value: 'object', text: 'the object' },
    ...(document?.locators ?? []).map((locator) => ({
      value: `locator:${locator.name}`,
      text: locator.name,
    })),
  ]);
  const signals = $derived(
    (document?.signals ?? []).map((signal) => ({ value: signal.name, text: signal.name })),
  );
  const isColour = $derived(Array.isArray(value));
  const reference = $derived(
    value !== null && typeof value === 'object' && !Array.isArray(value)
      ? (value as Record<string, Json>)
      : null,
  );
  const inputKinds = $derived([
    { value: 'number', text: 'number' },
    ...(kind === 'scalar input' ? [] : [{ value: 'colour', text: 'colour' }]),
    ...signals.map((signal) => ({ value: `signal:${signal.value}`, text: signal.text })),
  ]);

  function placeOf(text: string): Json {
    return text.startsWith('locator:') ? { locator: text.slice(8) } : text;
  }
  function switchInput(text: string) {
    if (text.startsWith('signal:')) onchange({ signal: text.slice(7) });
    else if (text === 'colour')
      onchange(isColour ? value : Array(3).fill(typeof value === 'number' ? value : 1));
    else onchange(isColour ? ((value as number[])[0] ?? 1) : typeof value === 'number' ? value : 1);
  }
</script>

{#snippet editor()}
  {#if kind === 'number' || kind === 'whole number'}
    <DragNumber
      value={Number(value)}
      {label}
      unit={parameter.unit || unit}
      low={parameter.range[0] ?? null}
      high={parameter.range[1] ?? null}
      whole={kind === 'whole number'}
      {oninput}
      {onchange}
    />
  {:else if kind === 'choice'}
    <Choice
      value={String(value)}
      {label}
      options={parameter.choices.map((choice) => ({ value: choice, text: choice }))}
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
    <Choice
      named={reference !== null}
      value={reference ? `locator:${String(reference['locator'])}` : String(value)}
      {label}
      options={places}
      onchange={(text) => onchange(placeOf(text))}
    />
  {:else if kind === 'signal'}
    <Choice named value={String(value)} {label} options={signals} {onchange} />
  {:else if kind === 'attribute'}
    <Choice
      named
      value={String(value)}
      {label}
      options={shot.attributes.map((name) => ({ value: name, text: name }))}
      {onchange}
    />
  {:else if kind === 'input' || kind === 'scalar input' || kind === 'number or colour'}
    {#if !bare || reference}
      <Choice
        named={reference !== null}
        value={reference ? `signal:${String(reference['signal'])}` : isColour ? 'colour' : 'number'}
        label="kind of {label}"
        options={kind === 'number or colour' ? inputKinds.slice(0, 2) : inputKinds}
        onchange={switchInput}
      />
    {/if}
    {#if isColour}
      <ColourField value={value as number[]} {label} {oninput} {onchange} />
    {:else if !reference}
      <DragNumber value={Number(value)} {label} {unit} {oninput} {onchange} />
    {/if}
  {:else if kind === 'vector'}
    <span class="vector">
      {#each value as number[] as part, index (index)}
        <DragNumber
          value={part}
          label="{label} {'xyz'[index]}"
          oninput={(next) => oninput((value as number[]).map((x, i) => (i === index ? next : x)))}
          onchange={(next) => onchange((value as number[]).map((x, i) => (i === index ? next : x)))}
        />
      {/each}
    </span>
  {:else if kind === 'stops'}
    {#if bare}
      a ramp of {(value as Json[]).length} stops
    {:else}
      <RampField
        stops={value as { at: number; value: number | number[] }[]}
        oninput={(stops) => oninput(stops as Json)}
        onchange={(stops) => onchange(stops as Json)}
      />
    {/if}
  {:else}
    <span class="mono">{String(value)}</span>
  {/if}
{/snippet}

{#if bare}
  {@render editor()}
{:else}
  <div class="parameter" class:wide={kind === 'stops'} title={parameter.purpose}>
    {#if kind !== 'stops'}<span class="label">{label}</span>{/if}
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
    gap: 6px;
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
</style>
