<!-- Light groups: weighed anew at once, without rendering. -->
<script lang="ts">
  import type { Json } from '../api/client';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';
  import ColourField from '../fields/ColourField.svelte';
  import DragNumber from '../fields/DragNumber.svelte';

  const groups = $derived(shot.document?.light_groups ?? []);
  const patch = (index: number, name: string, value: Json) => [
    { op: 'replace' as const, path: pointer('light_groups', index, name), value },
  ];
  const set = (index: number, name: string, value: Json, label: string) =>
    void shot.commit(patch(index, name, value), label);

  function add() {
    const names = new Set(groups.map((group) => group.name));
    let name = 'group';
    for (let n = 2; names.has(name); n++) name = `group ${n}`;
    void shot.commit([{ op: 'add', path: '/light_groups/-', value: { name } }], `add light ${name}`);
  }
  function rename(index: number, name: string) {
    const old = groups[index]?.name;
    const document = shot.document;
    if (!document || !name || name === old || groups.some((group) => group.name === name)) return;
    // Whatever names the group goes along, in one change.
    const lights = document.lights.flatMap((light, at) =>
      light.group === old
        ? [{ op: 'replace' as const, path: pointer('lights', at, 'group'), value: name }]
        : [],
    );
    const objects = document.objects.flatMap((item, at) =>
      item.group === old
        ? [{ op: 'replace' as const, path: pointer('objects', at, 'group'), value: name }]
        : [],
    );
    const sky =
      document.environment.group === old
        ? [{ op: 'replace' as const, path: '/environment/group', value: name }]
        : [];
    void shot.commit(
      [...patch(index, 'name', name), ...lights, ...objects, ...sky],
      `call light group ${name}`,
    );
  }
</script>

{#each groups as group, index (group.name)}
  <div class="row">
    <input
      class="name"
      value={group.name}
      aria-label="name of light group {group.name}"
      onchange={(event) => rename(index, event.currentTarget.value.trim())}
      onkeydown={(event) => event.stopPropagation()}
    />
    <button
      class="plain"
      role="switch"
      aria-checked={group.on}
      aria-label="light group {group.name} on or off"
      onclick={() => set(index, 'on', !group.on, `${group.name} ${group.on ? 'off' : 'on'}`)}
      >{group.on ? 'on' : 'off'}</button
    >
    <DragNumber
      value={group.intensity}
      label="weight of light group {group.name}"
      unit="×"
      low={0}
      high={100}
      oninput={(value) => shot.preview(patch(index, 'intensity', value))}
      onchange={(value) => set(index, 'intensity', value, `${group.name}: weight`)}
    />
    <ColourField
      value={[...group.colour]}
      label="colour of light group {group.name}"
      oninput={(value) => shot.preview(patch(index, 'colour', value))}
      onchange={(value) => set(index, 'colour', value, `${group.name}: colour`)}
    />
    <button
      class="plain"
      aria-label="take light group {group.name} away"
      onclick={() =>
        void shot.commit([{ op: 'remove', path: pointer('light_groups', index) }], `take ${group.name} away`)}
      >×</button
    >
  </div>
{/each}
<button class="plain" disabled={groups.length >= 15} onclick={add}>+ light group</button>

<style>
  .name {
    flex: 1;
    min-width: 0;
    background: none;
    border: none;
    color: inherit;
    font: inherit;
    padding: 0;
  }
  .name:hover,
  .name:focus {
    background: var(--raised);
  }
  button {
    color: var(--amber);
  }
</style>
