<!-- What the server refused last: why, where, and the mends that it offers. -->
<script lang="ts">
  import type { Operation } from '../api/client';
  import { shot } from '../state/shot.svelte';

  const problem = $derived(shot.refusal?.problem ?? null);
</script>

{#if problem}
  <p class="problem" role="alert">
    <span class="what">{shot.refusal?.label}:</span>
    {problem.reason}{problem.hint ? ` — ${problem.hint}` : ''}
    {#each problem.mends as mend (mend.label)}
      <button class="plain mend" onclick={() => shot.mend(mend.patch as Operation[])}>{mend.label}</button>
    {/each}
    <button class="plain" onclick={() => shot.forgo()}>leave it as it was</button>
  </p>
{/if}

<style>
  .problem {
    color: var(--bad);
    margin: 0;
  }
  .mend {
    color: var(--amber);
    min-height: 24px;
    margin-left: 12px;
  }
  .what {
    color: var(--quiet);
  }
</style>
