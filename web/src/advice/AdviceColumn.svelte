<!-- What the tool noticed, the open recipe's first: why it matters, where it is, and the change that would mend it. -->
<script lang="ts">
  import { bench } from '../state/bench.svelte';
  import type { Advice } from '../api/live';
  import FirstVisit from '../help/FirstVisit.svelte';
  import { live } from '../state/live.svelte';
  import { shot } from '../state/shot.svelte';

  const MARKS = { error: '●', warning: '●', note: '○' };
  let { onscene }: { onscene: () => void } = $props();

  const isHere = (item: Advice) => item.address === bench.address && (!item.look || item.look === bench.look);
  const items = $derived([...live.advice].sort((a, b) => Number(isHere(b)) - Number(isHere(a))));
  const isRecipe = (item: Advice) => /^\/(looks|signals)\//.test(item.address);
</script>

<aside aria-label="advice">
  <FirstVisit />
  <b>advice</b>
  {#each items as item (item.rule + item.look + item.address + item.step + item.reason)}
    <div class="item" class:here={isHere(item)} data-rule={item.rule}>
      <span class="mark {item.severity}" title={item.severity}>{MARKS[item.severity]}</span>
      <p>
        {item.reason}
        <button
          class="plain place"
          title={item.look ? `in look ${item.look}` : ''}
          onclick={() => (isRecipe(item) ? bench.open(item.address, item.look || bench.look) : onscene())}
          >{item.where}</button
        >
        {#if item.fix}
          <button
            class="plain fix"
            onclick={() => item.fix && void shot.commit(item.fix.patch, `advice: ${item.fix.label}`)}
            >{item.fix.label}</button
          >
        {/if}
      </p>
    </div>
  {:else}
    <p class="none">Nothing stands out in what the camera sees.</p>
  {/each}
</aside>

<style>
  aside {
    padding: 8px 10px;
    border-left: 1px solid var(--line);
    overflow: auto;
    min-height: 0;
  }
  .item {
    display: grid;
    grid-template-columns: 14px 1fr;
    margin-top: 6px;
    opacity: 0.75;
  }
  .item.here {
    opacity: 1;
  }
  p {
    margin: 0;
    line-height: 15px;
  }
  .none {
    color: var(--quiet);
    margin-top: 6px;
  }
  .mark.error {
    color: var(--bad);
  }
  .mark.warning {
    color: var(--amber);
  }
  .mark.note {
    color: var(--quiet);
  }
  .place {
    display: block;
    color: var(--quiet);
  }
  .place:hover {
    color: var(--text);
  }
  .fix {
    color: var(--amber);
    border-bottom: 1px dotted var(--amber-line);
  }
  .fix:hover {
    background: var(--amber-soft);
  }
</style>
