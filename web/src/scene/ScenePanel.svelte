<!-- What is in the shot: objects, locators, camera, light, how far it is sampled, and a mesh to bring in. -->
<script lang="ts">
  import { Button, FileUploaderButton, InlineLoading, Select, SelectItem } from 'carbon-components-svelte';
  import { client, type Problem, type Upload } from '../api/client';
  import { lastImport } from '../state/importReport.svelte';
  import { notices } from '../state/notices.svelte';
  import { shot } from '../state/shot.svelte';
  import LightGroupRows from './LightGroupRows.svelte';
  import LightRows from './LightRows.svelte';
  import LocatorRows from './LocatorRows.svelte';
  import NumberRow from '../fields/NumberRow.svelte';
  import ObjectRows from './ObjectRows.svelte';
  import SamplingRows from './SamplingRows.svelte';
  import SavedViewRows from './SavedViewRows.svelte';
  import SurroundingsRows from './SurroundingsRows.svelte';

  type Props = { onopened: () => void };
  let { onopened }: Props = $props();

  const CAMERA = [
    ['exposure', 'exposure', 'exposure', 'stops', -20, 20],
    ['focal_length', 'focal length', 'focal length', 'mm', 8, 400],
    ['film_width', 'film width', 'film width', 'mm', 1, 100],
    ['f_stop', 'f-stop (0 is a pinhole)', 'f-stop', '', 0, 64],
    ['focus_distance', 'focus', 'focus distance', 'm', 0.01, 1000],
  ] as const;
  const BLOOM = [
    ['intensity', 'bloom', '', 1],
    ['threshold', 'bloom from', '', 1000],
    ['size', 'bloom radius', '× width', 1],
  ] as const;

  let replaced = $state('');
  let files = $state<File[]>([]);
  let sending = $state(false);
  const document = $derived(shot.document);
  const target = $derived(replaced || (document?.objects[0]?.name ?? ''));

  async function bringIn() {
    const file = files[0];
    if (!file) return;
    sending = true;
    const form = new FormData();
    form.set('mesh', file);
    form.set('object', target);
    try {
      const { data, error } = await client.POST('/api/shots/{shot_id}/mesh', {
        params: { path: { shot_id: shot.id } },
        body: form as never,
        bodySerializer: (body: unknown) => body as FormData,
      });
      if (!data) {
        const problem = error as unknown as Problem | undefined;
        notices.say('error', problem?.title ?? 'The mesh was refused', problem?.detail ?? '');
        return;
      }
      const made = data as unknown as Upload;
      await shot.refreshList();
      await shot.open(made.shot.id);
      onopened();
      lastImport.show(file.name, made.report);
    } catch {
      notices.say('error', 'The mesh did not arrive', 'The server did not answer. The shot is as it was.');
    } finally {
      sending = false;
      files = [];
    }
  }
</script>

<div class="panel">
  <h2>objects</h2>
  <ObjectRows />
  <h2>locators</h2>
  <LocatorRows />
  <h2>camera</h2>
  {#if document}
    {#each CAMERA as [name, text, label, unit, low, high] (name)}
      <NumberRow path="/camera/{name}" value={document.camera[name]} {label} {text} {unit} {low} {high} />
    {/each}
    {#each BLOOM as [name, label, unit, high] (name)}
      {#if name === 'intensity' || document.bloom.intensity > 0}
        <NumberRow
          path="/bloom/{name}"
          value={document.bloom[name]}
          {label}
          {unit}
          low={name === 'size' ? 0.001 : 0}
          {high}
        />
      {/if}
    {/each}
    <SavedViewRows />
    <h2>surroundings</h2>
    <SurroundingsRows />
    <h2>lamps</h2>
    <LightRows />
    <h2>light groups</h2>
    <LightGroupRows />
    <h2>sampling</h2>
    <SamplingRows />
  {/if}
  <h2>bring in a mesh</h2>
  <p class="quiet">
    OBJ, PLY or GLB, up to a million triangles. It takes an object's place in a new shot and wears its look;
    then a report says what of it was kept.
  </p>
  <Select
    size="sm"
    labelText="in place of"
    selected={target}
    on:change={(event) => (replaced = (event.target as HTMLSelectElement).value)}
  >
    {#each document?.objects ?? [] as item (item.name)}<SelectItem
        value={item.name}
        text={item.name}
      />{/each}
  </Select>
  <div class="send">
    <FileUploaderButton
      size="small"
      kind="tertiary"
      labelText={files[0]?.name ?? 'Choose a file'}
      accept={['.obj', '.ply', '.glb']}
      disableLabelChanges
      bind:files
    />
    {#if sending}<InlineLoading description="reading…" />{:else}<Button
        size="small"
        disabled={!files.length}
        on:click={bringIn}>Bring in</Button
      >{/if}
  </div>
</div>

<style>
  .panel {
    width: 330px;
    padding: 4px 12px 12px;
    max-height: calc(100vh - 70px);
    overflow: auto;
  }
  h2 {
    font: inherit;
    font-weight: 600;
    color: var(--quiet);
    margin: 10px 0 2px;
  }
  /* A line of the panel, in whichever of its parts. */
  .panel :global(.row) {
    display: flex;
    gap: 10px;
    align-items: baseline;
    min-height: 20px;
  }
  .panel :global(.row > :first-child) {
    flex: 1;
    text-align: left;
    min-width: 0;
  }
  .quiet {
    color: var(--quiet);
    margin: 0 0 6px;
  }
  .panel :global(.xyz) {
    display: flex;
    gap: 10px;
  }
  .send {
    display: flex;
    gap: 8px;
    margin-top: 8px;
    align-items: center;
  }
</style>
