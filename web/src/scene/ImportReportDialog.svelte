<!-- After a file was brought in: what of it was kept, made, changed and dropped, each with its reason. -->
<script lang="ts">
  import { Modal } from 'carbon-components-svelte';
  import { lastImport } from '../state/importReport.svelte';

  const OUTCOMES = [
    ['dropped', 'left out'],
    ['changed', 'changed'],
    ['made', 'made, as it was missing'],
    ['kept', 'kept'],
  ] as const;
  const report = $derived(lastImport.report);
  const close = () => lastImport.close();
</script>

{#if report}
  <Modal
    open
    size="sm"
    passiveModal
    modalHeading="What came in with {lastImport.name}"
    on:close={close}
    hasScrollingContent
  >
    <dl>
      {#each OUTCOMES as [name, label] (name)}
        {#if report[name].length}
          <dt>{label}</dt>
          {#each report[name] as line (line)}<dd>{line}</dd>{/each}
        {/if}
      {/each}
    </dl>
  </Modal>
{/if}

<style>
  dt {
    color: var(--quiet);
    font-weight: 600;
    margin: 10px 0 2px;
  }
  dd {
    margin: 0 0 2px 14px;
  }
</style>
