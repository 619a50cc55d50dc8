<!-- The shot's locators: placed, named, copied, added and deleted. -->
<script lang="ts">
  import { client } from '../api/client';
  import { chosen } from '../state/chosen.svelte';
  import { addedLocator, usesOf } from '../state/setEdits';
  import { sweepAlong } from '../state/moves';
  import { SetRows } from '../state/setRows.svelte';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';
  import NumberRow from '../fields/NumberRow.svelte';
  import SwitchRow from '../fields/SwitchRow.svelte';
  import LocatorField from '../fields/LocatorField.svelte';
  import NamedRow from './NamedRow.svelte';
  import ParentChoice from './ParentChoice.svelte';
  import PlacementRows from './PlacementRows.svelte';
  import RemoveDialog from './RemoveDialog.svelte';

  const rows = new SetRows('locator');
  const locators = $derived(shot.document?.locators ?? []);
  const tubes = $derived(
    (shot.document?.objects ?? [])
      .filter((each) => 'shape' in each.geometry && each.geometry.shape === 'tube')
      .map((each) => each.name),
  );

  const used = (name: string) =>
    shot.document ? [...new Set(usesOf(shot.document, 'locator', name).map((use) => use.where))] : [];

  /** The next click in the picture places one on the surface there, its y axis upright upon it. */
  function addByClick() {
    chosen.click = {
      said: 'click where the locator is to stand',
      done: async ({ position, normal }) => {
        const { data } = await client.POST('/api/placing/standing', { body: { normal } });
        if (!shot.document || !data) return;
        rows.take(addedLocator(shot.document, position, data.rotation), 'add');
      },
    };
  }

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
      <ParentChoice
        path={pointer('locators', index, 'follows')}
        value={locator.follows}
        text="stands by the object"
        label="object of {locator.name}"
        names={(shot.document?.objects ?? []).map((each) => each.name)}
      />
      <ParentChoice
        path={pointer('locators', index, 'belongs_to')}
        value={locator.belongs_to}
        text="belongs to the group"
        label="group of {locator.name}"
        names={(shot.document?.object_groups ?? []).map((each) => each.name)}
      />
      <ParentChoice
        path={pointer('locators', index, 'along')}
        value={locator.along}
        text="stands along the line of"
        label="line of {locator.name}"
        names={tubes}
      />
      {#if locator.along}
        <NumberRow
          path={pointer('locators', index, 'along_share')}
          value={locator.along_share}
          label="share of its line where {locator.name} stands"
          text="at this share of it"
        >
          <button
            class="plain act beside"
            title="from rest to rest over the shot; the lanes hold the formula"
            onclick={() =>
              shot.document &&
              void shot.commit(
                sweepAlong(shot.document, pointer('locators', index, 'along_share')),
                `${locator.name} goes along its line`,
              )}>goes along it once</button
          >
        </NumberRow>
        <SwitchRow
          path={pointer('locators', index, 'turns_along')}
          value={locator.turns_along}
          text="turned the way of the line"
          label="{locator.name} is turned the way of its line"
        />
      {/if}
      <ParentChoice
        path={pointer('locators', index, 'aims_at')}
        value={locator.aims_at}
        text="z axis aims at"
        label="aim of {locator.name}"
        names={locators.filter((each) => each.name !== locator.name).map((each) => each.name)}
      />
      <p class="uses">
        {used(locator.name).length
          ? `used by ${used(locator.name).join(', ')}`
          : 'no signal or look uses it yet'}
      </p>
      <div class="row">
        <button class="plain act" onclick={() => (rows.naming = locator.name)}>rename</button>
        <button class="plain act" onclick={() => rows.duplicate(index)}>duplicate</button>
        <button class="plain act" onclick={() => rows.askToRemove(locator.name)}>delete</button>
      </div>
    </div>
  {/if}
{/each}
<button class="plain act" onclick={add}>+ locator</button>
<button class="plain act" onclick={addByClick}>+ locator by a click in the picture</button>
{#if rows.asking}
  <RemoveDialog name={rows.asking} uses={rows.uses} onanswer={(yes) => rows.answer(yes)} />
{/if}

<style>
  .more {
    padding-left: 12px;
    border-left: 1px solid var(--line);
    color: var(--quiet);
  }
  .uses {
    margin: 2px 0;
  }
  .act.beside {
    display: inline;
  }
  .act {
    display: block;
    min-height: 24px;
    color: var(--amber);
  }
</style>
