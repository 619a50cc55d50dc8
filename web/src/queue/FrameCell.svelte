<!-- A frame in an order's strip: its picture or its state, its number, and how far it is. -->
<script lang="ts">
  import type { Render, RenderFrame } from '../api/client';
  import { renders } from '../state/renders.svelte';

  type Props = { render: Render; frame: RenderFrame; chosen: boolean; onchoose: () => void };
  let { render, frame, chosen, onchoose }: Props = $props();

  const picture = $derived(frame.thumbnail && frame.state === 'done');
  const source = $derived(`${renders.at(render, `thumbnails/${frame.frame}`)}?${frame.log.length}`);
  /** What could not be read: files may lie in a store that is another one now, or out of reach. */
  let missed = $state('');
  const said = $derived(picture && missed === source ? 'not found' : frame.state);
  const share = $derived(frame.total ? frame.done / frame.total : 0);
  const shape = $derived(`${render.how.size[0]} / ${render.how.size[1]}`);
</script>

<button
  class="plain cell {frame.state}"
  class:chosen
  style:aspect-ratio={shape}
  aria-label="frame {frame.frame}: {said}"
  aria-pressed={chosen}
  onclick={onchoose}
>
  {#if picture && said !== 'not found'}
    <img src={source} alt="" loading="lazy" onerror={() => (missed = source)} />
  {:else if frame.state === 'running'}
    <span class="filled" style:width="{100 * share}%"></span>
  {/if}
  <span class="number mono">{frame.frame}{said === 'failed' || said === 'not found' ? ` ${said}` : ''}</span>
</button>

<style>
  .cell {
    position: relative;
    height: 56px;
    min-width: 40px;
    background: var(--well);
    border: 1px solid var(--line);
    overflow: hidden;
  }
  .cell.running {
    border-color: var(--amber-line);
  }
  .cell.failed {
    border-color: var(--bad);
  }
  .cell.stopped {
    border-style: dashed;
  }
  .cell.chosen {
    border-color: var(--amber);
    outline: 1px solid var(--amber);
  }
  img {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    object-fit: cover;
  }
  .filled {
    position: absolute;
    inset: 0 auto 0 0;
    background: var(--amber-soft);
  }
  .number {
    position: absolute;
    left: 0;
    bottom: 0;
    padding: 0 4px;
    font-size: 11px;
    color: var(--text);
    background: var(--veil);
  }
  .failed .number {
    color: var(--bad);
  }
</style>
