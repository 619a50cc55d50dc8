<!-- What was: kept pictures, and all changes. -->
<script lang="ts">
  import type { Snapshot } from '../api/client';
  import type { Compared } from '../state/compared';
  import HistoryList from './HistoryList.svelte';
  import SnapshotPanel from './SnapshotPanel.svelte';

  type Props = {
    snapshots: Snapshot[];
    compared: Compared | null;
    oncompare: (compared: Compared | null) => void;
    onkept: () => Promise<void>;
  };
  let { snapshots, compared, oncompare, onkept }: Props = $props();
  const PARTS = ['snapshots', 'all changes'] as const;
  let part = $state<(typeof PARTS)[number]>('snapshots');
</script>

<div class="panel">
  <div class="parts" role="tablist" aria-label="history">
    {#each PARTS as each (each)}
      <button class="plain" role="tab" aria-selected={part === each} onclick={() => (part = each)}
        >{each}</button
      >
    {/each}
  </div>
  {#if part === 'snapshots'}
    <SnapshotPanel {snapshots} {compared} {oncompare} {onkept} />
  {:else}
    <HistoryList />
  {/if}
</div>

<style>
  .panel {
    width: 350px;
    padding: 8px 10px 10px;
  }
  .parts {
    display: flex;
    gap: 18px;
    padding-bottom: 8px;
  }
  .parts button {
    min-height: 24px;
    color: var(--quiet);
    border-bottom: 2px solid transparent;
  }
  .parts button[aria-selected='true'] {
    color: var(--text);
    border-bottom-color: var(--amber);
  }
</style>
