<!-- The shot's locators: placed, named, copied, added and deleted. -->
<script lang="ts">
  import { addedLocator, duplicated, freeName, removed, renamed, usesOf } from '../state/setEdits';
  import { shot } from '../state/shot.svelte';
  import LocatorField from '../fields/LocatorField.svelte';
  import NamedRow from './NamedRow.svelte';
  import PlacementRows from './PlacementRows.svelte';
  import RemoveDialog from './RemoveDialog.svelte';

  let opened = $state('');
  let naming = $state('');
  let asking = $state('');
  const locators = $derived(shot.document?.locators ?? []);

  function add() {
    if (!shot.document) return;
    const made = addedLocator(shot.document);
    void shot.commit(made.patch, `add ${made.name}`);
    opened = made.name;
  }

  function duplicate(index: number) {
    if (!shot.document) return;
    const made = duplicated(shot.document, 'locator', index);
    void shot.commit(made.patch, `duplicate ${locators[index]?.name ?? ''}`);
    opened = made.name;
  }

  function rename(index: number, text: string) {
    if (!shot.document) return;
    const old = locators[index]?.name ?? '';
    const name = freeName(
      text,
      locators.map((each) => each.name),
    );
    void shot.commit(renamed(shot.document, 'locator', index, name), `rename ${old} to ${name}`);
    if (opened === old) opened = name;
  }

  function remove(name: string) {
    const index = locators.findIndex((each) => each.name === name);
    asking = '';
    if (shot.document && index >= 0)
      void shot.commit(removed(shot.document, 'locator', index), `delete ${name}`);
  }

  function askToRemove(name: string) {
    if (shot.document && usesOf(shot.document, 'locator', name).length) asking = name;
    else remove(name);
  }
</script>

{#each locators as locator, index (locator.id)}
  <NamedRow
    name={locator.name}
    kind="locator"
    open={opened === locator.name}
    naming={naming === locator.name}
    onopen={() => (opened = opened === locator.name ? '' : locator.name)}
    onnaming={(on) => (naming = on ? locator.name : '')}
    onrename={(text) => rename(index, text)}
  >
    {#if opened !== locator.name}
      <span class="xyz">
        {#each [0, 1, 2] as const as axis (axis)}<LocatorField name={locator.name} {axis} />{/each}
      </span>
    {/if}
  </NamedRow>
  {#if opened === locator.name}
    <div class="more">
      <PlacementRows list="locators" item={locator} {index} />
      <div class="row">
        <button class="plain act" onclick={() => (naming = locator.name)}>rename</button>
        <button class="plain act" onclick={() => duplicate(index)}>duplicate</button>
        <button class="plain act" onclick={() => askToRemove(locator.name)}>delete</button>
      </div>
    </div>
  {/if}
{/each}
<button class="plain act" onclick={add}>+ locator</button>
{#if asking && shot.document}
  <RemoveDialog
    name={asking}
    uses={usesOf(shot.document, 'locator', asking)}
    onanswer={(yes) => (yes ? remove(asking) : (asking = ''))}
  />
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
