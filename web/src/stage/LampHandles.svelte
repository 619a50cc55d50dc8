<!-- Handles of the lamp that is chosen: what it faces, and its size or cone; by hand or by arrow keys. Gizmo moves the lamp itself. -->
<script lang="ts">
  import type { Json, Operation } from '../api/client';
  import type { Gizmo } from '../api/live';
  import { chosen } from '../state/chosen.svelte';
  import { freely, tidy, type Pixels } from '../state/gizmoEdits';
  import { draggedPart, partsOf, placeOf, reachOf, type LampPart } from '../state/lampEdits';
  import { live } from '../state/live.svelte';
  import { pointer } from '../state/pointer';
  import { withKeys } from '../state/keyedNumber.svelte';
  import { shot } from '../state/shot.svelte';

  type Props = { width: number; height: number };
  let { width, height }: Props = $props();

  type Lamp = NonNullable<typeof shot.document>['lights'][number];
  type Held = { part: LampPart | 'target'; gizmo: Gizmo; lamp: Lamp; from: Pixels };
  let held = $state.raw<Held | null>(null);

  const size = $derived([width, height] as const);
  const index = $derived(
    chosen.list === 'lights' ? (shot.document?.lights.findIndex((each) => each.id === chosen.id) ?? -1) : -1,
  );
  const lamp = $derived(index >= 0 ? (shot.document?.lights[index] ?? null) : null);
  const gizmo = $derived.by(() => {
    const found = live.head?.gizmo ?? null;
    return found && found.thing === pointer('lights', chosen.id) ? found : null;
  });
  const at = (place: readonly [number, number]): Pixels => [place[0] * width, place[1] * height];
  const spotOf = (part: LampPart, from: Gizmo) => (part === 'cone' ? from.target : from);

  const set = (name: string, value: Json): Operation[] => [
    { op: 'replace', path: pointer('lights', index, name), value },
  ];
  const movedTarget = (by: readonly number[], item: Lamp) =>
    item.target.map((x, k) => tidy(x + (by[k] ?? 0)));

  function patchFor({ part, gizmo, lamp, from }: Held, to: Pixels): Operation[] {
    const moved: Pixels = [to[0] - from[0], to[1] - from[1]];
    if (part === 'target') {
      if (!gizmo.target) return [];
      return set('target', movedTarget(freely({ ...gizmo, ...gizmo.target }, size, moved), lamp));
    }
    const spot = spotOf(part, gizmo);
    return spot ? set(part, draggedPart(spot, part, lamp, lamp.position, lamp.target, size, moved)) : [];
  }
  const place = (event: PointerEvent): Pixels => {
    const box = (event.currentTarget as SVGElement).ownerSVGElement?.getBoundingClientRect();
    return [event.clientX - (box?.left ?? 0), event.clientY - (box?.top ?? 0)];
  };
  function take(event: PointerEvent, part: Held['part']) {
    if (!gizmo || !lamp || event.button !== 0) return;
    event.stopPropagation();
    (event.currentTarget as SVGElement).setPointerCapture(event.pointerId);
    held = { part, gizmo, lamp, from: place(event) };
  }
  function drag(event: PointerEvent) {
    if (held) shot.preview(withKeys(patchFor(held, place(event))));
  }
  function letGo(event: PointerEvent) {
    if (!held) return;
    const patch = withKeys(patchFor(held, place(event)));
    const words = held.part === 'target' ? 'what it faces' : held.part;
    const name = held.lamp.name;
    held = null;
    if (shot.draft.length) void shot.commit(patch, `${name}: ${words}`);
  }
  function nudge(event: KeyboardEvent, part: Held['part']) {
    if (!lamp || !gizmo) return;
    const small = event.shiftKey ? 0.1 : 1;
    let patch: Operation[] = [];
    if (part === 'target') {
      const ways: Record<string, number[]> = {
        ArrowLeft: [-1, 0, 0],
        ArrowRight: [1, 0, 0],
        ArrowUp: [0, 0, -1],
        ArrowDown: [0, 0, 1],
        PageUp: [0, 1, 0],
        PageDown: [0, -1, 0],
      };
      const way = ways[event.key];
      if (!way) return;
      patch = set(
        'target',
        movedTarget(
          way.map((x) => x * 0.05 * small),
          lamp,
        ),
      );
    } else {
      const by = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[event.key];
      if (!by) return;
      const next = part === 'cone' ? lamp.cone + 2 * by * small : lamp[part] * (1 + 0.05 * by * small);
      patch = set(part, part === 'cone' ? Math.min(Math.max(next, 1), 170) : Math.max(tidy(next), 0.001));
    }
    event.preventDefault();
    event.stopPropagation();
    void shot.commit(withKeys(patch), `${lamp.name}: ${part === 'target' ? 'what it faces' : part}`);
  }
</script>

{#if gizmo && lamp && live.show.kind === 'picture'}
  {@const from = at(gizmo.at)}
  <svg class="handles" viewBox="0 0 {width} {height}" data-lamp={lamp.name}>
    {#if gizmo.target && lamp.shape !== 'point' && lamp.shape !== 'sphere'}
      {@const to = at(gizmo.target.at)}
      <line class="thin" x1={from[0]} y1={from[1]} x2={to[0]} y2={to[1]} />
      <g
        class="handle"
        class:held={held?.part === 'target'}
        role="slider"
        tabindex="0"
        aria-label="what {lamp.name} faces"
        aria-valuenow={lamp.target[0]}
        onpointerdown={(event) => take(event, 'target')}
        onpointermove={drag}
        onpointerup={letGo}
        onpointercancel={letGo}
        onkeydown={(event) => nudge(event, 'target')}
      >
        <circle class="wide" cx={to[0]} cy={to[1]} r="14" />
        <path d="M{to[0] - 8} {to[1]}h16M{to[0]} {to[1] - 8}v16" />
        <text x={to[0] + 10} y={to[1] - 6}>faces</text>
      </g>
    {/if}
    {#each partsOf(lamp.shape) as part (part)}
      {@const spot = spotOf(part, gizmo)}
      {#if spot}
        {@const end = placeOf(spot, part, reachOf(part, lamp, lamp.position, lamp.target), size)}
        {@const middle = at(spot.at)}
        <line class="thin" x1={middle[0]} y1={middle[1]} x2={end[0]} y2={end[1]} />
        <g
          class="handle"
          class:held={held?.part === part}
          role="slider"
          tabindex="0"
          aria-label="{part} of {lamp.name}"
          aria-valuenow={lamp[part]}
          onpointerdown={(event) => take(event, part)}
          onpointermove={drag}
          onpointerup={letGo}
          onpointercancel={letGo}
          onkeydown={(event) => nudge(event, part)}
        >
          <circle class="wide" cx={end[0]} cy={end[1]} r="13" />
          <rect
            x={end[0] - 5}
            y={end[1] - 5}
            width="10"
            height="10"
            transform="rotate(45 {end[0]} {end[1]})"
          />
          <text x={end[0] + 10} y={end[1] + 14}>{part}</text>
        </g>
      {/if}
    {/each}
  </svg>
{/if}
