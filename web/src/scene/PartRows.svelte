<!-- The parts of an object, as its file names them: each can wear a look of its own. -->
<script lang="ts">
  import type { Shot } from '../api/client';
  import Choice from '../fields/Choice.svelte';
  import { pointer } from '../state/pointer';
  import { dressed, dressedWords, wornBy } from '../state/partEdits';
  import { shot } from '../state/shot.svelte';

  type Props = { item: Shot['objects'][number]; index: number };
  let { item, index }: Props = $props();

  const names = $derived(shot.parts[item.name] ?? []);
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
  {#each names as name (name)}
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

<style>
  .part {
    padding-left: 10px;
  }
</style>
