<!-- One step: its picture, the values that come in with its handles on them, and its parameters. -->
<script lang="ts">
  import type { Json, Op, Step } from '../api/client';
  import type { StepMeasure } from '../state/live.svelte';
  import Histogram from './Histogram.svelte';
  import { percent } from './numbers';
  import OpMenu from './OpMenu.svelte';
  import ParameterField from './ParameterField.svelte';

  type Props = {
    number: number;
    step: Step;
    op: Op | undefined;
    unit: string;
    measure: StepMeasure | undefined;
    alone: boolean;
    first: boolean;
    last: boolean;
    oninput: (name: string, value: Json) => void;
    onchange: (name: string, value: Json) => void;
    onshow: () => void;
    onswitch: () => void;
    onremove: () => void;
    onmove: (by: number) => void;
    onfit: (ends: { name: string; value: number }[]) => void;
    onreplace: (op: Op) => void;
  };
  let {
    number,
    step,
    op,
    unit,
    measure,
    alone,
    first,
    last,
    oninput,
    onchange,
    onshow,
    onswitch,
    onremove,
    onmove,
    onfit,
    onreplace,
  }: Props = $props();

  let choosing = $state(false);

  const valueOf = (name: string): Json =>
    (step.params as Record<string, Json>)[name] ??
    (op?.parameters.find((each) => each.name === name)?.default as Json);
  const measured = $derived(op?.kind === 'source' ? measure?.values : (measure?.incoming ?? undefined));
  const handles = $derived((op?.handles ?? []).map((name) => ({ name, value: Number(valueOf(name)) })));
  const inUnits = (name: string) => ((op?.handles ?? []).includes(name) ? unit : '');
</script>

<article class:alone class:off={!step.on}>
  <header>
    <span class="mono count">{number}</span>
    <b>{step.op}</b>
    <span class="tools">
      {#if !first}
        <button class="plain" title="earlier" aria-label="move {step.op} earlier" onclick={() => onmove(-1)}
          >‹</button
        >
        {#if !last}<button
            class="plain"
            title="later"
            aria-label="move {step.op} later"
            onclick={() => onmove(1)}>›</button
          >{/if}
        <button
          class="plain"
          aria-label={step.on ? `switch ${step.op} off` : `switch ${step.op} on`}
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
  <button
    class="plain picture"
    onclick={onshow}
    title="show this step alone on the stage"
    aria-label="show {step.op} alone"
  >
    {#if measure}<img src={measure.picture} alt="values after {step.op}" />{:else}<span class="wait"
      ></span>{/if}
  </button>
  {#if measured}
    <Histogram values={measured} {handles} {oninput} {onchange} {onfit} />
  {/if}
  {#if last && measure && !measure.colour}
    <div class="covers">covers <span class="mono">{percent(measure.covered)}</span> of what is seen</div>
  {/if}
  <div class="parameters">
    {#each op?.parameters ?? [] as parameter (parameter.name)}
      <ParameterField
        {parameter}
        value={valueOf(parameter.name)}
        unit={inUnits(parameter.name)}
        oninput={(value) => oninput(parameter.name, value)}
        onchange={(value) => onchange(parameter.name, value)}
      />
    {/each}
  </div>
</article>

<style>
  article {
    width: 214px;
    flex: none;
    background: var(--panel);
    border: 1px solid var(--line);
    padding: 6px 8px 8px;
    display: flex;
    flex-direction: column;
    gap: 4px;
    max-height: 100%;
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
  .count,
  .kind {
    color: var(--quiet);
  }
  .source {
    position: relative;
  }
  .tools {
    margin-left: auto;
    display: flex;
    gap: 8px;
    color: var(--quiet);
  }
  .tools button:hover {
    color: var(--amber);
  }
  .picture {
    position: relative;
    height: 96px;
    background: #0d1014;
    overflow: hidden;
    flex: none;
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
    font-size: 11px;
  }
  .parameters {
    overflow: auto;
    min-height: 0;
    padding-right: 2px;
  }
</style>
