<!-- How much memory computed values may take, and what it holds. -->
<script lang="ts">
  import { live } from '../state/live.svelte';
  import DragNumber from '../fields/DragNumber.svelte';
  import { inBytes as size } from '../fields/numbers';

  const MEGA = 1e6;
  const memory = $derived(live.memory);
  /** Kinds of a tenth of a megabyte and more by themselves, the others together. */
  const large = $derived((memory?.kinds ?? []).filter((each) => each.bytes >= MEGA / 10));
  const small = $derived((memory?.kinds ?? []).filter((each) => each.bytes < MEGA / 10));
  const total = (kinds: typeof small) => ({
    kind: 'others',
    count: kinds.reduce((sum, each) => sum + each.count, 0),
    bytes: kinds.reduce((sum, each) => sum + each.bytes, 0),
  });
  const listed = $derived(small.length ? [...large, total(small)] : large);
</script>

<section aria-label="memory">
  <p>What was computed is kept until it takes more than this; what was used least recently goes first.</p>
  <div class="budget">
    <span>keep at most</span>
    <DragNumber
      value={Math.round((memory?.budget ?? 0) / MEGA)}
      label="memory for computed values"
      unit="MB"
      low={100}
      high={1_000_000}
      whole
      oninput={() => {}}
      onchange={(value) => live.setBudget(value * MEGA)}
    />
  </div>
  {#if memory}
    <div
      class="bar"
      role="meter"
      aria-label="memory in use"
      aria-valuemin="0"
      aria-valuemax={memory.budget}
      aria-valuenow={memory.bytes}
      aria-valuetext="{size(memory.bytes)} of {size(memory.budget)}"
    >
      <span style:width="{Math.min((memory.bytes / memory.budget) * 100, 100)}%"></span>
    </div>
    <p class="mono">{size(memory.bytes)} of {size(memory.budget)}</p>
    <table>
      <thead><tr><th scope="col">held</th><th scope="col">number</th><th scope="col">size</th></tr></thead>
      <tbody>
        {#each listed as each (each.kind)}
          <tr
            ><td>{each.kind}</td><td class="mono">{each.count}</td><td class="mono">{size(each.bytes)}</td
            ></tr
          >
        {/each}
      </tbody>
    </table>
  {/if}
</section>

<style>
  section {
    padding: 12px;
  }
  p {
    color: var(--quiet);
    margin: 0 0 8px;
    max-width: 42ch;
  }
  .budget {
    display: flex;
    gap: 8px;
    align-items: baseline;
    margin-bottom: 8px;
  }
  .bar {
    height: 4px;
    background: var(--well);
    margin-bottom: 4px;
  }
  .bar span {
    display: block;
    height: 100%;
    background: var(--amber);
  }
  table {
    width: 100%;
    border-collapse: collapse;
  }
  th {
    text-align: left;
    font-weight: 400;
    color: var(--quiet);
    padding: 4px 0;
  }
  td {
    padding: 3px 0;
    border-top: 1px solid var(--line);
  }
  th:nth-child(n + 2),
  td:nth-child(n + 2) {
    text-align: right;
    padding-left: 16px;
  }
</style>
