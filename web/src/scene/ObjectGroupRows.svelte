<!-- Groups of objects and locators: what belongs to one is moved, turned and scaled by it. -->
<script lang="ts">
  import { addedGroup } from '../state/setEdits';
  import { SetRows } from '../state/setRows.svelte';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';
  import NamedRow from './NamedRow.svelte';
  import ParentChoice from './ParentChoice.svelte';
  import PlacementRows from './PlacementRows.svelte';
  import RemoveDialog from './RemoveDialog.svelte';

  const rows = new SetRows('group');
  const groups = $derived(shot.document?.object_groups ?? []);
  const members = (name: string) =>
    [...(shot.document?.objects ?? []), ...(shot.document?.locators ?? []), ...groups]
      .filter((each) => each.belongs_to === name)
      .map((each) => each.name);
</script>

{#each groups as group, index (group.id)}
  <NamedRow
    name={group.name}
    kind="group"
    open={rows.opened === group.name}
    naming={rows.naming === group.name}
    onopen={() => rows.toggle(group.name)}
    onnaming={(on) => (rows.naming = on ? group.name : '')}
    onrename={(text) => rows.rename(index, text)}
  >
    <span class="quiet">{members(group.name).length}</span>
  </NamedRow>
  {#if rows.opened === group.name}
    <div class="more">
      <p>
        {members(group.name).join(', ') || 'Nothing belongs to it yet: open an object and choose it there.'}
      </p>
      <PlacementRows list="object_groups" item={group} {index} />
      <ParentChoice
        path={pointer('object_groups', index, 'belongs_to')}
        value={group.belongs_to}
        text="belongs to the group"
        label="group of {group.name}"
        names={groups.filter((each) => each.name !== group.name).map((each) => each.name)}
      />
      <div class="row">
        <button class="plain act" onclick={() => (rows.naming = group.name)}>rename</button>
        <button class="plain act" onclick={() => rows.askToRemove(group.name)}>delete</button>
      </div>
    </div>
  {/if}
{/each}
<button class="plain act" onclick={() => shot.document && rows.take(addedGroup(shot.document), 'add')}
  >+ group</button
>
{#if rows.asking}
  <RemoveDialog name={rows.asking} uses={rows.uses} onanswer={(yes) => rows.answer(yes)} />
{/if}

<style>
  .more {
    padding-left: 12px;
    border-left: 1px solid var(--line);
    color: var(--quiet);
  }
  .quiet {
    color: var(--quiet);
  }
  p {
    margin: 2px 0;
  }
  .act {
    color: var(--amber);
  }
</style>
