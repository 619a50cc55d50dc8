<!-- What an object carries at its points: its kind, how far it reaches, and the names and ranges by which looks read it. -->
<script lang="ts">
  import type { Shot } from '../api/client';
  import Spread from './Spread.svelte';
  import Choice from '../fields/Choice.svelte';
  import DragNumber from '../fields/DragNumber.svelte';
  import { shown } from '../fields/numbers';
  import { bench } from '../state/bench.svelte';
  import { live } from '../state/live.svelte';
  import { pointer } from '../state/pointer';
  import { freeName } from '../state/setEdits';
  import { shot } from '../state/shot.svelte';

  type Props = { item: Shot['objects'][number]; index: number };
  let { item, index }: Props = $props();

  const KINDS: Record<number, string> = {
    1: 'number',
    2: 'two numbers',
    3: 'colour or vector',
    4: 'four numbers',
  };
  const PARTS = ['all', 'x', 'y', 'z', 'w', 'length', 'luminance', 'painted colour'];
  const carried = $derived(shot.tables[item.name] ?? []);
  const stored = $derived(carried.filter((each) => !item.attributes.some((edit) => edit.name === each.name)));
  const alone = (name: string) =>
    live.show.kind === 'attribute' && live.show.attribute === name && live.show.look === item.look;
  function look(name: string, width: number) {
    bench.showAttribute(item.look, name, width === 3 || (width === 4 && name === 'color'));
  }
  const at = (...more: (string | number)[]) => pointer('objects', index, 'attributes', ...more);

  const commit = (patch: Parameters<typeof shot.commit>[0], label: string) =>
    void shot.commit(patch, label).then(() => shot.refreshAttributes());
  function alias(attribute: string) {
    const taken = [...carried.map((each) => each.name), ...item.attributes.map((each) => each.name)];
    const value = { attribute, name: freeName(attribute, taken) };
    commit([{ op: 'add', path: at('-'), value }], `${attribute} of ${item.name} by another name`);
  }
  /** Read so that what comes out fills 0…1. */
  function fitted(number: number, edit: (typeof item.attributes)[number]) {
    const found = carried.find((each) => each.name === edit.name);
    if (!found || found.low === found.high || edit.to_start === edit.to_end) return;
    const stored = (value: number) =>
      edit.from_start +
      ((value - edit.to_start) / (edit.to_end - edit.to_start)) * (edit.from_end - edit.from_start);
    const set = (name: string, value: number) => ({ op: 'replace' as const, path: at(number, name), value });
    commit(
      [
        set('from_start', stored(found.low)),
        set('from_end', stored(found.high)),
        set('to_start', 0),
        set('to_end', 1),
      ],
      `${edit.name} of ${item.name} from 0 to 1`,
    );
  }
  const RANGE = ['from_start', 'from_end', 'to_start', 'to_end'] as const;
</script>

{#each stored as each (each.name)}
  <div class="row">
    <button
      class="plain act shows"
      title="show it in the picture, alone"
      aria-label="show {each.name} of {item.name} alone"
      aria-pressed={alone(each.name)}
      onclick={() => (alone(each.name) ? bench.showPicture() : look(each.name, each.width))}
      >{each.name}</button
    >
    <Spread counts={each.counts} label="how values of {each.name} of {item.name} lie" />
    <button
      class="plain act"
      aria-label="read {each.name} of {item.name} by another name"
      onclick={() => alias(each.name)}>also as …</button
    >
  </div>
  <p class="told">{KINDS[each.width]} at its {each.of}s · {shown(each.low, 3)} … {shown(each.high, 3)}</p>
{/each}
{#each item.attributes as edit, number (number)}
  <div class="edit" role="group" aria-label="{edit.attribute} of {item.name} as {edit.name}">
    <div class="row">
      <button
        class="plain act shows"
        title="show what comes out in the picture, alone"
        aria-label="show {edit.name} of {item.name} alone"
        aria-pressed={alone(edit.name)}
        onclick={() => (alone(edit.name) ? bench.showPicture() : look(edit.name, 1))}
        >{edit.attribute} as</button
      >
      <input
        class="name"
        value={edit.name}
        maxlength="80"
        aria-label="name of {edit.attribute} of {item.name}"
        onkeydown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
        onchange={({ currentTarget }) => {
          const value = currentTarget.value.trim();
          if (value)
            commit([{ op: 'replace', path: at(number, 'name'), value }], `name of ${edit.attribute}`);
          else currentTarget.value = edit.name;
        }}
      />
      <button
        class="plain act"
        aria-label="do not read {edit.attribute} of {item.name} as {edit.name}"
        onclick={() =>
          commit([{ op: 'remove', path: at(number) }], `${edit.name} of ${item.name} taken away`)}>×</button
      >
    </div>
    <div class="row">
      <span>reads</span>
      <Choice
        value={edit.part}
        label="part of {edit.attribute} of {item.name}"
        options={PARTS.map((text) => ({ value: text, text }))}
        onchange={(value) =>
          commit([{ op: 'replace', path: at(number, 'part'), value }], `what ${edit.name} reads`)}
      />
    </div>
    <div class="row">
      <span>range</span>
      {#each RANGE as name (name)}
        <DragNumber
          value={edit[name]}
          label="{name.replace('_', ' ')} of {edit.name} of {item.name}"
          unit=""
          oninput={(value) => shot.preview([{ op: 'replace', path: at(number, name), value }])}
          onchange={(value) =>
            commit([{ op: 'replace', path: at(number, name), value }], `range of ${edit.name}`)}
        />
      {/each}
      <button
        class="plain act"
        aria-label="fit {edit.name} of {item.name}"
        onclick={() => fitted(number, edit)}>fit</button
      >
    </div>
  </div>
{/each}

<style>
  .told {
    color: var(--quiet);
    font-size: 12px;
    padding-left: 10px;
  }
  .act {
    color: var(--amber);
  }
  .shows {
    justify-self: start;
    max-width: 100%;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .act[aria-pressed='true'] {
    text-decoration: underline;
  }
  .name {
    width: 110px;
  }
  .edit {
    padding-left: 10px;
    border-left: 1px solid var(--line);
  }
</style>
