<!-- Numbers that have keys, a lane for each; keys are chosen, also many with a frame drawn about them, and changed. -->
<script lang="ts">
  import type { Operation } from '../api/client';
  import { shown } from '../fields/numbers';
  import { chosen } from '../state/chosen.svelte';
  import { chosenKeys } from '../state/chosenKeys.svelte';
  import { curves } from '../state/curves.svelte';
  import { applied } from '../state/addressing';
  import { copying, countOf, pasting, removing, shifting } from '../state/keyEdits';
  import { live } from '../state/live.svelte';
  import { wordsOf } from '../state/numberUses';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';
  import ChosenRow from './ChosenRow.svelte';
  import FormulaRow from './FormulaRow.svelte';
  import KeyRow from './KeyRow.svelte';
  import Lane from './Lane.svelte';

  const frames = $derived(shot.document?.frames ?? { first: 1, last: 1, rate: 24 });
  const frame = $derived(live.frame ?? frames.first);
  const tracks = $derived(shot.document?.tracks ?? []);
  let only = $state(false);
  const of = $derived(chosen.list ? `${pointer(chosen.list, chosen.id)}/` : '');
  const within = $derived(tracks.filter((each) => of && each.at.startsWith(of)).length);
  const shownTracks = $derived(
    tracks
      .map((track, index) => ({ track, index }))
      .filter(({ track }) => !only || !within || track.at.startsWith(of)),
  );
  const last = $derived(chosenKeys.last);
  const single = $derived(countOf(chosenKeys.picked) === 1);

  function tried(patch: Operation[]) {
    if (!patch.length || !shot.document) return;
    shot.preview(patch);
    const changed = new Set(patch.map((each) => each.path.split('/')[2]));
    const made = applied(shot.document, patch).tracks;
    void curves.tryOut(
      shot.document.frames,
      made.filter((_, index) => changed.has(String(index))),
    );
  }
  function save(patch: Operation[], label: string) {
    if (patch.length) void shot.commit(patch, label);
  }
  const many = () => `${countOf(chosenKeys.picked)} ${single ? 'key' : 'keys'}`;
  const shift = (by: number) =>
    save(
      shifting(tracks, chosenKeys.picked, by),
      `${many()} ${Math.abs(by)} ${by < 0 ? 'earlier' : 'later'}`,
    );
  const copy = () => (chosenKeys.copied = copying(tracks, chosenKeys.picked));
  function put() {
    if (!shot.document) return;
    const onto = tracks.find((each) => each.id === last?.track)?.at ?? '';
    save(pasting(shot.document, chosenKeys.copied, frame, onto), `keys put in from frame ${frame}`);
  }
  function remove() {
    if (!shot.document) return;
    save(removing(shot.document, chosenKeys.picked), `${many()} taken away`);
    chosenKeys.choose([]);
  }

  function key(event: KeyboardEvent) {
    if ((event.target as HTMLElement).closest('input, select')) return;
    const command = event.ctrlKey || event.metaKey;
    const by = { ArrowLeft: -1, ArrowRight: 1, PageUp: -10, PageDown: 10 }[event.key];
    const track = tracks.find((each) => each.id === last?.track);
    if (by && !command) shift(by);
    else if ((event.key === 'Delete' || event.key === 'Backspace') && !command) remove();
    else if (command && event.key === 'c') copy();
    else if (command && event.key === 'v') put();
    else if (command && event.key === 'a' && track) chosenKeys.all(track);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  let lanes: HTMLElement | undefined = $state();
  let box = $state.raw<{ x: number; y: number; toX: number; toY: number; beside: boolean } | null>(null);
  /** In the lanes' own pixels, however far they are scrolled. */
  function at(event: PointerEvent): [number, number] {
    const edge = lanes?.getBoundingClientRect();
    return [event.clientX - (edge?.left ?? 0), event.clientY - (edge?.top ?? 0) + (lanes?.scrollTop ?? 0)];
  }
  function begin(event: PointerEvent) {
    if (event.button || (event.target as HTMLElement).closest('button, input, select, [role="spinbutton"]'))
      return;
    const [x, y] = at(event);
    box = { x, y, toX: x, toY: y, beside: event.shiftKey };
    lanes?.setPointerCapture(event.pointerId);
  }
  function draw(event: PointerEvent) {
    if (!box) return;
    const [toX, toY] = at(event);
    box = { ...box, toX, toY };
  }
  function end() {
    if (!box || !lanes) return;
    const edge = lanes.getBoundingClientRect();
    const [left, right] = [Math.min(box.x, box.toX), Math.max(box.x, box.toX)];
    const [top, bottom] = [Math.min(box.y, box.toY), Math.max(box.y, box.toY)];
    const found = [...lanes.querySelectorAll<HTMLElement>('[data-key]')].filter((each) => {
      const mark = each.querySelector('i')?.getBoundingClientRect();
      if (!mark) return false;
      const x = (mark.left + mark.right) / 2 - edge.left;
      const y = (mark.top + mark.bottom) / 2 - edge.top + (lanes?.scrollTop ?? 0);
      return x >= left && x <= right && y >= top && y <= bottom;
    });
    const pairs = found.map((each) => (each.dataset['key'] ?? '').split(' ') as [string, string]);
    chosenKeys.choose(pairs, box.beside);
    box = null;
  }
</script>

<!-- svelte-ignore a11y_no_noninteractive_element_interactions, a11y_no_noninteractive_tabindex -->
<section
  class="lanes"
  aria-label="lanes"
  tabindex="0"
  bind:this={lanes}
  onkeydown={key}
  onpointerdown={begin}
  onpointermove={draw}
  onpointerup={end}
  onpointercancel={() => (box = null)}
>
  {#if tracks.length === 0}
    <p>Nothing has keys yet. Set one with the pin beside a number: it stands at the frame that is shown.</p>
  {/if}
  {#if within > 0 && within < tracks.length}
    <label class="only"><input type="checkbox" bind:checked={only} /> only what is chosen in the scene</label>
  {/if}
  {#each shownTracks as { track, index } (track.id)}
    {@const words = shot.document ? wordsOf(shot.document, track.at) : track.at}
    {@const now = curves.at(track.id, frame)}
    {@const number = track.keys.findIndex((each) => last?.track === track.id && last.key === each.id)}
    {@const touched = track.keys[number]}
    <div class="lane">
      <Lane {track} {index} {words} {tried} tall={number >= 0} />
      <span class="mono now">{now ? shown(now.value) : ''}</span>
      <span
        class="mono quiet"
        class:fast={now?.fast}
        title={now?.fast
          ? 'change per second at this frame: too fast to watch'
          : 'change per second at this frame'}>{now ? `${shown(now.speed)}/s` : ''}</span
      >
    </div>
    {#if track.formula}
      <FormulaRow {track} {index} {words} {frame} value={now?.value ?? 0} />
    {/if}
    {#if touched && single}
      <KeyRow {track} {index} {words} key={touched} {number} />
    {/if}
  {/each}
  {#if tracks.length > 0}
    <div class="foot"><ChosenRow {frame} {tried} {shift} {copy} {put} {remove} /></div>
  {/if}
  {#if box}
    <span
      class="box"
      style:left="{Math.min(box.x, box.toX)}px"
      style:top="{Math.min(box.y, box.toY)}px"
      style:width="{Math.abs(box.toX - box.x)}px"
      style:height="{Math.abs(box.toY - box.y)}px"
    ></span>
  {/if}
</section>

<style>
  .lanes {
    position: absolute;
    left: 0;
    right: 0;
    bottom: 100%;
    max-height: 320px;
    overflow: auto;
    background: var(--panel);
    border-top: 1px solid var(--line);
    padding: 6px 14px 0;
    /* Above the edges that parts of the page are dragged by. */
    z-index: 6;
    touch-action: none;
    user-select: none;
  }
  p {
    margin: 0;
    color: var(--quiet);
  }
  .lane {
    /* The strips stand above that of the frames. */
    display: grid;
    grid-template-columns: minmax(0, 1fr) 70px 90px;
    gap: 6px;
    align-items: center;
    min-height: 34px;
    margin-left: 68px;
  }
  /* In sight also where there are more lanes than have room. */
  .foot {
    position: sticky;
    bottom: 0;
    background: var(--panel);
    padding-bottom: 4px;
  }
  .only {
    display: flex;
    gap: 6px;
    align-items: center;
    padding-left: 68px;
    min-height: 24px;
    color: var(--quiet);
  }
  .now {
    text-align: right;
    color: var(--amber);
  }
  .quiet {
    color: var(--quiet);
  }
  .fast {
    color: var(--bad);
  }
  .box {
    position: absolute;
    border: 1px solid var(--amber-line);
    background: var(--amber-faint);
    pointer-events: none;
  }
</style>
