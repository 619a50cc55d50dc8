<!-- Where an object or a locator stands, how it is turned, and how large it is, by numbers. -->
<script lang="ts">
  import type { Shot } from '../api/client';
  import MemberNumber from '../fields/MemberNumber.svelte';
  import NumberRow from '../fields/NumberRow.svelte';
  import RecordButton from './RecordButton.svelte';
  import { turntable } from '../state/moves';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';

  type List = 'objects' | 'locators' | 'object_groups';
  type Props = { list: List; item: Shot[List][number]; index: number };
  let { list, item, index }: Props = $props();

  const VECTORS = [
    ['position', 'place', 'm'],
    ['rotation', 'turn', '°'],
  ] as const;
  const patch = (name: string, axis: number, value: number) => [
    { op: 'replace' as const, path: pointer(list, index, name, axis), value },
  ];
</script>

<fieldset disabled={item.locked} class:locked={item.locked}>
  {#each VECTORS as [name, label, unit] (name)}
    <div class="row">
      <span>{label}</span>
      <span class="xyz">
        {#each [0, 1, 2] as const as axis (axis)}
          <MemberNumber
            path={pointer(list, index, name, axis)}
            value={item[name][axis]}
            label="{label} of {item.name}, {'xyz'[axis]}"
            {unit}
            oninput={(value) => shot.preview(patch(name, axis, value))}
            onchange={(value) => void shot.commit(patch(name, axis, value), `${item.name}: ${label}`)}
          />
        {/each}
      </span>
    </div>
  {/each}
  <NumberRow
    path={pointer(list, index, 'scale')}
    value={item.scale}
    label="scale of {item.name}"
    text="scale"
    unit="×"
    low={0.001}
    high={1000}
  />
  <div class="row">
    <span>stretch</span>
    <span class="xyz">
      {#each [0, 1, 2] as const as axis (axis)}
        <MemberNumber
          path={pointer(list, index, 'stretch', axis)}
          value={item.stretch[axis]}
          label="stretch of {item.name}, {'xyz'[axis]}"
          unit="×"
          low={0.001}
          high={1000}
          oninput={(value) => shot.preview(patch('stretch', axis, value))}
          onchange={(value) => void shot.commit(patch('stretch', axis, value), `${item.name}: stretch`)}
        />
      {/each}
    </span>
  </div>
  <div class="row">
    <button
      class="plain act"
      title="36 degrees a second about its upright axis; the lanes hold the formula"
      onclick={() =>
        shot.document &&
        void shot.commit(
          turntable(shot.document, pointer(list, index, 'rotation', 1), item.rotation[1]),
          `${item.name} turns`,
        )}>turntable</button
    >
    <RecordButton {list} id={item.id} name={item.name} />
  </div>
</fieldset>
<div class="row">
  <span>{item.locked ? 'locked: it stays where it is' : 'can be moved'}</span>
  <button
    class="plain act"
    role="switch"
    aria-checked={item.locked}
    aria-label="lock {item.name}"
    onclick={() =>
      void shot.commit(
        [{ op: 'add', path: pointer(list, index, 'locked'), value: !item.locked }],
        `${item.locked ? 'unlock' : 'lock'} ${item.name}`,
      )}>{item.locked ? 'unlock' : 'lock'}</button
  >
</div>

<style>
  fieldset {
    all: unset;
    display: block;
  }
  .locked {
    opacity: 0.6;
    pointer-events: none;
  }
  .act {
    color: var(--amber);
  }
</style>
