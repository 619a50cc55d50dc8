<!-- What is in the shot: objects to show and hide, locators to place, the camera, and a mesh to bring in. -->
<script lang="ts">
  import { Button, FileUploaderButton, InlineLoading, Select, SelectItem } from 'carbon-components-svelte';
  import { client, type Problem, type Upload } from '../api/client';
  import { notices } from '../state/notices.svelte';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';
  import DragNumber from './DragNumber.svelte';
  import LightRows from './LightRows.svelte';
  import LocatorField from './LocatorField.svelte';

  type Props = { onopened: () => void };
  let { onopened }: Props = $props();

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
      const carried = [made.has_uv ? 'UVs' : '', ...made.attributes].filter(Boolean).join(', ');
      notices.say(
        'success',
        `${made.triangles.toLocaleString('en')} triangles, in a new shot`,
        [carried ? `It carries ${carried}.` : '', ...made.notes].join(' '),
      );
    } catch {
      notices.say('error', 'The mesh did not arrive', 'The server did not answer. The shot is as it was.');
    } finally {
      sending = false;
      files = [];
    }
  }
  const set = (path: string, value: boolean | number, label: string) =>
    void shot.commit([{ op: 'replace', path, value }], label);
</script>

<div class="panel">
  <h3>objects</h3>
  {#each document?.objects ?? [] as item, index (item.name)}
    <div class="row">
      <span class:hidden={!item.visible}>{item.name}</span>
      <span class="quiet">{item.look}</span>
      <button
        class="plain"
        role="switch"
        aria-checked={item.visible}
        aria-label="show {item.name}"
        onclick={() =>
          set(
            pointer('objects', index, 'visible'),
            !item.visible,
            `${item.visible ? 'hide' : 'show'} ${item.name}`,
          )}>{item.visible ? 'shown' : 'hidden'}</button
      >
    </div>
  {/each}
  <h3>locators</h3>
  {#each document?.locators ?? [] as locator (locator.name)}
    <div class="row">
      <span class="named">{locator.name}</span>
      <span class="xyz"
        ><LocatorField name={locator.name} axis={0} /><LocatorField
          name={locator.name}
          axis={1}
        /><LocatorField name={locator.name} axis={2} /></span
      >
    </div>
  {/each}
  <h3>camera and light</h3>
  {#if document}
    <div class="row">
      <span>exposure</span>
      <DragNumber
        value={document.camera.exposure}
        label="exposure"
        unit="stops"
        low={-20}
        high={20}
        oninput={(value) => shot.preview([{ op: 'replace', path: '/camera/exposure', value }])}
        onchange={(value) => set('/camera/exposure', value, 'exposure')}
      />
    </div>
    <div class="row">
      <span>focal length</span>
      <DragNumber
        value={document.camera.focal_length}
        label="focal length"
        unit="mm"
        low={8}
        high={400}
        oninput={(value) => shot.preview([{ op: 'replace', path: '/camera/focal_length', value }])}
        onchange={(value) => set('/camera/focal_length', value, 'focal length')}
      />
    </div>
    <div class="row">
      <span>f-stop (0 is a pinhole)</span>
      <DragNumber
        value={document.camera.f_stop}
        label="f-stop"
        low={0}
        high={64}
        oninput={(value) => shot.preview([{ op: 'replace', path: '/camera/f_stop', value }])}
        onchange={(value) => set('/camera/f_stop', value, 'f-stop')}
      />
    </div>
    <div class="row">
      <span>focus</span>
      <DragNumber
        value={document.camera.focus_distance}
        label="focus distance"
        unit="m"
        low={0.01}
        high={1000}
        oninput={(value) => shot.preview([{ op: 'replace', path: '/camera/focus_distance', value }])}
        onchange={(value) => set('/camera/focus_distance', value, 'focus')}
      />
    </div>
    <div class="row">
      <span>sky</span>
      <DragNumber
        value={document.environment.intensity}
        label="sky intensity"
        low={0}
        high={20}
        oninput={(value) => shot.preview([{ op: 'replace', path: '/environment/intensity', value }])}
        onchange={(value) => set('/environment/intensity', value, 'sky')}
      />
    </div>
    <div class="row">
      <span>sky turned</span>
      <DragNumber
        value={document.environment.rotation}
        label="sky rotation"
        unit="°"
        low={-360}
        high={360}
        oninput={(value) => shot.preview([{ op: 'replace', path: '/environment/rotation', value }])}
        onchange={(value) => set('/environment/rotation', value, 'turn the sky')}
      />
      <button
        class="plain"
        role="switch"
        aria-checked={document.environment.visible}
        aria-label="sky seen by the camera"
        onclick={() => set('/environment/visible', !document.environment.visible, 'sky seen')}
        >{document.environment.visible ? 'seen' : 'not seen'}</button
      >
    </div>
    {#each [['intensity', 'bloom', '', 1], ['threshold', 'bloom from', '', 1000], ['size', 'bloom radius', '× width', 1]] as const as [name, label, unit, high] (name)}
      {#if name === 'intensity' || document.bloom.intensity > 0}
        <div class="row">
          <span>{label}</span>
          <DragNumber
            value={document.bloom[name]}
            {label}
            {unit}
            low={name === 'size' ? 0.001 : 0}
            {high}
            oninput={(value) => shot.preview([{ op: 'replace', path: `/bloom/${name}`, value }])}
            onchange={(value) => set(`/bloom/${name}`, value, label)}
          />
        </div>
      {/if}
    {/each}
    <LightRows />
  {/if}
  <h3>bring in a mesh</h3>
  <p class="quiet">
    OBJ, PLY or GLB, up to a million triangles. It takes an object's place in a new shot and wears its look.
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
  h3 {
    font: inherit;
    font-weight: 600;
    color: var(--quiet);
    margin: 10px 0 2px;
  }
  .row {
    display: flex;
    gap: 10px;
    align-items: baseline;
    min-height: 20px;
  }
  .row > :first-child {
    flex: 1;
  }
  .row button {
    color: var(--amber);
  }
  .hidden {
    color: var(--faint);
  }
  .quiet {
    color: var(--quiet);
    margin: 0 0 6px;
  }
  .named {
    color: var(--named);
  }
  .xyz {
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
