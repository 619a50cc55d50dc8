<!-- A look's review sheet: test body and own object under three lights, references, turntable; made in the background. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import { client, type Job } from '../api/client';
  import Overlay from '../bar/Overlay.svelte';
  import Choice from '../fields/Choice.svelte';
  import { bench } from '../state/bench.svelte';
  import { notices } from '../state/notices.svelte';
  import { jobs } from '../state/jobs.svelte';
  import { shot } from '../state/shot.svelte';

  type Props = { onclose: () => void };
  let { onclose }: Props = $props();

  let look = $state(bench.look);
  const review = $derived<Job | null>(jobs.of('review', shot.id, look));

  async function make() {
    await shot.settled();
    const { data, error } = await client.POST('/api/shots/{shot_id}/reviews', {
      params: { path: { shot_id: shot.id } },
      body: { look },
    });
    if (data) jobs.keep(data);
    else notices.say('error', 'No review sheet', (error as { detail?: string } | undefined)?.detail ?? '');
  }

  onMount(() => {
    void jobs.load(shot.id);
    const timer = window.setInterval(() => void jobs.watch(), 1000);
    return () => clearInterval(timer);
  });
</script>

<Overlay label="review sheet" {onclose}>
  {#snippet head()}
    <b>review sheet of</b>
    <Choice
      value={look}
      label="look to review"
      options={(shot.document?.looks ?? []).map((each) => ({ value: each.name, text: each.name }))}
      onchange={(name) => (look = name)}
    />
    {#if review && !review.ready && !review.failed}
      <span role="status">{review.done} of {review.total} pictures</span>
      <button class="plain act" onclick={() => jobs.stop(review.id)}>stop</button>
    {:else}
      <button class="plain act" onclick={make}>{review?.ready ? 'make it anew' : 'make it'}</button>
    {/if}
    {#if review?.ready}
      <a href={jobs.file(review, 'sheet.png')} download>PNG</a>
      <a href={jobs.file(review, 'parts.exr')} title="every picture as a part, scene-linear">OpenEXR</a>
    {/if}
  {/snippet}
  <div class="body">
    {#if review?.ready}
      <img src={jobs.file(review, 'sheet.png')} alt="review sheet of {look}" />
    {:else if review?.failed}
      <p role="alert">Not made: {review.failed}.</p>
    {:else if review}
      <p>The pictures are being rendered with 48 samples each. You can go on meanwhile; it will be here.</p>
    {:else}
      <p>
        The test body and the object that wears the look, under an overcast sky, a low sun and one lamp in the
        dark, at one exposure; a grey ball, a mirror and a chart of published reflectances beside them; and a
        turntable. The shell makes it too: <span class="mono">texallon review</span>.
      </p>
    {/if}
  </div>
</Overlay>

<style>
  .act,
  a {
    color: var(--amber);
  }
  p {
    color: var(--quiet);
  }
  p {
    max-width: 640px;
  }
  .body {
    flex: 1;
    min-height: 0;
    overflow: auto;
    padding: 14px;
  }
  img {
    display: block;
    max-width: 100%;
  }
</style>
