<!-- The bench: one screen that does the work. -->
<script lang="ts">
  import { ToastNotification } from 'carbon-components-svelte';
  import { onMount } from 'svelte';
  import { client, type Snapshot } from './api/client';
  import LookSheet from './sheet/LookSheet.svelte';
  import RecipeBench from './bench/RecipeBench.svelte';
  import MemoryPanel from './memory/MemoryPanel.svelte';
  import PeoplePanel from './people/PeoplePanel.svelte';
  import ImportReportDialog from './scene/ImportReportDialog.svelte';
  import QuestionDialog from './people/QuestionDialog.svelte';
  import ScenePanel from './scene/ScenePanel.svelte';
  import HistoryPanel from './history/HistoryPanel.svelte';
  import SignalPanel from './signals/SignalPanel.svelte';
  import OrderPanel from './queue/OrderPanel.svelte';
  import QueuePage from './queue/QueuePage.svelte';
  import ReviewSheet from './review/ReviewSheet.svelte';
  import ShelfPanel from './shelf/ShelfPanel.svelte';
  import { shelf } from './shelf/shelf.svelte';
  import ShotBrowser from './shots/ShotBrowser.svelte';
  import Stage from './stage/Stage.svelte';
  import Splitter from './bar/Splitter.svelte';
  import KeySheet from './help/KeySheet.svelte';
  import Reference from './help/Reference.svelte';
  import { LIMITS, layout } from './state/layout.svelte';
  import TimeStrip from './bar/TimeStrip.svelte';
  import TopBar from './bar/TopBar.svelte';
  import { bench } from './state/bench.svelte';
  import { chosen } from './state/chosen.svelte';
  import type { Compared } from './state/compared';
  import { live } from './state/live.svelte';
  import { notices } from './state/notices.svelte';
  import { shot } from './state/shot.svelte';

  let panel = $state<'' | 'history' | 'signals' | 'memory' | 'people' | 'keys' | 'save pictures'>('');
  let advice = $state(true);
  let browsing = $state(false);
  let reviewing = $state(false);
  let shelved = $state(false);
  let queued = $state(false);
  let referring = $state(false);

  /** Regions that the first tabs lead to, past all controls before them. */
  const SKIPS = [
    ['the stage', '.stage'],
    ['the look sheet', '[aria-label="look sheet"]'],
    ['the recipe', '[aria-label="recipe"]'],
    ['the advice', '[aria-label="advice"]'],
    ['time', '[aria-label="time"]'],
  ] as const;

  /** Pixels above and below what the border between stage and recipe divides. */
  const FOOT = 28;
  /** Pixels that the bar takes: in a narrow window it wraps. */
  let head = $state(41);
  let snapshots = $state.raw<Snapshot[]>([]);
  let compared = $state.raw<Compared | null>(null);
  let popover: HTMLDivElement | undefined = $state();

  const title = $derived.by(() => {
    const show = live.show;
    if (show.kind === 'picture') return shot.document?.title ?? '';
    if (show.kind === 'attribute') return `attribute ${show.attribute} of what wears ${show.look}`;
    if (show.kind === 'channel') return `${show.channel.replaceAll('_', ' ')} of ${show.look}, all layers`;
    const recipe = bench.opened?.recipe;
    const step = show.step !== null && recipe ? ` after ${recipe.steps[show.step]?.op ?? ''}` : '';
    return `${bench.opened?.title ?? ''}${step}`;
  });

  async function loadSnapshots() {
    const id = shot.id;
    const { data } = await client.GET('/api/shots/{shot_id}/snapshots', {
      params: { path: { shot_id: id } },
    });
    if (id === shot.id) snapshots = data?.snapshots ?? [];
  }

  async function opened() {
    compared = null;
    panel = '';
    bench.showPicture();
    const first = shot.document?.objects[0]?.look ?? shot.document?.looks[0]?.name;
    if (first) bench.openLook(first);
    await loadSnapshots();
    void shelf.load(); // looks that are linked to it may have newer versions
  }

  function browse() {
    keepPicture();
    browsing = !browsing;
  }

  /** Have the picture that is seen kept as the shot's in lists, where it is good enough. */
  function keepPicture() {
    const head = live.head;
    if (!head || head.show.kind !== 'picture' || head.samples < 4 || shot.saving) return;
    const session = live.session;
    void client.POST('/api/shots/{shot_id}/picture', {
      params: { path: { shot_id: shot.id } },
      body: { session },
    });
  }

  async function change(id: number) {
    keepPicture();
    if (await shot.open(id)) await opened();
  }

  /** The recipe takes what it needs: a line where there is none, and what was dragged where it was. */
  const dock = $derived(
    layout.kept.dock !== null
      ? `minmax(0, ${layout.kept.dock}fr)`
      : bench.opened && !bench.opened.recipe
        ? '92px'
        : 'minmax(0, min(46%, 420px))',
  );
  const rows = $derived(
    `auto minmax(0, ${layout.kept.dock === null ? 1 : 1 - layout.kept.dock}fr) 1px ${dock} 28px`,
  );
  const columns = $derived(
    `${layout.kept.set ? `min(${layout.kept.setWidth}px, 30vw) 1px ` : ''}minmax(240px, 1fr) 1px minmax(0, ${layout.kept.sheetWidth}px)`,
  );

  $effect(() => live.setPlace(bench.opened ? `${bench.look} · ${bench.opened.title}` : ''));

  onMount(() => {
    void shot.start().then(() => (shot.id ? opened() : browse()));
  });

  function key(event: KeyboardEvent) {
    const target = event.target as HTMLElement;
    const command = event.ctrlKey || event.metaKey;
    if (target.closest?.('input, textarea')) return;
    // In lists and menus letters find their entries.
    if (!command && target.closest?.('select, [role="menu"]')) return;
    if (command && event.key.toLowerCase() === 'z') {
      event.preventDefault();
      const again = event.shiftKey;
      void (again ? shot.redo() : shot.undo());
    } else if (!command && !event.altKey && event.key.toLowerCase() === 'a') {
      event.preventDefault();
      bench.toggle();
    } else if (!command && !event.altKey && event.key.toLowerCase() === 'o') {
      event.preventDefault();
      browse();
    } else if (!command && !event.altKey && event.key.toLowerCase() === 'k') {
      event.preventDefault();
      if (shot.document) shelved = true;
    } else if (!command && !event.altKey && event.key.toLowerCase() === 'q') {
      event.preventDefault();
      panel = '';
      queued = true;
    } else if (!command && !event.altKey && event.key.toLowerCase() === 's') {
      if (live.show.kind !== 'picture') bench.nextStyle();
    } else if (!command && !event.altKey && chosen.list && 'mtl'.includes(event.key)) {
      chosen.way = ({ m: 'move', t: 'turn', l: 'scale' } as const)[event.key as 'm' | 't' | 'l'];
    } else if (event.key === '?') {
      panel = panel === 'keys' ? '' : 'keys';
    } else if (!command && !event.altKey && event.key.toLowerCase() === 'e') {
      layout.change({ set: !layout.kept.set });
    } else if (event.key === 'Escape') {
      if (browsing) browsing = false;
      else if (panel) panel = '';
      else if (live.pinned) live.stopReading();
    }
  }
</script>

<svelte:window
  onkeydown={key}
  onpointerdown={(event) => {
    const target = event.target as HTMLElement;
    if (
      panel &&
      popover &&
      !popover.contains(target) &&
      !target.closest?.('[data-panel-button]') &&
      !target.closest?.('.stage')
    )
      panel = '';
  }}
/>

<main style:grid-template-rows={rows} style:--head="{head}px">
  <nav class="skip" aria-label="go straight to">
    {#each SKIPS as [name, where] (name)}
      <a
        href="#{name}"
        onclick={(event) => {
          event.preventDefault();
          const region = document.querySelector<HTMLElement>(where);
          const first = region?.querySelector<HTMLElement>('button, [tabindex="0"], select, input, a');
          (first ?? region)?.focus();
        }}>{name}</a
      >
    {/each}
  </nav>
  <TopBar
    {panel}
    {advice}
    onadvice={() => (advice = !advice)}
    snapshots={snapshots.length}
    onpanel={(next) => (panel = next)}
    {browsing}
    onbrowse={browse}
    onheight={(height) => (head = height)}
  />
  <div class="upper" style:grid-template-columns={columns}>
    {#if layout.kept.set}
      <section class="set" aria-label="the set"><ScenePanel onopened={opened} /></section>
      <Splitter
        way="upright"
        label="width of the set"
        value={layout.kept.setWidth}
        low={LIMITS.set[0]}
        high={LIMITS.set[1]}
        step={16}
        at={(x) => x}
        onmove={(value) => layout.change({ setWidth: value ?? 270 })}
      />
    {/if}
    <Stage {compared} {title} onstopcompare={() => (compared = null)} />
    <Splitter
      way="upright"
      label="width of the look sheet"
      value={layout.kept.sheetWidth}
      low={LIMITS.sheet[0]}
      high={LIMITS.sheet[1]}
      step={-16}
      at={(x) => window.innerWidth - x}
      onmove={(value) => layout.change({ sheetWidth: value ?? 500 })}
    />
    <LookSheet onreview={() => (reviewing = true)} onshelf={() => (shelved = true)} />
  </div>
  <Splitter
    way="level"
    label="height of the recipe"
    value={layout.kept.dock ?? 0.4}
    low={LIMITS.dock[0]}
    high={LIMITS.dock[1]}
    step={-0.03}
    at={(_, y) => (window.innerHeight - FOOT - y) / (window.innerHeight - head - FOOT)}
    onmove={(dock) => layout.change({ dock })}
  />
  <RecipeBench
    {advice}
    onuses={() => (panel = 'signals')}
    onscene={() => layout.change({ set: true })}
    onkeys={() => (panel = 'keys')}
  />
  <TimeStrip />
  {#if panel}
    <div
      class="popover"
      class:aside={panel === 'history'}
      bind:this={popover}
      role="dialog"
      aria-label={panel}
    >
      {#if panel === 'history'}
        <HistoryPanel {snapshots} {compared} oncompare={(next) => (compared = next)} onkept={loadSnapshots} />
      {:else if panel === 'save pictures'}
        <OrderPanel
          onqueue={() => {
            panel = '';
            queued = true;
          }}
        />
      {:else if panel === 'memory'}
        <MemoryPanel />
      {:else if panel === 'people'}
        <PeoplePanel />
      {:else if panel === 'signals'}
        <SignalPanel onshot={change} />
      {:else}
        <KeySheet
          onreference={() => {
            panel = '';
            referring = true;
          }}
        />
      {/if}
    </div>
  {/if}
  {#if browsing}
    <ShotBrowser onopen={(id) => void change(id)} onclose={() => (browsing = false)} />
  {/if}
  {#if queued}<QueuePage onclose={() => (queued = false)} />{/if}
  {#if referring}<Reference onclose={() => (referring = false)} />{/if}
  {#if shelved}<ShelfPanel onclose={() => (shelved = false)} />{/if}
  {#if reviewing}<ReviewSheet onclose={() => (reviewing = false)} />{/if}
  <QuestionDialog />
  <ImportReportDialog />
  <div class="toasts">
    {#each notices.list as notice (notice.id)}
      <ToastNotification
        lowContrast
        kind={notice.kind}
        title={notice.title}
        subtitle={notice.detail}
        timeout={notice.kind === 'error' || notice.action ? 0 : 9000}
        on:close={() => notices.close(notice.id)}
      >
        {#if notice.action}
          <button
            class="plain act"
            onclick={() => {
              notice.action?.run();
              notices.close(notice.id);
            }}>{notice.action.label}</button
          >
        {/if}
      </ToastNotification>
    {/each}
  </div>
</main>

<style>
  main {
    display: grid;
    /* No text may widen the page: the stage would change its size and begin its picture anew. */
    grid-template-columns: minmax(0, 1fr);
    height: 100%;
    min-width: 820px;
  }
  .skip {
    position: absolute;
    z-index: 60;
    left: 0;
    top: 0;
  }
  .skip a {
    position: absolute;
    left: -1000px;
    white-space: nowrap;
    padding: 10px 14px;
    background: var(--raised);
    color: var(--amber);
  }
  .skip a:focus {
    left: 8px;
    top: 4px;
  }
  .upper {
    display: grid;
    grid-template-rows: minmax(0, 1fr);
    min-height: 0;
  }
  .set {
    min-height: 0;
    min-width: 0;
  }
  .popover {
    position: fixed;
    top: calc(var(--head, 41px) + 3px);
    left: 420px;
    z-index: 40;
    background: var(--panel);
    border: 1px solid var(--line);
    box-shadow: 0 10px 30px var(--shadow);
  }
  /* Beside the picture that kept ones are compared with, not over it. */
  .popover.aside {
    left: auto;
    right: 12px;
  }
  .act {
    justify-self: start;
    color: var(--amber);
    border-bottom: 1px dotted var(--amber-line);
    margin-bottom: 12px;
  }
  .toasts {
    position: fixed;
    right: 14px;
    bottom: 14px;
    z-index: 50;
  }
</style>
