<!-- Handles over the picture for what is chosen of the set: moved, turned and scaled by hand or by arrow keys. -->
<script lang="ts">
  import { client, type Json, type Operation } from '../api/client';
  import Choice from '../fields/Choice.svelte';
  import { chosen } from '../state/chosen.svelte';
  import {
    AXES,
    along,
    freely,
    leaning,
    metre,
    movedBy,
    swung,
    tidy,
    turnedBy,
    wayOf,
    type Axis,
    type Pixels,
  } from '../state/gizmoEdits';
  import { live } from '../state/live.svelte';
  import { pointer } from '../state/pointer';
  import { notices } from '../state/notices.svelte';
  import { membersOf } from '../state/setEdits';
  import { withKeys } from '../state/keyedNumber.svelte';
  import { recorder } from '../state/recording.svelte';
  import { shot } from '../state/shot.svelte';
  import type { Gizmo } from '../api/live';
  import type { Vector } from '../state/turns';

  type Props = { width: number; height: number };
  let { width, height }: Props = $props();

  /** Pixels that a handle reaches from where its thing stands. */
  const REACH = 74;

  type Thing = {
    id: string;
    name: string;
    position: Vector;
    rotation?: Vector;
    scale?: number;
    stretch?: Vector;
    locked?: boolean;
  };
  type Held = { what: Axis | 'all'; gizmo: Gizmo; thing: Thing; from: Pixels; recorded: boolean };
  let held = $state.raw<Held | null>(null);

  const size = $derived([width, height] as const);
  /** How the surface below leans, asked for where its axes are wanted. */
  let normal = $state.raw<Vector | null>(null);
  const framed = $derived(chosen.axes !== 'world');
  const shown = $derived.by(() => {
    const found = given;
    return found && chosen.axes === 'surface' && normal && way !== 'scale' ? leaning(found, normal) : found;
  });
  const given = $derived.by(() => {
    const gizmo = live.head?.gizmo ?? null;
    return gizmo && gizmo.thing === pointer(chosen.list, chosen.id) ? gizmo : null;
  });
  const index = $derived(
    chosen.list ? (shot.document?.[chosen.list].findIndex((each) => each.id === chosen.id) ?? -1) : -1,
  );
  const thing = $derived(
    chosen.list && index >= 0 ? (shot.document?.[chosen.list][index] as unknown as Thing) : null,
  );
  // What goes the way of a line is turned by that.
  const turns = $derived(
    thing !== null &&
      'rotation' in thing &&
      !('along' in thing && thing.along && 'turns_along' in thing && thing.turns_along),
  );
  const way = $derived(turns ? chosen.way : 'move');
  const centre = $derived(shown ? ([shown.at[0] * width, shown.at[1] * height] as const) : ([0, 0] as const));

  /** Where a handle of an axis ends in the picture; an axis that points at the eye is short. */
  function tip(gizmo: Gizmo, axis: Axis): Pixels {
    const [x, y] = metre(gizmo, axis, framed || way === 'scale', size);
    const longest = Math.max(
      ...AXES.map((each) => Math.hypot(...metre(gizmo, each, framed || way === 'scale', size))),
    );
    const share = REACH / Math.max(longest, 1e-6);
    return [centre[0] + x * share, centre[1] + y * share];
  }

  const set = (name: string, value: unknown): Operation[] => [
    { op: 'replace', path: pointer(chosen.list, index, name), value: value as Json },
  ];

  /** Where the hand has brought the thing. */
  function positionFor({ what, gizmo, thing, from }: Held, to: Pixels, steps = false): Vector {
    const moved: Pixels = [to[0] - from[0], to[1] - from[1]];
    const world: Vector =
      what === 'all'
        ? freely(gizmo, size, moved)
        : (wayOf(gizmo, what, framed).map(
            (part) => part * along(gizmo, what, framed, size, moved),
          ) as unknown as Vector);
    return movedBy(gizmo, thing.position, world, steps ? 0.1 : 0);
  }

  /** What of the thing is another, for where the hand is now. */
  function patchFor(holding: Held, to: Pixels, steps: boolean): Operation[] {
    const { what, gizmo, thing, from } = holding;
    const moved: Pixels = [to[0] - from[0], to[1] - from[1]];
    if (way === 'move') return set('position', positionFor(holding, to, steps));
    if (way === 'turn' && what !== 'all') {
      const axis = wayOf(gizmo, what, framed);
      const eye = shot.document?.camera.position ?? [0, 0, 0];
      const faces =
        axis.reduce((sum, part, k) => sum + part * ((eye[k] ?? 0) - (gizmo.position[k] ?? 0)), 0) >= 0;
      const degrees = swung(centre, from, to, faces);
      return set('rotation', turnedBy(gizmo, axis, steps ? Math.round(degrees / 15) * 15 : degrees));
    }
    const nearer = Math.hypot(from[0] - centre[0], from[1] - centre[1]);
    const factor =
      what === 'all'
        ? Math.exp((moved[0] - moved[1]) / 150)
        : Math.hypot(to[0] - centre[0], to[1] - centre[1]) / Math.max(nearer, 4);
    const fitted = Math.max(steps ? Math.round(factor * 10) / 10 : factor, 0.01);
    if (what === 'all') return set('scale', tidy((thing.scale ?? 1) * fitted));
    const stretch = (thing.stretch ?? [1, 1, 1]).map((each, k) =>
      AXES[k] === what ? tidy(each * fitted) : each,
    );
    return set('stretch', stretch);
  }

  const place = (event: PointerEvent): Pixels => {
    const box = (event.currentTarget as SVGElement).ownerSVGElement?.getBoundingClientRect();
    return [event.clientX - (box?.left ?? 0), event.clientY - (box?.top ?? 0)];
  };
  const LABELS = { move: 'move', turn: 'turn', scale: 'scale' } as const;

  function take(event: PointerEvent, what: Axis | 'all') {
    if (!shown || !thing || thing.locked || event.button !== 0) return;
    event.stopPropagation();
    (event.currentTarget as SVGElement).setPointerCapture(event.pointerId);
    const recorded = way === 'move' && chosen.list !== '' && recorder.isArmed(chosen.list, chosen.id);
    held = { what, gizmo: shown, thing, from: place(event), recorded };
    if (recorded && chosen.list) recorder.begin(chosen.list, index, thing.name, thing.position);
  }
  function drag(event: PointerEvent) {
    // Past the last frame the hand moves nothing more.
    if (held?.recorded) return recorder.follow(positionFor(held, place(event)));
    if (held) shot.preview(withKeys(patchFor(held, place(event), event.ctrlKey || event.metaKey)));
  }
  function letGo(event: PointerEvent) {
    if (!held) return;
    if (held.recorded) {
      held = null;
      return void recorder.end().then(lean);
    }
    const patch = withKeys(patchFor(held, place(event), event.ctrlKey || event.metaKey));
    const name = held.thing.name;
    held = null;
    if (shot.draft.length) void shot.commit(patch, `${LABELS[way]} ${name}`).then(lean);
  }
  /** How far down it is to what lies below, and how that leans; nothing where nothing lies there, which is told where `say` is set. */
  async function below(say: boolean) {
    const gizmo = given;
    if (!gizmo || !thing || !shot.document || !chosen.list) return null;
    await shot.settled();
    const objects =
      chosen.list === 'objects'
        ? [thing.name]
        : chosen.list === 'object_groups'
          ? membersOf(shot.document, thing.name)
          : [];
    const { data, error } = await client.POST('/api/placing/rest', {
      body: {
        shot: shot.id,
        session: live.session,
        objects,
        at: objects.length ? null : [...gizmo.position],
      },
    });
    if (!data && say) notices.say('info', `${thing.name} stays`, (error as { detail?: string }).detail ?? '');
    return data ?? null;
  }
  async function lean() {
    if (chosen.axes === 'surface') normal = ((await below(false))?.normal as Vector | undefined) ?? null;
  }
  /** Straight down until it rests; as one step that can be taken back. */
  async function drop() {
    const gizmo = given;
    const found = await below(true);
    if (!found || !gizmo || !thing) return;
    await shot.commit(
      set('position', movedBy(gizmo, thing.position, [0, -found.metres, 0], 0)),
      `drop ${thing.name}`,
    );
  }
  async function axes(wanted: typeof chosen.axes) {
    chosen.axes = wanted;
    await lean();
  }
  $effect(() => {
    if (chosen.id) normal = null;
  });
  /** Arrow keys do a small step of the same. */
  function nudge(event: KeyboardEvent, what: Axis | 'all') {
    const by = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[event.key];
    if (!by || !shown || !thing || thing.locked) return;
    event.preventDefault();
    event.stopPropagation();
    const small = event.shiftKey ? 0.1 : 1;
    let patch: Operation[] = [];
    if (way === 'move') {
      const axis = what === 'all' ? (event.key === 'ArrowUp' || event.key === 'ArrowDown' ? 'z' : 'x') : what;
      const sign = what === 'all' && axis === 'z' ? -by : by;
      const world = wayOf(shown, axis, framed && what !== 'all').map((part) => part * 0.05 * sign * small);
      patch = set('position', movedBy(shown, thing.position, world as unknown as Vector, 0));
    } else if (way === 'turn' && what !== 'all')
      patch = set('rotation', turnedBy(shown, wayOf(shown, what, framed), 5 * by * small));
    else if (way === 'scale') {
      const factor = 1 + 0.05 * by * small;
      patch =
        what === 'all'
          ? set('scale', tidy((thing.scale ?? 1) * factor))
          : set(
              'stretch',
              (thing.stretch ?? [1, 1, 1]).map((each, k) => (AXES[k] === what ? tidy(each * factor) : each)),
            );
    }
    if (patch.length) void shot.commit(withKeys(patch), `${LABELS[way]} ${thing.name}`);
  }
</script>

<svelte:window
  onkeydown={(event) => {
    if (event.key !== 'd' || event.ctrlKey || event.metaKey || event.altKey) return;
    if ((event.target as HTMLElement).closest?.('input, textarea, select')) return;
    if (shown && thing && !thing.locked && chosen.list !== 'lights') void drop();
  }}
/>

{#if shown && thing && live.show.kind === 'picture'}
  <svg class="handles" viewBox="0 0 {width} {height}" data-gizmo={thing.name}>
    {#each AXES as axis (axis)}
      {@const end = tip(shown, axis)}
      {#if way !== 'turn'}
        <g
          class="handle"
          class:held={held?.what === axis}
          role="slider"
          tabindex="0"
          aria-label="{way} {thing.name} along {axis}"
          aria-valuenow={way === 'move'
            ? thing.position[AXES.indexOf(axis)]
            : (thing.stretch?.[AXES.indexOf(axis)] ?? 1)}
          onpointerdown={(event) => take(event, axis)}
          onpointermove={drag}
          onpointerup={letGo}
          onpointercancel={letGo}
          onkeydown={(event) => nudge(event, axis)}
        >
          <line class="wide" x1={centre[0]} y1={centre[1]} x2={end[0]} y2={end[1]} />
          <line x1={centre[0]} y1={centre[1]} x2={end[0]} y2={end[1]} />
          {#if way === 'move'}<circle cx={end[0]} cy={end[1]} r="5" />
          {:else}<rect x={end[0] - 5} y={end[1] - 5} width="10" height="10" />{/if}
          <text x={end[0] + 8} y={end[1] + 4}>{axis}</text>
        </g>
      {:else}
        <g
          class="handle"
          class:held={held?.what === axis}
          role="slider"
          tabindex="0"
          aria-label="turn {thing.name} about {axis}"
          aria-valuenow={thing.rotation?.[AXES.indexOf(axis)] ?? 0}
          onpointerdown={(event) => take(event, axis)}
          onpointermove={drag}
          onpointerup={letGo}
          onpointercancel={letGo}
          onkeydown={(event) => nudge(event, axis)}
        >
          <circle class="wide" cx={end[0]} cy={end[1]} r="12" />
          <line class="thin" x1={centre[0]} y1={centre[1]} x2={end[0]} y2={end[1]} />
          <path d="M{end[0] - 8} {end[1] - 3} a8 8 0 1 1 3 8" />
          <text x={end[0] + 11} y={end[1] + 4}>{axis}</text>
        </g>
      {/if}
    {/each}
    {#if way !== 'turn'}
      <g
        class="handle"
        class:held={held?.what === 'all'}
        role="slider"
        tabindex="0"
        aria-label={way === 'move' ? `move ${thing.name} over the ground` : `scale ${thing.name} evenly`}
        aria-valuenow={thing.scale ?? 1}
        onpointerdown={(event) => take(event, 'all')}
        onpointermove={drag}
        onpointerup={letGo}
        onpointercancel={letGo}
        onkeydown={(event) => nudge(event, 'all')}
      >
        <circle class="wide" cx={centre[0]} cy={centre[1]} r="12" />
        <circle cx={centre[0]} cy={centre[1]} r="7" />
      </g>
    {/if}
  </svg>
  <div class="ways" role="group" aria-label="handles of {thing.name}">
    <b>{thing.name}</b>
    {#if thing.locked}<span>locked</span>{:else}
      {#if turns}
        {#each ['move', 'turn', 'scale'] as const as each (each)}
          <button class="plain" aria-pressed={way === each} onclick={() => (chosen.way = each)}>{each}</button
          >
        {/each}
        <Choice
          value={chosen.axes}
          label="axes of the handles"
          title="along the world's axes, its own, or those of the surface below it"
          options={[
            { value: 'world', text: 'world axes' },
            { value: 'own', text: 'own axes' },
            { value: 'surface', text: 'surface axes' },
          ]}
          onchange={(value) => axes(value as typeof chosen.axes)}
        />
      {:else}<span>move</span>{/if}
      {#if chosen.list !== 'lights'}
        <button class="plain" title="straight down, until it rests on what is below (D)" onclick={drop}
          >drop</button
        >
      {/if}
    {/if}
    <button class="plain" aria-label="no handles" onclick={() => chosen.nothing()}>×</button>
  </div>
{/if}

<style>
  .ways {
    position: absolute;
    right: 10px;
    top: 10px;
    display: flex;
    gap: 12px;
    align-items: center;
    background: var(--veil);
    padding: 3px 8px;
    color: var(--quiet);
  }
  .ways button {
    min-height: 24px;
  }
  .ways button:hover,
  .ways [aria-pressed='true'] {
    color: var(--amber);
  }
  b {
    color: var(--text);
  }
</style>
