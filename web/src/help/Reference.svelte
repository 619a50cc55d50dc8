<!-- Everything that recipes and looks are made of, found by typing: ops with picture, parameters and source; channels; rules of advice. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import Overlay from '../bar/Overlay.svelte';
  import { root } from '../api/root';
  import { shot } from '../state/shot.svelte';

  type Props = { onclose: () => void };
  let { onclose }: Props = $props();

  let text = $state('');
  let find: HTMLInputElement | undefined = $state();
  const words = $derived(text.toLowerCase().split(/\s+/).filter(Boolean));
  const holds = (...parts: string[]) => {
    const all = parts.join(' ').toLowerCase();
    return words.every((word) => all.includes(word));
  };
  const KINDS = { source: 'source', modifier: 'step', warp: 'bends space' } as const;
  const ops = $derived(
    shot.vocabulary.ops.filter((op) => holds(op.name, op.purpose, op.category, op.source, ...op.synonyms)),
  );
  const channels = $derived(
    shot.vocabulary.channels.filter((each) => holds(each.name, each.label, each.purpose, ...each.synonyms)),
  );
  const rules = $derived(shot.vocabulary.rules.filter((each) => holds(each.name, each.about)));
  const rangeOf = (low: number | null | undefined, high: number | null | undefined) =>
    low === null && high === null ? '' : `${low ?? '…'} … ${high ?? '…'}`;

  onMount(() => find?.focus());
</script>

<Overlay label="ops, channels and rules" {onclose}>
  {#snippet head()}
    <b>ops, channels and rules</b>
    <input
      bind:this={find}
      bind:value={text}
      aria-label="find in all of them"
      placeholder="find: rim, wet, cracks …"
    />
    <span class="quiet">{ops.length} ops, {channels.length} channels, {rules.length} rules</span>
  {/snippet}
  <div class="body">
    {#each ops as op (op.name)}
      <article>
        <img
          src="{root}/api/ops/{encodeURIComponent(op.name)}/picture"
          alt="what {op.name} does"
          loading="lazy"
        />
        <div>
          <h3>{op.name} <small>{KINDS[op.kind]}</small></h3>
          <p>{op.purpose}</p>
          {#if op.synonyms.length}<p class="quiet">also: {op.synonyms.join(', ')}</p>{/if}
          <details>
            <summary>{op.parameters.length} parameters, and where it is from</summary>
            <dl>
              {#each op.parameters as each (each.name)}
                <dt>{each.name.replaceAll('_', ' ')}</dt>
                <dd>
                  {each.purpose}
                  <span class="mono"
                    >{each.choices.join(' · ') || rangeOf(each.range[0], each.range[1])} {each.unit}</span
                  >
                  {#if each.varies}<span class="varies">may vary from point to point</span>{/if}
                </dd>
              {/each}
            </dl>
            <p class="quiet">{op.source}. {op.non_finite}</p>
          </details>
        </div>
      </article>
    {/each}
    {#each channels as each (each.name)}
      <article>
        <div class="wide">
          <h3>{each.label} <small>channel, {each.channel_group} · {each.name}</small></h3>
          <p>{each.purpose} <span class="mono">{rangeOf(each.low, each.high)} {each.unit}</span></p>
          {#if each.synonyms.length}<p class="quiet">also: {each.synonyms.join(', ')}</p>{/if}
        </div>
      </article>
    {/each}
    {#each rules as each (each.name)}
      <article>
        <div class="wide">
          <h3>{each.name} <small>rule of advice</small></h3>
          <p>{each.about}</p>
        </div>
      </article>
    {/each}
  </div>
</Overlay>

<style>
  input {
    background: var(--ground);
    border: 1px solid var(--line);
    color: var(--text);
    font: inherit;
    padding: 3px 6px;
    min-width: 220px;
  }
  .body {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(380px, 1fr));
    gap: 18px 24px;
    align-content: start;
    flex: 1;
    min-height: 0;
    overflow: auto;
    padding: 14px;
  }
  article {
    display: grid;
    grid-template-columns: 96px 1fr;
    gap: 12px;
  }
  .wide {
    grid-column: 1 / -1;
  }
  img {
    width: 96px;
    height: 96px;
  }
  h3 {
    margin: 0;
    font-size: 14px;
    font-weight: 600;
  }
  small,
  .quiet {
    color: var(--quiet);
    font-weight: 400;
  }
  p,
  dl {
    margin: 2px 0;
    font-size: 12px;
    line-height: 16px;
  }
  summary {
    color: var(--amber);
    font-size: 12px;
    min-height: 24px;
    line-height: 24px;
    cursor: pointer;
  }
  dt {
    font-weight: 600;
  }
  dd {
    margin: 0 0 4px;
  }
  .mono {
    color: var(--quiet);
  }
  .varies {
    color: var(--named);
  }
</style>
