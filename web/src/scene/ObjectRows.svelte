<!-- The shot's objects: shown or hidden, what they wear, and how they meet other clear bodies. -->
<script lang="ts">
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';
  import Choice from '../fields/Choice.svelte';
  import { added, duplicated, freeName, removed, renamed, usesOf, type ShapeName } from '../state/setEdits';
  import AddObject from './AddObject.svelte';
  import BodyRows from './BodyRows.svelte';
  import GroupChoice from './GroupChoice.svelte';
  import NamedRow from './NamedRow.svelte';
  import NumberRow from '../fields/NumberRow.svelte';
  import PlacementRows from './PlacementRows.svelte';
  import RemoveDialog from './RemoveDialog.svelte';

  let opened = $state('');
  let naming = $state('');
  let asking = $state('');
  const objects = $derived(shot.document?.objects ?? []);
  const looks = $derived(shot.document?.looks ?? []);

  function add(shape: ShapeName) {
    const document = shot.document;
    const look = document?.looks[0]?.name;
    if (!document || !look) return;
    const made = added(document, shape, look);
    void shot.commit(made.patch, `add ${made.name}`);
    opened = made.name;
  }

  function duplicate(index: number) {
    if (!shot.document) return;
    const made = duplicated(shot.document, 'object', index);
    void shot.commit(made.patch, `duplicate ${objects[index]?.name ?? ''}`);
    opened = made.name;
  }

  function rename(index: number, text: string) {
    const old = objects[index]?.name ?? '';
    if (!shot.document) return;
    const name = freeName(
      text,
      objects.map((each) => each.name),
    );
    void shot.commit(renamed(shot.document, 'object', index, name), `rename ${old} to ${name}`);
    if (opened === old) opened = name;
  }

  function remove(name: string) {
    const index = objects.findIndex((each) => each.name === name);
    asking = '';
    if (shot.document && index >= 0)
      void shot.commit(removed(shot.document, 'object', index), `delete ${name}`);
  }

  function askToRemove(name: string) {
    if (shot.document && usesOf(shot.document, 'object', name).length) asking = name;
    else remove(name);
  }
</script>

{#each objects as item, index (item.id)}
  <NamedRow
    name={item.name}
    kind="object"
    open={opened === item.name}
    naming={naming === item.name}
    hidden={!item.visible}
    onopen={() => (opened = opened === item.name ? '' : item.name)}
    onnaming={(on) => (naming = on ? item.name : '')}
    onrename={(text) => rename(index, text)}
  >
    <span class="quiet">{item.look}</span>
    <button
      class="plain act"
      role="switch"
      aria-checked={item.visible}
      aria-label="show {item.name}"
      onclick={() =>
        void shot.commit(
          [{ op: 'replace', path: pointer('objects', index, 'visible'), value: !item.visible }],
          `${item.visible ? 'hide' : 'show'} ${item.name}`,
        )}>{item.visible ? 'shown' : 'hidden'}</button
    >
  </NamedRow>
  {#if opened === item.name}
    <div class="more">
      <div class="row">
        <span>wears</span>
        <Choice
          value={item.look}
          label="look of {item.name}"
          options={looks.map((look) => ({ value: look.name, text: look.name }))}
          onchange={(value) =>
            void shot.commit(
              [{ op: 'replace', path: pointer('objects', index, 'look'), value }],
              `${item.name} wears ${value}`,
            )}
        />
      </div>
      <NumberRow
        path={pointer('objects', index, 'priority')}
        value={item.priority}
        label="priority of {item.name}"
        text="priority among clear bodies"
        low={-100}
        high={100}
        whole
      />
      <GroupChoice
        path={pointer('objects', index, 'group')}
        value={item.group}
        label="light group of {item.name}"
      />
      <PlacementRows list="objects" {item} {index} />
      <BodyRows {item} {index} />
      <div class="row acts">
        <button class="plain act" onclick={() => (naming = item.name)}>rename</button>
        <button class="plain act" onclick={() => duplicate(index)}>duplicate</button>
        <button class="plain act" onclick={() => askToRemove(item.name)}>delete</button>
      </div>
    </div>
  {/if}
{/each}
<AddObject onadd={add} />
{#if asking && shot.document}
  <RemoveDialog
    name={asking}
    uses={usesOf(shot.document, 'object', asking)}
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
  .quiet {
    color: var(--quiet);
  }
</style>
