<!-- What a body is filled with, written as a file of voxels in the background. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import { client } from '../api/client';
  import Choice from '../fields/Choice.svelte';
  import { jobs } from '../state/jobs.svelte';
  import { live } from '../state/live.svelte';
  import { notices } from '../state/notices.svelte';
  import { shot } from '../state/shot.svelte';

  /** Of the object; `air` of the atmosphere. */
  let { name }: { name: string } = $props();

  type Format = 'vdb' | 'npz';
  const FORMATS: { value: Format; text: string }[] = [
    { value: 'vdb', text: 'OpenVDB' },
    { value: 'npz', text: 'NumPy' },
  ];
  const CELLS = ['32', '64', '128', '256'].map((value) => ({ value, text: `${value} cells` }));

  let cells = $state('128');
  let format = $state<Format>('vdb');
  const job = $derived(jobs.of('volume', shot.id, name));
  const running = $derived(job !== null && !job.ready && !job.failed);

  async function make() {
    await shot.settled();
    const frame = Math.round(live.frame ?? shot.document?.frames.first ?? 1);
    const { data, error } = await client.POST('/api/shots/{shot_id}/volume-files', {
      params: { path: { shot_id: shot.id } },
      body: { object: name, frame, cells: Number(cells), format },
    });
    if (data) jobs.keep(data);
    else notices.say('error', 'No file', (error as { detail?: string } | undefined)?.detail ?? '');
  }

  onMount(() => {
    void jobs.load(shot.id);
    const timer = window.setInterval(() => void jobs.watch(), 1000);
    return () => clearInterval(timer);
  });
</script>

<div class="row">
  <span>as voxels</span>
  <Choice
    value={cells}
    label="cells of {name} as voxels"
    options={CELLS}
    onchange={(value) => (cells = value)}
  />
  <Choice
    value={format}
    label="format of {name} as voxels"
    options={FORMATS}
    onchange={(value) => (format = value as Format)}
  />
</div>
<div class="row acts">
  {#if running && job}
    <progress value={job.done} max={job.total} aria-label="{name} as voxels"></progress>
    <button class="plain" onclick={() => void jobs.stop(job.id)}>stop</button>
  {:else}
    <button class="plain" aria-label="write file, {name} as voxels" onclick={make}>write file</button>
  {/if}
  {#if job?.ready}
    {#each job.files as file (file)}<a href={jobs.file(job, file)} download>{file}</a>{/each}
  {:else if job?.failed}<span role="alert">not made: {job.failed}</span>{/if}
</div>

<style>
  .acts {
    justify-content: flex-end;
    gap: 12px;
  }
  span {
    white-space: nowrap;
  }
  span[role='alert'] {
    white-space: normal;
  }
  a,
  button {
    color: var(--amber);
  }
  progress {
    accent-color: var(--amber);
    width: 80px;
  }
</style>
