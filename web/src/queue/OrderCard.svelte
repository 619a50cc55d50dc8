<!-- One order: what it is of, how far it is, what can be done with it, and its frames. -->
<script lang="ts">
  import type { Render } from '../api/client';
  import { renders } from '../state/renders.svelte';
  import FrameCell from './FrameCell.svelte';
  import { duration, ranges, standing } from './words';

  type Props = { render: Render };
  let { render }: Props = $props();

  let chosen = $state<number | null>(null);
  let sure = $state(false);
  const frame = $derived(render.frames.find((each) => each.frame === chosen) ?? null);
  const done = $derived(render.counts.done ?? 0);
  const amiss = $derived((render.counts.failed ?? 0) + (render.counts.stopped ?? 0));
  const whole = $derived(done === render.frames.length);
  const formats = $derived(
    render.how.formats.map((each) => (each === 'exr' ? 'OpenEXR' : 'PNG')).join(' and '),
  );
  const when = $derived(
    new Date(render.created).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' }),
  );
</script>

<li aria-label="order {render.id}">
  <div class="head">
    <b>{render.shot}</b>
    <span
      >{render.frames.length === 1 ? 'frame' : 'frames'}
      {ranges(render.frames.map((each) => each.frame))}</span
    >
    <span class="quiet"
      >{render.how.size.join(' × ')} · {render.how.samples} samples · {formats}{render.how.passes
        ? ' · passes'
        : ''}</span
    >
    <span class="quiet">{render.author ? `${render.author}, ` : ''}{when}, revision {render.revision}</span>
    <span class="gap"></span>
    <span role="status">{standing(render)}</span>
  </div>
  <progress value={render.share} max="1" aria-label="how far order {render.id} is"></progress>
  <div class="acts">
    {#if !render.over && render.state === 'going'}
      <button class="plain act" onclick={() => void renders.change(render, { state: 'paused' })}>pause</button
      >
    {:else if render.state === 'paused'}
      <button class="plain act" onclick={() => void renders.change(render, { state: 'going' })}>go on</button>
    {/if}
    {#if !render.over}
      <button class="plain act" onclick={() => void renders.change(render, { state: 'stopped' })}>stop</button
      >
      <button
        class="plain act"
        onclick={() => void renders.change(render, { priority: Math.min(render.priority + 10, 100) })}
        >sooner</button
      >
      <button
        class="plain act"
        onclick={() => void renders.change(render, { priority: Math.max(render.priority - 10, -100) })}
        >later</button
      >
      {#if render.priority}<span class="quiet">priority {render.priority}</span>{/if}
    {/if}
    {#if amiss && (render.over || render.counts.failed)}
      <button class="plain act" onclick={() => void renders.again(render)}
        >try the {amiss === 1 ? 'one' : amiss} again</button
      >
    {/if}
    {#if done}
      <a href={renders.at(render, 'frames.zip')} download>all files</a>
      {#if whole && done > 1}<a href={renders.at(render, 'video.mp4')} download>video</a>{/if}
    {/if}
    <span class="gap"></span>
    {#if sure}
      <span class="quiet">its files too?</span>
      <button class="plain bad" onclick={() => void renders.remove(render)}>remove order {render.id}</button>
      <button class="plain" onclick={() => (sure = false)}>keep</button>
    {:else}
      <button class="plain quiet" aria-label="remove order {render.id} …" onclick={() => (sure = true)}
        >remove …</button
      >
    {/if}
  </div>
  <div class="strip" role="group" aria-label="frames of order {render.id}">
    {#each render.frames as each (each.frame)}
      <FrameCell
        {render}
        frame={each}
        chosen={each.frame === chosen}
        onchoose={() => (chosen = chosen === each.frame ? null : each.frame)}
      />
    {/each}
  </div>
  {#if frame}
    <div class="detail" role="group" aria-label="frame {frame.frame} of order {render.id}">
      <span
        >frame {frame.frame}: {frame.state}{frame.kept ? ', its files were there' : ''}{frame.state ===
          'running' && frame.total
          ? `, ${frame.done} of ${frame.total} samples`
          : ''}</span
      >
      {#if frame.seconds}<span class="quiet">{duration(frame.seconds)}</span>{/if}
      {#if frame.memory}<span class="quiet">{Math.round(frame.memory).toLocaleString('en')} MB</span>{/if}
      {#if frame.worker}<span class="quiet">worker {frame.worker}</span>{/if}
      {#each frame.files as file (file)}
        <a href={renders.at(render, `files/${file}`)} download={file}>{file}</a>
      {/each}
      {#if frame.state !== 'running' && frame.state !== 'waiting'}
        <button class="plain act" onclick={() => void renders.again(render, [frame.frame])}
          >render it again</button
        >
      {/if}
      {#if frame.log.length}
        <ol>
          {#each frame.log as line, number (number)}<li>{line}</li>{/each}
        </ol>
      {/if}
    </div>
  {/if}
</li>

<style>
  li {
    padding: 12px 0;
    border-bottom: 1px solid var(--line);
  }
  .head,
  .acts,
  .detail {
    display: flex;
    gap: 4px 14px;
    align-items: center;
    flex-wrap: wrap;
  }
  .head b {
    font-size: 13px;
  }
  .quiet {
    color: var(--quiet);
  }
  .gap {
    flex: 1;
  }
  progress {
    display: block;
    width: 100%;
    height: 4px;
    margin: 6px 0 2px;
    appearance: none;
    border: 0;
    background: var(--line);
  }
  progress::-webkit-progress-bar {
    background: var(--line);
  }
  progress::-webkit-progress-value {
    background: var(--amber);
  }
  progress::-moz-progress-bar {
    background: var(--amber);
  }
  .acts > *,
  .detail > * {
    min-height: 24px;
    line-height: 24px;
  }
  .act,
  a {
    color: var(--amber);
  }
  .bad {
    color: var(--bad);
  }
  .strip {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
    max-height: 200px;
    overflow: auto;
    padding: 2px;
  }
  .detail {
    margin-top: 6px;
    padding: 4px 10px;
    background: var(--raised);
  }
  ol {
    flex-basis: 100%;
    margin: 0;
    padding: 0 0 4px 18px;
    color: var(--quiet);
  }
  ol li {
    padding: 0;
    border: 0;
    list-style: decimal;
  }
</style>
