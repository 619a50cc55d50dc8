<!-- Meshes from files: several into this shot, keeping their places, or one in an object's place in a new shot. -->
<script lang="ts">
  import { Button, FileUploaderButton } from 'carbon-components-svelte';
  import type { MeshItem, Problem, Upload } from '../api/client';
  import { send, type Sent } from '../api/send';
  import Choice from '../fields/Choice.svelte';
  import { lastImport } from '../state/importReport.svelte';
  import { notices } from '../state/notices.svelte';
  import { addedMeshes, numbered, type Placing } from '../state/meshEdits';
  import { shot } from '../state/shot.svelte';

  type Props = { onopened: () => void };
  let { onopened }: Props = $props();

  const HERE = '';
  let target = $state(HERE);
  let placing = $state<Placing>('keep');
  let files = $state<File[]>([]);
  let follow = $state(true);
  const row = $derived(numbered(files.map((each) => each.name.replace(/\.\w+$/, ''))));
  let stage = $state('');
  let stopping: AbortController | null = null;
  const objects = $derived(shot.document?.objects ?? []);

  function refused(error: unknown, name: string) {
    const problem = error as Problem | undefined;
    notices.say('error', problem?.title ?? `${name} was refused`, `${name}: ${problem?.detail ?? ''}`);
  }

  async function sent(path: string, file: File, more: Record<string, string>): Promise<Sent> {
    const size = file.size;
    const tell = (share: number) => {
      stage =
        share < 1
          ? `${file.name}: sent ${megabytes(share * size)} of ${megabytes(size)}`
          : `${file.name}: received; reading and checking it`;
    };
    tell(0);
    return send(path, 'mesh', file, tell, more, stopping?.signal);
  }
  const megabytes = (bytes: number) => `${(bytes / 1e6).toFixed(1)} MB`;

  async function intoThisShot() {
    const made: MeshItem[] = [];
    for (const file of files) {
      const { data, error } = await sent('/api/meshes', file, {});
      if (!data) {
        refused(error, file.name);
        return; // nothing was added yet
      }
      made.push(data as MeshItem);
    }
    stage = 'building';
    const look = shot.document?.looks[0]?.name;
    if (!shot.document || !look || !made.length) return;
    const { patch, notes } = addedMeshes(shot.document, made, placing, look, follow && row !== null);
    await shot.commit(patch, `bring in ${made.map((each) => each.name).join(', ')}`);
    void shot.refreshAttributes();
    lastImport.showAll(made, notes);
  }

  async function inPlace(file: File) {
    const { data, error } = await sent(`/api/shots/${shot.id}/mesh`, file, { object: target });
    if (!data) {
      refused(error, file.name);
      return;
    }
    const upload = data as Upload;
    await shot.refreshList();
    await shot.open(upload.shot.id);
    onopened();
    lastImport.show(file.name, upload.report);
  }

  async function bringIn() {
    const [first] = files;
    if (!first) return;
    stopping = new AbortController();
    try {
      if (target === HERE) await intoThisShot();
      else await inPlace(first);
    } catch (error) {
      if ((error as Error).name !== 'AbortError')
        notices.say('error', 'The mesh did not arrive', 'The server did not answer. The shot is as it was.');
    } finally {
      stopping = null;
      stage = '';
      files = [];
    }
  }
</script>

<p class="quiet">
  Meshes as OBJ, PLY, STL or GLB, up to a million triangles each, particles as PLY or CSV; a report says what
  of them was kept.
</p>
<div class="row">
  <span>where to</span>
  <Choice
    value={target}
    label="where the mesh goes"
    options={[
      { value: HERE, text: 'into this shot' },
      ...objects.map((item) => ({ value: item.name, text: `a new shot, in place of ${item.name}` })),
    ]}
    onchange={(value) => (target = value)}
  />
</div>
{#if target === HERE}
  <div class="row">
    <span>places</span>
    <Choice
      value={placing}
      label="how meshes are placed"
      options={[
        { value: 'keep', text: 'as in the files' },
        { value: 'ground', text: 'together, on the ground' },
        { value: 'metre', text: 'on the ground, one metre large' },
      ]}
      onchange={(value) => (placing = value as Placing)}
    />
  </div>
{/if}
{#if target === HERE && row}
  <div class="row">
    <span>{files.length} files that follow each other</span>
    <Choice
      value={follow ? 'one' : 'each'}
      label="what files with numbers become"
      options={[
        { value: 'one', text: 'one object, a file for each frame' },
        { value: 'each', text: 'an object each' },
      ]}
      onchange={(value) => (follow = value === 'one')}
    />
  </div>
{/if}
<div class="send">
  <FileUploaderButton
    size="small"
    kind="tertiary"
    labelText={files.length > 1 ? `${files.length} files` : (files[0]?.name ?? 'Choose files')}
    accept={['.obj', '.ply', '.stl', '.glb', '.csv']}
    multiple={target === HERE}
    disableLabelChanges
    bind:files
  />
  {#if stage}
    <span role="status">{stage}</span>
    <button class="plain act" onclick={() => stopping?.abort()}>cancel</button>
  {:else}<Button size="small" disabled={!files.length} on:click={bringIn}>Bring in</Button>{/if}
</div>

<style>
  .quiet {
    color: var(--quiet);
    margin: 0 0 6px;
  }
  .send {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
    margin-top: 8px;
    align-items: center;
  }
  .act {
    color: var(--amber);
  }
</style>
