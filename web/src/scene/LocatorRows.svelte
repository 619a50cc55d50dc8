<!-- The shot's locators: placed, named, copied, added and deleted. -->
<script lang="ts">
  import { addedLocator } from '../state/setEdits';
  import { SetRows } from '../state/setRows.svelte';
  import { shot } from '../state/shot.svelte';
  import LocatorField from '../fields/LocatorField.svelte';
  import NamedRow from './NamedRow.svelte';
  import PlacementRows from './PlacementRows.svelte';
  import RemoveDialog from './RemoveDialog.svelte';

  const rows = new SetRows('locator');
  const locators = $derived(shot.document?.locators ?? []);

  function add() {
    if (shot.document) rows.take(addedLocator(shot.document), 'add');
  }
</script>

{#each locators as locator, index (locator.id)}
  <NamedRow
    name={locator.name}
    kind="locator"
    open={rows.opened === locator.name}
    naming={rows.naming === locator.name}
    onopen={() => rows.toggle(locator.name)}
    onnaming={(on) => (rows.naming = on ? locator.name : '')}
    onrename={(text) => rows.rename(index, text)}
  >
    {#if rows.opened !== locator.name}
      <span class="xyz">
        {#each [0, 1, 2] as const as axis (axis)}<LocatorField name={locator.name} {axis} />{/each}
      </span>
    {/if}
  </NamedRow>
  {#if rows.opened === locator.name}
    <div class="more">
      <PlacementRows list="locators" item={locator} {index} />
      <div class="row">
        <button class="plain act" onclick={() => (rows.naming = locator.name)}>rename</button>
        <button class="plain act" onclick={() => rows.duplicate(index)}>duplicate</button>
        <button class="plain act" onclick={() => rows.askToRemove(locator.name)}>delete</button>
      </div>
    </div>
  {/if}
{/each}
<button class="plain act" onclick={add}>+ locator</button>
{#if rows.asking}
  <RemoveDialog name={rows.asking} uses={rows.uses} onanswer={(yes) => rows.answer(yes)} />
{/if}

<style>
  .more {
    padding-left: 12px;
    border-left: 1px solid var(--line);
    color: var(--quiet);
  }
  .act {
    color: var(--amber);
  }
</style>
