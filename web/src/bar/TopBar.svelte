<!-- The bar: which shot, what the stage shows, what can be taken back, how far the picture is, and what is saved. -->
<script lang="ts">
  import { bench } from '../state/bench.svelte';
  import { layout } from '../state/layout.svelte';
  import { live } from '../state/live.svelte';
  import { shot } from '../state/shot.svelte';

  type Panel = '' | 'history' | 'signals' | 'memory' | 'people' | 'keys' | 'save pictures';
  type Props = {
    panel: Panel;
    snapshots: number;
    advice: boolean;
    onadvice: () => void;
    onpanel: (panel: Panel) => void;
    browsing: boolean;
    onbrowse: () => void;
    onheight: (pixels: number) => void;
  };
  let { panel, snapshots, advice, onadvice, onpanel, browsing, onbrowse, onheight }: Props = $props();

  let height = $state(0);
  $effect(() => {
    if (height) onheight(height);
  });

  const flip = (which: Panel) => onpanel(panel === which ? '' : which);
  const grave = $derived(live.advice.some((each) => each.severity !== 'note'));
  /** How long the picture still takes, at most. */
  const rest = $derived.by(() => {
    const head = live.head;
    if (!head || head.show.kind !== 'picture') return '';
    if (head.finished) return ' · done';
    if (live.viewing.paused) return ' · paused';
    return head.left === null ? '' : ` · ${time(head.left)} left`;
  });
  const time = (seconds: number) =>
    `${Math.floor(seconds / 60)}:${String(Math.floor(seconds % 60)).padStart(2, '0')}`;
</script>

<header bind:offsetHeight={height}>
  <h1 class="brand">Texallon</h1>
  <button
    class="plain shot"
    data-shot-id={shot.id}
    aria-haspopup="dialog"
    aria-expanded={browsing}
    aria-label="shot {shot.document?.name ?? ''} {shot.document?.title ?? ''}: choose another"
    title="projects and shots: O"
    onclick={onbrowse}
    ><b>{shot.document?.name ?? 'no shot'}</b>{shot.document?.title
      ? ` · ${shot.document.title}`
      : ''}</button
  >
  <span class="quiet project">{shot.project}</span>
  <button
    class="plain pill"
    class:lit={live.show.kind !== 'picture'}
    title="one mask, channel or step alone, and back: A"
    onclick={() => bench.toggle()}>showing: {live.show.kind}</button
  >
  <button
    class="plain pill"
    data-panel-button
    class:lit={panel === 'history'}
    aria-expanded={panel === 'history'}
    onclick={() => flip('history')}>history {snapshots}</button
  >
  <button
    class="plain pill"
    class:lit={layout.kept.set}
    aria-pressed={layout.kept.set}
    title="objects, locators, camera and light beside the stage: E"
    onclick={() => layout.change({ set: !layout.kept.set })}>scene</button
  >
  <button
    class="plain pill"
    data-panel-button
    class:lit={panel === 'signals'}
    aria-expanded={panel === 'signals'}
    onclick={() => flip('signals')}>signals {shot.document?.signals.length ?? 0}</button
  >
  <button
    class="plain pill"
    class:lit={advice && live.advice.length > 0}
    class:warn={grave}
    aria-pressed={advice}
    onclick={onadvice}>advice {live.advice.length}</button
  >
  <button
    class="plain pill"
    data-panel-button
    class:lit={panel === 'save pictures'}
    aria-expanded={panel === 'save pictures'}
    title="save pictures: this frame, some frames or all, as PNG and OpenEXR, in the background"
    onclick={() => flip('save pictures')}>render</button
  >
  <button
    class="plain pill"
    data-panel-button
    class:lit={panel === 'memory'}
    aria-expanded={panel === 'memory'}
    title="how much of what was computed is kept"
    onclick={() => flip('memory')}>memory</button
  >
  <button
    class="plain pill"
    data-panel-button
    class:lit={panel === 'people' || live.others.length > 0}
    aria-expanded={panel === 'people'}
    title="who else has this shot open"
    onclick={() => flip('people')}
    >{live.others.length ? `${live.others.length} more here` : 'only you'}</button
  >
  <button
    class="plain pill"
    data-panel-button
    class:lit={panel === 'keys'}
    aria-expanded={panel === 'keys'}
    aria-label="keys and gestures"
    title="keys and gestures: ?"
    onclick={() => flip('keys')}>?</button
  >
  <span class="gap"></span>
  <button
    class="plain"
    disabled={!shot.canUndo}
    title="undo {shot.undoLabel} (Ctrl-Z)"
    onclick={() => void shot.undo()}>undo</button
  >
  <button
    class="plain"
    disabled={!shot.canRedo}
    title="redo {shot.redoLabel} (Ctrl-Shift-Z)"
    onclick={() => void shot.redo()}>redo</button
  >
  <span class="quiet mono far"
    >{live.head
      ? `${live.head.samples} ${live.head.samples === 1 ? 'sample' : 'samples'} · ${time(live.head.seconds)}${rest}`
      : ''}</span
  >
  <span class="quiet" role="status" title="revision {shot.revision}"
    >{shot.waiting
      ? `kept here, not saved yet: ${shot.waiting}`
      : shot.saving
        ? 'saving…'
        : shot.draft.length
          ? 'not saved'
          : 'saved'}</span
  >
</header>

<style>
  header {
    display: flex;
    align-items: center;
    gap: 4px 11px;
    padding: 4px 14px;
    min-height: 40px;
    border-bottom: 1px solid var(--line);
    flex-wrap: wrap;
    white-space: nowrap;
  }
  .brand {
    margin: 0;
    color: var(--amber);
    font-weight: 600;
    font-size: 14px;
  }
  .shot {
    max-width: 230px;
    overflow: hidden;
    text-overflow: ellipsis;
    border-bottom: 1px dotted var(--amber-line);
  }
  .shot b {
    font-weight: 600;
  }
  .shot:hover {
    color: var(--amber);
  }
  .quiet {
    color: var(--quiet);
  }
  /* All of the project's name or none of it: what does not fit beside the empty first item goes to a second row, which is hidden. */
  header > .project {
    display: flex;
    flex-wrap: wrap;
    min-width: 0;
    flex-shrink: 100000;
    height: 1.4em;
    line-height: 1.4em;
    overflow: hidden;
  }
  .project::before {
    content: '';
    width: 0.1px;
    height: 1.4em;
  }
  .pill {
    border: 1px solid var(--line);
    border-radius: 12px;
    padding: 2px 9px;
  }
  .pill:hover,
  .pill.lit {
    border-color: var(--amber);
    color: var(--amber);
  }
  .pill.warn {
    border-color: var(--amber);
  }
  /* Whether work is saved is always in sight; how far the picture is gives way. */
  header > * {
    flex-shrink: 0;
  }
  header > .far {
    min-width: 0;
    flex-shrink: 1;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  /* Where there is room for one row it is one: what says least gives way first. */
  @media (min-width: 1101px) {
    header {
      flex-wrap: nowrap;
      overflow: hidden;
    }
  }
  .gap {
    flex: 1;
  }
  @media (max-width: 1200px) {
    header > .project {
      display: none;
    }
  }
</style>
