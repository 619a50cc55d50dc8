<!-- The parts of an object, as its file names them, its pieces, or where a signal is high: each can wear a look of its own. -->
<script lang="ts">
  import type { Json, Shot } from '../api/client';
  import Choice from '../fields/Choice.svelte';
  import DragNumber from '../fields/DragNumber.svelte';
  import { pointer } from '../state/pointer';
  import { dressed, dressedWords, wornBy } from '../state/partEdits';
  import { freeName } from '../state/setEdits';
  import { shot } from '../state/shot.svelte';

  type Props = { item: Shot['objects'][number]; index: number };
  let { item, index }: Props = $props();

  const names = $derived(shot.parts[item.name] ?? []);
  const signals = $derived(shot.document?.signals ?? []);
  const set = (path: string, value: Json, label: string) =>
    void shot.commit([{ op: 'replace', path, value }], label);

  function pick() {
    const [signal] = signals;
    if (!signal) return;
    const name = freeName(signal.name, [...names, ...item.parts.map((part) => part.name)]);
    const value = { name, look: item.look, picked: { signal: signal.name, above: 0.5 } };
    void shot.commit(
      [{ op: 'add', path: pointer('objects', index, 'parts', '-'), value }],
      `a part of ${item.name} where ${signal.name} is high`,
    );
  }

  const wear = (name: string, look: string) =>
    void shot.commit(dressed(item, index, name, look), dressedWords(item, name, look));
</script>

{#if 'file' in item.geometry}
  <div class="row">
    <span>parts</span>
    <Choice
      value={item.parts_by}
      label="parts of {item.name}"
      options={[
        { value: 'file', text: 'as in its file' },
        { value: 'connected', text: 'connected pieces' },
      ]}
      onchange={(value) =>
        void shot
          .commit(
            [
              { op: 'replace', path: pointer('objects', index, 'parts_by'), value },
              { op: 'replace', path: pointer('objects', index, 'parts'), value: [] },
            ],
            `parts of ${item.name}: ${value}`,
          )
          .then(() => shot.refreshAttributes())}
    />
  </div>
{/if}
{#if names.length > 1 || item.parts.length}
  {#each names.filter((name) => !item.parts.some((part) => part.picked && part.name === name)) as name (name)}
    <div class="row part">
      <span>{name}</span>
      <Choice
        value={wornBy(item, name)}
        label="look of the part {name}"
        options={[
          { value: '', text: `as the whole (${item.look})` },
          ...(shot.document?.looks ?? []).map((look) => ({ value: look.name, text: look.name })),
        ]}
        onchange={(look) => wear(name, look)}
      />
    </div>
  {/each}
{/if}
{#each item.parts as part, at (part.id)}
  {#if part.picked}
    {@const path = pointer('objects', index, 'parts', at)}
    <div class="row part">
      <input
        class="name"
        value={part.name}
        maxlength="80"
        aria-label="name of the part {part.name}"
        onkeydown={(event) => {
          event.stopPropagation();
          if (event.key === 'Enter') event.currentTarget.blur();
        }}
        onblur={(event) => {
          const name = event.currentTarget.value.trim();
          if (name && name !== part.name) set(`${path}/name`, name, `call the part ${part.name} ${name}`);
        }}
      />
      <Choice
        value={part.look}
        label="look of the part {part.name}"
        options={(shot.document?.looks ?? []).map((look) => ({ value: look.name, text: look.name }))}
        onchange={(look) => set(`${path}/look`, look, `${part.name} of ${item.name} wears ${look}`)}
      />
    </div>
    <div class="row part">
      <span>where</span>
      <Choice
        named
        value={part.picked.signal}
        label="signal that picks {part.name}"
        options={signals.map((each) => ({ value: each.name, text: each.name }))}
        onchange={(signal) => set(`${path}/picked/signal`, signal, `${part.name} where ${signal} is high`)}
      />
      <span>above</span>
      <DragNumber
        value={part.picked.above ?? 0.5}
        label="level that picks {part.name}"
        oninput={(value) => shot.preview([{ op: 'replace', path: `${path}/picked/above`, value }])}
        onchange={(value) => set(`${path}/picked/above`, value, `${part.name}: level`)}
      />
      <button
        class="plain act"
        aria-label="take the part {part.name} away"
        title="its faces are again of the part that they were of"
        onclick={() =>
          void shot.commit([{ op: 'remove', path }], `take the part ${part.name} of ${item.name} away`)}
        >×</button
      >
    </div>
  {/if}
{/each}
{#if signals.length}
  <button class="plain act" onclick={pick}>+ part where a signal is high</button>
{/if}

<style>
  .part {
    padding-left: 10px;
  }
  .name {
    width: 120px;
    background: var(--ground);
    color: var(--text);
    border: 1px solid var(--line);
    font: inherit;
    min-height: 24px;
  }
  .act {
    color: var(--amber);
    min-height: 24px;
  }
</style>
