<!-- A second input: a number, a colour, a shared signal, or a recipe of its own. -->
<script lang="ts">
  import type { Json } from '../api/client';
  import { shot } from '../state/shot.svelte';
  import Choice from './Choice.svelte';
  import ColourField from './ColourField.svelte';
  import DragNumber from './DragNumber.svelte';
  import StandInsField from './StandInsField.svelte';

  type Props = {
    value: Json;
    label: string;
    unit: string;
    /** The number it becomes from something else. */
    fallback?: number;
    kinds: 'all' | 'no colour' | 'constants';
    oninput: (value: Json) => void;
    onchange: (value: Json) => void;
    onopen?: () => void;
  };
  let { value, label, unit, kinds, fallback = 1, oninput, onchange, onopen }: Props = $props();

  const isColour = $derived(Array.isArray(value));
  const object = $derived(
    value !== null && typeof value === 'object' && !Array.isArray(value)
      ? (value as Record<string, Json>)
      : null,
  );
  const signal = $derived(object && 'signal' in object ? String(object['signal']) : null);
  const chosen = $derived(signal ? `signal:${signal}` : object ? 'recipe' : isColour ? 'colour' : 'number');
  const options = $derived([
    { value: 'number', text: 'number' },
    ...(kinds === 'no colour' ? [] : [{ value: 'colour', text: 'colour' }]),
    ...(kinds === 'constants'
      ? []
      : [
          ...(shot.document?.signals ?? []).map((each) => ({
            value: `signal:${each.name}`,
            text: each.name,
          })),
          { value: 'recipe', text: 'nested recipe' },
        ]),
  ]);

  function become(wanted: string) {
    if (wanted.startsWith('signal:')) onchange({ signal: wanted.slice(7) });
    else if (wanted === 'recipe') onchange({ steps: [{ op: 'noise', params: {} }] });
    else if (wanted === 'colour')
      onchange(isColour ? value : Array(3).fill(typeof value === 'number' ? value : fallback));
    else onchange(isColour ? ((value as number[])[0] ?? fallback) : typeof value === 'number' ? value : 1);
  }
  /** A recipe that begins with the signal, so that space steps can stand before it. */
  function bend() {
    const { space, ...params } = object ?? {};
    const before = Array.isArray(space) ? space : [];
    onchange({ steps: [...before, { op: 'signal', params }] });
    onopen?.();
  }
</script>

<span class="input">
  <Choice named={signal !== null} value={chosen} label="kind of {label}" {options} onchange={become} />
  {#if isColour}
    <ColourField value={value as number[]} {label} {oninput} {onchange} />
  {:else if signal}
    <button class="plain act" title="look it up elsewhere: give it space steps of its own" onclick={bend}
      >bend</button
    >
  {:else if object}
    <button class="plain act" onclick={onopen}>edit</button>
  {:else}
    <DragNumber value={Number(value)} {label} {unit} {oninput} {onchange} />
  {/if}
</span>
{#if signal}
  <StandInsField
    {signal}
    value={(object?.['stand_ins'] ?? {}) as Record<string, Json>}
    onchange={(stand_ins) => onchange({ ...object, stand_ins })}
  />
{/if}

<style>
  .input {
    display: inline-flex;
    gap: 6px;
    align-items: center;
  }
  .act {
    color: var(--quiet);
  }
  .act:hover {
    color: var(--amber);
  }
</style>
