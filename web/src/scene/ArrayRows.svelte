<!-- Copies of an object in rows or on a ring. -->
<script lang="ts">
  import type { Json, Shot } from '../api/client';
  import Choice from '../fields/Choice.svelte';
  import DragNumber from '../fields/DragNumber.svelte';
  import NumberRow from '../fields/NumberRow.svelte';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';

  type Props = { item: Shot['objects'][number]; index: number };
  let { item, index }: Props = $props();
  const array = $derived(item.array);
  const at = (...more: (string | number)[]) => pointer('objects', index, 'array', ...more);
  const put = (value: Json, label: string) => void shot.commit([{ op: 'add', path: at(), value }], label);
  const number = (name: string, axis: number, value: number) => [
    { op: 'replace' as const, path: at(name, axis), value },
  ];
</script>

<div class="row">
  <span>copies</span>
  <Choice
    value={array?.along ?? 'none'}
    label="copies of {item.name}"
    options={[
      { value: 'none', text: 'none' },
      { value: 'grid', text: 'in rows' },
      { value: 'ring', text: 'on a ring' },
    ]}
    onchange={(along) => put(along === 'none' ? null : { along }, `copies of ${item.name}: ${along}`)}
  />
</div>
{#if array?.along === 'grid'}
  {#each ['counts', 'spacing'] as const as name (name)}
    <div class="row">
      <span>{name === 'counts' ? 'how many' : 'how far apart'}</span>
      {#each array[name] as value, axis (axis)}
        <DragNumber
          {value}
          label="{name} of copies of {item.name} along {'xyz'[axis]}"
          unit={name === 'counts' ? '' : 'm'}
          {...name === 'counts' ? { low: 1, high: 4096, whole: true } : {}}
          oninput={(next) => shot.preview(number(name, axis, next))}
          onchange={(next) => void shot.commit(number(name, axis, next), `copies of ${item.name}`)}
        />
      {/each}
    </div>
  {/each}
{:else if array?.along === 'ring'}
  <NumberRow
    path={at('count')}
    value={array.count}
    label="number of copies of {item.name}"
    text="how many"
    low={1}
    high={4096}
    whole
  />
  <NumberRow
    path={at('radius')}
    value={array.radius}
    label="radius of the ring of {item.name}"
    text="radius"
    unit="m"
    low={0}
    high={1000}
  />
  <div class="row">
    <span>turned with the ring</span>
    <button
      class="plain act"
      role="switch"
      aria-checked={array.turned}
      aria-label="copies of {item.name} are turned with the ring"
      onclick={() =>
        void shot.commit(
          [{ op: 'replace', path: at('turned'), value: !array.turned }],
          `copies of ${item.name} turned`,
        )}>{array.turned ? 'yes' : 'no'}</button
    >
  </div>
{/if}

<style>
  .act {
    color: var(--amber);
  }
</style>
