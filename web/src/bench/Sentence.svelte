<!-- The recipe as one sentence, made from what each op says of itself; its numbers can be changed in place. -->
<script lang="ts">
  import type { Json, Op, Recipe, Step } from '../api/client';
  import { shot } from '../state/shot.svelte';
  import ParameterField from './ParameterField.svelte';

  type Props = {
    start: string;
    verb: string;
    recipe: Recipe;
    units: string[];
    oninput: (step: number, name: string, value: Json) => void;
    onchange: (step: number, name: string, value: Json) => void;
    onopen: (signal: string) => void;
    onopeninput: (step: number, name: string) => void;
  };
  let { start, verb, recipe, units, oninput, onchange, onopen, onopeninput }: Props = $props();

  type Word = { text: string } | { step: number; op: Op; name: string };

  const phraseOf = (op: Op, step: Step) =>
    Object.values((step.params ?? {}) as Record<string, Json>).some((value) => signalOf(value))
      ? op.signal_phrase
      : op.phrase;
  const words = $derived.by(() => {
    const result: Word[] = [];
    const told = recipe.steps
      .map((step, index) => ({ step, index, op: shot.vocabulary.ops.find((each) => each.name === step.op) }))
      .filter((each) => each.op && each.step.on);
    // What bends space is told after the source that it bends: “the picture …, swirled …”.
    const order = (kind: string | undefined) => (kind === 'source' ? 0 : kind === 'warp' ? 1 : 2);
    told.sort((a, b) => order(a.op?.kind) - order(b.op?.kind));
    told.forEach(({ step, index, op }, place) => {
      if (!op) return;
      if (place) result.push({ text: place === 1 && op.kind === 'modifier' ? ' ' : ', ' });
      for (const part of phraseOf(op, step).split(/(\{\w+\})/)) {
        if (part.startsWith('{')) result.push({ step: index, op, name: part.slice(1, -1) });
        else if (part) result.push({ text: part });
      }
    });
    return result;
  });
  const valueOf = (word: { step: number; op: Op; name: string }): Json =>
    ((recipe.steps[word.step]?.params ?? {}) as Record<string, Json>)[word.name] ??
    (word.op.parameters.find((each) => each.name === word.name)?.default as Json);
  const isRecipe = (value: Json) =>
    value !== null && typeof value === 'object' && !Array.isArray(value) && 'steps' in value;
  const signalOf = (value: Json): string | null =>
    value !== null && typeof value === 'object' && !Array.isArray(value) && 'signal' in value
      ? String(value['signal'])
      : null;
</script>

<p class="sentence">
  <b>{start}</b>
  {verb}
  {#each words as word, index (index)}
    {#if 'text' in word}{word.text}{:else}
      {@const parameter = word.op.parameters.find((each) => each.name === word.name)}
      {@const value = valueOf(word)}
      {@const signal = parameter?.type === 'signal' ? String(value) : signalOf(value)}
      {#if signal}
        <button class="plain named" title="open this signal" onclick={() => onopen(signal)}>{signal}</button>
      {:else if isRecipe(value)}
        <button class="plain own" title="open it" onclick={() => onopeninput(word.step, word.name)}
          >nested recipe</button
        >
      {:else if parameter}
        <ParameterField
          bare
          {parameter}
          {value}
          unit={word.op.handles.includes(word.name) ? (units[word.step] ?? '') : ''}
          oninput={(next) => oninput(word.step, word.name, next)}
          onchange={(next) => onchange(word.step, word.name, next)}
        />
      {/if}
    {/if}
  {/each}<span>.</span>
</p>

<style>
  .sentence {
    font-size: 14px;
    line-height: 22px;
    margin: 0;
  }
  .own {
    color: var(--amber);
    border-bottom: 1px dotted var(--amber-line);
  }
  .named {
    color: var(--named);
    border-bottom: 1px solid var(--named-line);
  }
</style>
