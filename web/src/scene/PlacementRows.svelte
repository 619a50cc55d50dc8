<!-- Where an object or a locator stands, how it is turned, and how large it is, by numbers. -->
<script lang="ts">
  import type { Shot } from '../api/client';
  import DragNumber from '../fields/DragNumber.svelte';
  import NumberRow from '../fields/NumberRow.svelte';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';

  type Props = { list: 'objects' | 'locators'; item: Shot['objects' | 'locators'][number]; index: number };
  let { list, item, index }: Props = $props();

  const VECTORS = [
    ['position', 'place', 'm'],
    ['rotation', 'turn', '°'],
  ] as const;
  const patch = (name: string, axis: number, value: number) => [
    { op: 'replace' as const, path: pointer(list, index, name, axis), value },
  ];
</script>

{#each VECTORS as [name, label, unit] (name)}
  <div class="row">
    <span>{label}</span>
    <span class="xyz">
      {#each [0, 1, 2] as const as axis (axis)}
        <DragNumber
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
