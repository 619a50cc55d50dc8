<!-- A final picture of this frame at the shot's size, made in the background. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import { client } from '../api/client';
  import { jobs } from '../state/jobs.svelte';
  import { live } from '../state/live.svelte';
  import { notices } from '../state/notices.svelte';
  import { shot } from '../state/shot.svelte';

  let passes = $state(false);
  const document = $derived(shot.document);
  const frame = $derived(Math.round(live.frame ?? document?.frames.first ?? 1));
  const job = $derived(jobs.of('final', shot.id, String(frame)));
  const running = $derived(job !== null && !job.ready && !job.failed);

  async function make() {
    await shot.settled();
    const { data, error } = await client.POST('/api/shots/{shot_id}/finals', {
      params: { path: { shot_id: shot.id } },
      body: { frame, passes },
    });
    if (data) jobs.keep(data);
    else notices.say('error', 'No picture', (error as { detail?: string } | undefined)?.detail ?? '');
  }

  onMount(() => {
    void jobs.load(shot.id);
    const timer = window.setInterval(() => void jobs.watch(), 1000);
    return () => clearInterval(timer);
  });
</script>

<div class="panel">
  {#if document}
    <p>
      Frame {frame}, {document.resolution.join(' × ')} pixels, {document.sampling.samples} samples at most, denoised:
      PNG as shown, OpenEXR scene-linear.
    </p>
    <label
      ><input type="checkbox" bind:checked={passes} /> passes in the OpenEXR: depth, position, light by its way
      …</label
    >
    <div class="acts">
      {#if running && job}
        <span role="status">{job.done} of {job.total} samples</span>
        <progress value={job.done} max={job.total} aria-label="final picture"></progress>
        <button class="plain act" onclick={() => void jobs.stop(job.id)}>stop</button>
      {:else}
        <button class="plain act" onclick={make}>{job?.ready ? 'render anew' : 'render'}</button>
      {/if}
      {#if job?.ready}
        <a href={jobs.file(job, 'picture.png')} download>PNG</a>
        <a href={jobs.file(job, 'picture.exr')} download>OpenEXR</a>
      {:else if job?.failed}<span role="alert">not made: {job.failed}</span>{/if}
    </div>
    {#if job?.ready}<img src={jobs.file(job, 'picture.png')} alt="final picture of frame {frame}" />{/if}
  {/if}
</div>

<style>
  .panel {
    width: 420px;
    padding: 10px 12px;
  }
  p {
    margin: 0 0 6px;
    color: var(--quiet);
  }
  label {
    display: flex;
    gap: 6px;
    align-items: center;
  }
  input {
    accent-color: var(--amber);
    margin: 0;
  }
  .acts {
    display: flex;
    gap: 14px;
    align-items: center;
    margin-top: 8px;
  }
  .acts button,
  a {
    color: var(--amber);
    min-height: 24px;
    line-height: 24px;
  }
  progress {
    accent-color: var(--amber);
    width: 120px;
  }
  img {
    display: block;
    width: 100%;
    margin-top: 10px;
  }
</style>
