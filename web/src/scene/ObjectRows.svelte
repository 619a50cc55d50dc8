<!-- The shot's objects: shown or hidden, what they wear, and how they meet other clear bodies. -->
<script lang="ts">
  import { client } from '../api/client';
  import { chosen } from '../state/chosen.svelte';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';
  import Choice from '../fields/Choice.svelte';
  import { added, type ShapeName } from '../state/setEdits';
  import { SetRows } from '../state/setRows.svelte';
  import AddObject from './AddObject.svelte';
  import ArrayRows from './ArrayRows.svelte';
  import AttributeRows from './AttributeRows.svelte';
  import BodyRows from './BodyRows.svelte';
  import FileRows from './FileRows.svelte';
  import FinenessRows from './FinenessRows.svelte';
  import GroupChoice from './GroupChoice.svelte';
  import MemoryRows from './MemoryRows.svelte';
  import NamedRow from './NamedRow.svelte';
  import NumberRow from '../fields/NumberRow.svelte';
  import SwitchRow from '../fields/SwitchRow.svelte';
  import ParentChoice from './ParentChoice.svelte';
  import ParticleRows from './ParticleRows.svelte';
  import PartRows from './PartRows.svelte';
  import PlacementRows from './PlacementRows.svelte';
  import RemoveDialog from './RemoveDialog.svelte';
  import VolumeFile from './VolumeFile.svelte';

  const rows = new SetRows('object');
  const objects = $derived(shot.document?.objects ?? []);
  const looks = $derived(shot.document?.looks ?? []);
  const volumes = $derived(looks.filter((look) => look.domain === 'volume').map((look) => look.name));

  function standByClick(index: number) {
    const name = objects[index]?.name ?? '';
    chosen.click = {
      said: `click where ${name} is to stand`,
      done: async ({ position, normal }) => {
        const { data } = await client.POST('/api/placing/standing', { body: { normal } });
        if (!data) return;
        const at = (member: string) => pointer('objects', index, member);
        void shot.commit(
          [
            { op: 'replace', path: at('position'), value: position },
            { op: 'replace', path: at('rotation'), value: data.rotation },
            { op: 'replace', path: at('belongs_to'), value: null },
            { op: 'replace', path: at('follows'), value: null },
          ],
          `stand ${name} there`,
        );
      },
    };
  }

  function add(shape: ShapeName) {
    const look = shot.document?.looks[0]?.name;
    if (shot.document && look) rows.take(added(shot.document, shape, look), 'add');
  }
</script>

{#each objects as item, index (item.id)}
  <NamedRow
    name={item.name}
    kind="object"
    open={rows.opened === item.name}
    naming={rows.naming === item.name}
    hidden={!item.visible}
    onopen={() => rows.toggle(item.name)}
    onnaming={(on) => (rows.naming = on ? item.name : '')}
    onrename={(text) => rows.rename(index, text)}
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
  {#if rows.opened === item.name}
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
      {#if !volumes.includes(item.look) && (volumes.length || item.filled_with)}
        <div class="row">
          <span>filled with</span>
          <Choice
            value={item.filled_with ?? ''}
            label="filling of {item.name}"
            options={[
              { value: '', text: 'nothing' },
              ...volumes.map((each) => ({ value: each, text: each })),
            ]}
            onchange={(value) =>
              void shot.commit(
                [{ op: 'replace', path: pointer('objects', index, 'filled_with'), value: value || null }],
                `${item.name} is filled with ${value || 'nothing'}`,
              )}
          />
        </div>
      {/if}
      {#if volumes.includes(item.look) || item.filled_with}<VolumeFile name={item.name} />{/if}
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
      {#if shot.document?.shutter.on}
        <SwitchRow
          path={pointer('objects', index, 'blurs')}
          value={item.blurs}
          text="blurred by its movement"
          label="motion blur of {item.name}"
        />
      {/if}
      <ParentChoice
        path={pointer('objects', index, 'belongs_to')}
        value={item.belongs_to}
        text="belongs to the group"
        label="group of {item.name}"
        names={(shot.document?.object_groups ?? []).map((each) => each.name)}
      />
      <ParentChoice
        path={pointer('objects', index, 'follows')}
        value={item.follows}
        text="follows the locator"
        label="locator of {item.name}"
        names={(shot.document?.locators ?? []).map((each) => each.name)}
      />
      <PartRows {item} {index} />
      <BodyRows {item} {index} />
      <FileRows {item} {index} />
      <ParticleRows {item} {index} />
      <ArrayRows {item} {index} />
      <AttributeRows {item} {index} />
      <MemoryRows {item} {index} />
      <FinenessRows {item} {index} />
      <div class="row acts">
        <button class="plain act" onclick={() => (rows.naming = item.name)}>rename</button>
        <button class="plain act" onclick={() => rows.duplicate(index)}>duplicate</button>
        <button
          class="plain act"
          title="click a surface in the picture: it stands there, upright upon it"
          onclick={() => standByClick(index)}>stand on …</button
        >
        <button class="plain act" onclick={() => rows.askToRemove(item.name)}>delete</button>
      </div>
    </div>
  {/if}
{/each}
<AddObject onadd={add} />
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
  .quiet {
    color: var(--quiet);
  }
</style>
