<!-- What an object's file gives: texture coordinates, or those that are made; and files that follow each other, one a frame. -->
<script lang="ts">
  import type { Json, Shot } from '../api/client';
  import Choice from '../fields/Choice.svelte';
  import NumberRow from '../fields/NumberRow.svelte';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';

  type Props = { item: Shot['objects'][number]; index: number };
  let { item, index }: Props = $props();
  const at = (...more: string[]) => pointer('objects', index, ...more);
  const put = (path: string, value: Json, label: string) =>
    void shot.commit([{ op: 'add', path, value }], label);
</script>

{#if 'file' in item.geometry}
  <div class="row">
    <span>texture coordinates</span>
    <Choice
      value={item.uv}
      label="texture coordinates of {item.name}"
      options={[
        { value: 'given', text: 'as in its file' },
        { value: 'unfolded', text: 'made by unfolding' },
      ]}
      onchange={(value) => put(at('uv'), value, `texture coordinates of ${item.name}: ${value}`)}
    />
  </div>
{/if}
{#if item.sequence}
  <div class="row">
    <span>{item.sequence.files.length} files, then</span>
    <Choice
      value={item.sequence.beyond}
      label="what comes before and after the files of {item.name}"
      options={[
        { value: 'hold', text: 'the last stays' },
        { value: 'loop', text: 'from the beginning' },
        { value: 'swing', text: 'back and forth' },
      ]}
      onchange={(value) => put(at('sequence', 'beyond'), value, `files of ${item.name}: ${value}`)}
    />
  </div>
  <NumberRow
    path={at('sequence', 'first')}
    value={item.sequence.first}
    label="frame of the first file of {item.name}"
    text="the first at frame"
    whole
  />
{/if}
