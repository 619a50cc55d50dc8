<!-- Saving pictures: this frame, some frames or the whole shot, rendered in the background. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import Choice from '../fields/Choice.svelte';
  import { live } from '../state/live.svelte';
  import { renders } from '../state/renders.svelte';
  import { shot } from '../state/shot.svelte';
  import { expected, standing } from './words';

  type Props = { onqueue: () => void };
  let { onqueue }: Props = $props();

  const SIZES = [
    ['1', 'full size'],
    ['2', 'half size'],
    ['4', 'a quarter'],
  ] as const;

  let part = $state('1');
  let range = $state('');
  let passes = $state(false);
  let exr = $state(true);
  let png = $state(true);
  let smooth = $state(true);
  let words = $state(false);
  let asking = $state(false);
  let trying = $state(false);
  let takes = $state('');

  const document = $derived(shot.document);
  const frame = $derived(Math.round(live.frame ?? document?.frames.first ?? 1));
  const count = $derived(document ? document.frames.last - document.frames.first + 1 : 0);
  const size = $derived.by((): [number, number] => {
    const [width, height] = document?.resolution ?? [16, 16];
    const by = (pixels: number) => Math.max(Math.round(pixels / Number(part)), 16);
    return [by(width), by(height)];
  });
  const newest = $derived(renders.newest(shot.id));

  function wanted(frames: string) {
    const formats = [...(exr ? (['exr'] as const) : []), ...(png ? (['png'] as const) : [])];
    return {
      frames,
      size,
      passes: passes && exr,
      formats,
      denoise: smooth,
      burn_in: words && png,
      compression: 'zip' as const,
      priority: 0,
      samples: null,
      noise: null,
    };
  }

  async function order(frames: string) {
    if (asking) return;
    asking = true;
    try {
      await shot.settled();
      await renders.order(shot.id, wanted(frames));
    } finally {
      asking = false;
    }
  }

  async function estimate() {
    trying = true;
    takes = '';
    try {
      await shot.settled();
      const found = await renders.estimate(shot.id, wanted(range.trim()));
      takes = found ? expected(found) : '';
    } finally {
      trying = false;
    }
  }

  onMount(() => renders.watch());
</script>

<div class="panel">
  {#if document}
    <p>
      Save pictures of this shot as it is now: at most {document.sampling.samples} samples of each pixel{document
        .shutter.on
        ? ', with motion blur'
        : ''}.
    </p>
    <div class="row">
      <span>size</span>
      <Choice
        value={part}
        label="size of the pictures"
        options={SIZES.map(([value, text]) => ({ value, text }))}
        onchange={(value) => (part = value)}
      />
      <span class="quiet mono">{size.join(' × ')}</span>
    </div>
    <div class="checks">
      <label><input type="checkbox" bind:checked={exr} /> OpenEXR, scene-linear</label>
      <label><input type="checkbox" bind:checked={png} /> PNG, as shown</label>
      <label><input type="checkbox" bind:checked={smooth} /> smooth the noise that is left</label>
      <label
        ><input type="checkbox" bind:checked={passes} disabled={!exr} /> passes: depth, position, velocity, light
        by its way …</label
      >
      <label
        ><input type="checkbox" bind:checked={words} disabled={!png} /> shot, frame and digest in the PNG's lower
        edge</label
      >
    </div>
    <div class="acts">
      <button class="plain act" disabled={asking || (!exr && !png)} onclick={() => order(`${frame}`)}
        >render frame {frame}</button
      >
      {#if count > 1}
        <button class="plain act" disabled={asking || (!exr && !png)} onclick={() => order('')}
          >render all {count}</button
        >
      {/if}
      <form
        onsubmit={(event) => {
          event.preventDefault();
          if (range.trim()) void order(range);
        }}
      >
        <input
          bind:value={range}
          placeholder="1-24/2"
          maxlength="400"
          aria-label="frames, such as 1-24, 3,9,12 or 1-24/2"
          onkeydown={(event) => event.key !== 'Escape' && event.stopPropagation()}
        />
        <button class="plain act" disabled={asking || !range.trim() || (!exr && !png)}>render these</button>
      </form>
    </div>
    <div class="acts">
      <button class="plain act" disabled={trying || (!exr && !png)} onclick={estimate}
        >how long would {range.trim() ? 'these' : count > 1 ? `all ${count}` : 'it'} take?</button
      >
      <span class="quiet" role="status">{trying ? 'trying a few rows of three frames …' : takes}</span>
    </div>
    {#if newest}
      <div class="newest">
        <span role="status">order {newest.id}: {standing(newest)}</span>
        <progress value={newest.share} max="1" aria-label="order {newest.id}"></progress>
        {#if newest.frames.length === 1}
          {#each newest.frames[0]?.files ?? [] as file (file)}
            <a href={renders.at(newest, `files/${file}`)} download={file}
              >{file.endsWith('.png') ? 'PNG' : 'OpenEXR'}</a
            >
          {/each}
        {/if}
      </div>
      {#if newest.frames.length === 1 && newest.frames[0]?.files.some((file) => file.endsWith('.png'))}
        <img
          src={renders.at(newest, `files/${newest.frames[0].files.find((file) => file.endsWith('.png'))}`)}
          alt="frame {newest.frames[0].frame} as rendered"
        />
      {/if}
    {/if}
    <button class="plain act" onclick={onqueue}>all orders: the queue</button>
  {/if}
</div>

<style>
  .panel {
    width: 430px;
    padding: 10px 12px;
  }
  p {
    margin: 0 0 6px;
    color: var(--quiet);
  }
  .row {
    display: flex;
    gap: 10px;
    align-items: center;
  }
  .checks {
    display: grid;
    margin: 6px 0;
  }
  label {
    display: flex;
    gap: 6px;
    align-items: center;
    min-height: 24px;
  }
  label input {
    accent-color: var(--amber);
    margin: 0;
  }
  .acts,
  .newest,
  form {
    display: flex;
    gap: 6px 14px;
    align-items: center;
    flex-wrap: wrap;
  }
  .newest {
    margin: 10px 0 6px;
    padding-top: 8px;
    border-top: 1px solid var(--line);
  }
  form input {
    width: 92px;
    background: var(--ground);
    color: var(--text);
    border: 1px solid var(--line);
    font: inherit;
    padding: 2px 6px;
    min-height: 24px;
  }
  .act,
  a {
    color: var(--amber);
    min-height: 24px;
    line-height: 24px;
  }
  .act:disabled {
    color: var(--faint);
  }
  progress {
    accent-color: var(--amber);
    width: 110px;
  }
  .quiet {
    color: var(--quiet);
  }
  img {
    display: block;
    width: 100%;
    margin: 6px 0;
  }
</style>
