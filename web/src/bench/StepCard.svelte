<!-- One step: its picture, the values that come in with its handles on them, and its parameters. -->
<script lang="ts">
  import type { Json, Op, Parameter, Step } from '../api/client';
  import { clipboard } from '../state/clipboard.svelte';
  import type { StepMeasure } from '../api/live';
  import Histogram from './Histogram.svelte';
  import { percent } from '../fields/numbers';
  import OpMenu from './OpMenu.svelte';
  import ParameterField from './ParameterField.svelte';

  type Props = {
    number: number;
    step: Step;
    op: Op | undefined;
    unit: string;
    /** JSON Pointer to the step. */
    at: string;
    measure: StepMeasure | undefined;
    alone: boolean;
    advised: boolean;
    last: boolean;
    oninput: (name: string, value: Json) => void;
    onchange: (name: string, value: Json) => void;
    onshow: () => void;
    onswitch: () => void;
    onremove: () => void;
    onmove: (by: number) => void;
    onlift: (lifted: boolean) => void;
    onfit: (ends: { name: string; value: number }[]) => void;
    onreplace: (op: Op) => void;
    onopen: (parameter: string) => void;
  };
  let {
    number,
    step,
    op,
    unit,
    at,
    measure,
    alone,
    advised,
    last,
    oninput,
    onchange,
    onshow,
    onswitch,
    onremove,
    onmove,
    onlift,
    onfit,
    onreplace,
    onopen,
  }: Props = $props();

  /** Parameters that are shown at first; the rest come with “more”, unless they were changed. */
  const FEW = 6;

  let choosing = $state(false);
  let all = $state(false);

  const params = $derived(step.params as Record<string, Json>);
  const valueOf = (name: string): Json =>
    params[name] ?? (op?.parameters.find((each) => each.name === name)?.default as Json);
  const values = $derived(
    Object.fromEntries((op?.parameters ?? []).map((each) => [each.name, valueOf(each.name)])),
  );
  const shown = $derived(
    (op?.parameters ?? []).filter((each, index) => all || index < FEW || each.name in params),
  );
  /** What a step is all about comes before its picture: a formula, a curve. */
  const lead = $derived(shown.filter((each) => each.type === 'formula' || each.type === 'curve'));
  const rest = $derived(shown.filter((each) => !lead.includes(each)));
  const hidden = $derived((op?.parameters.length ?? 0) - shown.length);
  const source = $derived(op?.kind === 'source');
  const measured = $derived((source ? measure?.values : measure?.incoming) ?? undefined);
  /** What varies from point to point has no one place on the histogram. */
  const handles = $derived(
    (op?.handles ?? [])
      .filter((name) => typeof valueOf(name) === 'number')
      .map((name) => ({ name, value: Number(valueOf(name)) })),
  );
  const inUnits = (name: string) => ((op?.handles ?? []).includes(name) ? unit : '');
</script>

{#snippet fields(parameters: Parameter[])}
  {#each parameters as parameter (parameter.name)}
    <ParameterField
      {parameter}
      value={valueOf(parameter.name)}
      unit={inUnits(parameter.name)}
      at="{at}/params/{parameter.name}"
      response={measure?.response ?? null}
      beside={values}
      oninput={(value) => oninput(parameter.name, value)}
      onchange={(value) => onchange(parameter.name, value)}
      onopen={(within = '') => onopen(parameter.name + within)}
    />
  {/each}
{/snippet}

<article class:alone class:off={!step.on} class:space={op?.kind === 'warp'} data-step={step.op}>
  <header>
    {#if source}
      <span class="mono count">{number}</span>
    {:else}
      <span
        class="mono count grip"
        role="button"
        tabindex="0"
        draggable="true"
        title="drag to reorder; arrow keys move it too"
        aria-label="reorder {step.op}"
        ondragstart={() => onlift(true)}
        ondragend={() => onlift(false)}
        onkeydown={(event) => {
          const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
          if (!by) return;
          event.preventDefault();
          onmove(by);
        }}
        data-text="⋮⋮ {number}"
      ></span>
    {/if}
    <b class:advised>{step.op}</b>
    <span class="tools">
      <button
        class="plain"
        title="copy the step"
        aria-label="copy {step.op}"
        onclick={() => clipboard.copy([step])}>copy</button
      >
      {#if !source}
        <button
          class="plain"
          role="switch"
          aria-checked={step.on}
          aria-label="{step.op} on or off"
          onclick={onswitch}>{step.on ? 'on' : 'off'}</button
        >
        <button class="plain" title="take away" aria-label="take {step.op} away" onclick={onremove}>×</button>
      {:else}
        <span class="kind source">
          <button class="plain" title="begin with another source" onclick={() => (choosing = !choosing)}
            >source ▾</button
          >
          {#if choosing}
            <OpMenu
              kind="source"
              onpick={(picked) => {
                choosing = false;
                onreplace(picked);
              }}
              onclose={() => (choosing = false)}
            />
          {/if}
        </span>
      {/if}
    </span>
  </header>
  {#if lead.length}<div class="lead">{@render fields(lead)}</div>{/if}
  <button
    class="plain picture"
    onclick={onshow}
    title={op?.kind === 'warp' ? 'show the bent grid on the stage' : 'show this step alone on the stage'}
    aria-label="show {step.op} alone"
  >
    {#if measure}<img src={measure.picture} alt="values after {step.op}" />{:else}<span class="wait"
      ></span>{/if}
  </button>
  {#if measured}
    <Histogram
      values={measured}
      response={source ? null : measure?.response}
      {handles}
      varies={handles.length < (op?.handles ?? []).length}
      {oninput}
      {onchange}
      {onfit}
    />
  {/if}
  {#if last && measure && !measure.colour}
    <div class="covers">
      {#if measure.values && measure.values.high - measure.values.low < 1e-6}
        the same everywhere
      {:else}
        covers <span class="mono">{percent(measure.covered)}</span> of what is seen
      {/if}
    </div>
  {/if}
  <div class="parameters">
    {@render fields(rest)}
    {#if hidden || all}
      <button class="plain more" onclick={() => (all = !all)}>{all ? 'fewer' : `${hidden} more`}</button>
    {/if}
  </div>
</article>

<style>
  .grip::before {
    content: attr(data-text);
  }
  article {
    width: 214px;
    flex: none;
    background: var(--panel);
    border: 1px solid var(--line);
    padding: 6px 8px 8px;
    display: flex;
    flex-direction: column;
    gap: 4px;
  }
  article.space {
    border-style: dashed;
  }
  article.alone {
    border-color: var(--amber);
  }
  article.off .picture,
  article.off .parameters {
    opacity: 0.35;
  }
  header {
    display: flex;
    gap: 6px;
    align-items: center;
  }
  header b {
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  b.advised {
    color: var(--amber);
  }
  .count,
  .kind {
    color: var(--quiet);
    white-space: nowrap;
  }
  .grip {
    cursor: grab;
    letter-spacing: -1px;
  }
  .source {
    position: relative;
  }
  .tools {
    margin-left: auto;
    display: flex;
    gap: 8px;
    color: var(--quiet);
    white-space: nowrap;
  }
  .tools button:hover {
    color: var(--amber);
  }
  .picture {
    position: relative;
    height: 84px;
    background: var(--well);
    overflow: hidden;
    flex: none;
  }
  .lead {
    flex: none;
  }
  .lead + .picture {
    height: 52px;
  }
  .picture:hover {
    box-shadow: 0 0 0 1px var(--amber);
  }
  img,
  .wait {
    display: block;
    width: 100%;
    height: 100%;
    object-fit: contain;
  }
  .covers {
    color: var(--quiet);
    font-size: 12px;
  }
  .parameters {
    overflow: auto;
    min-height: 0;
    padding-right: 2px;
  }
  .more {
    color: var(--faint);
  }
  .more:hover {
    color: var(--amber);
  }
</style>
