<!-- The line of a tube: its points by numbers, by clicking the picture, and how its radius goes along it. -->
<script lang="ts">
  import type { Json, Shot } from '../api/client';
  import DragNumber from '../fields/DragNumber.svelte';
  import { chosen } from '../state/chosen.svelte';
  import { live } from '../state/live.svelte';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';
  import { insertedAfter, intoOwn, withPoints, type Point } from '../state/tubeEdits';

  type Tube = {
    points: Point[];
    closed: boolean;
    smooth: boolean;
    radius: number;
    thickness: [number, number][];
  };
  type Props = { item: Shot['objects'][number]; body: unknown; index: number };
  let { item, body, index }: Props = $props();
  const tube = $derived(body as Tube);
  const at = (...more: (string | number)[]) => pointer('objects', index, 'geometry', ...more);
  const put = (name: string, value: Json, label: string) =>
    void shot.commit([{ op: 'replace', path: at(name), value }], label);
  const points = (next: Point[], label: string) => void shot.commit(withPoints(index, next), label);
  const number = (point: number, axis: number, value: number) => [
    { op: 'replace' as const, path: at('points', point, axis), value },
  ];
  const ends = $derived<[number, number]>([tube.thickness[0]?.[1] ?? 1, tube.thickness.at(-1)?.[1] ?? 1]);
  const taper = (first: number, last: number): Json => [
    [0, first],
    ...tube.thickness.slice(1, -1),
    [1, last],
  ];

  function byClick() {
    const rows = live.head?.gizmo?.tube?.into_own;
    if (!rows) return;
    chosen.click = {
      said: `click where the next point of ${item.name} is to be`,
      done: ({ position, normal }) => {
        const lifted = position.map((x, k) => x + (normal[k] ?? 0) * tube.radius) as unknown as Point;
        points([...tube.points, intoOwn(rows, lifted)], `a point of ${item.name}`);
      },
    };
  }
</script>

<div class="row">
  <span>line</span>
  <button
    class="plain act"
    role="switch"
    aria-checked={tube.smooth}
    aria-label="{item.name} bends smoothly"
    onclick={() => put('smooth', !tube.smooth, `line of ${item.name}`)}
    >{tube.smooth ? 'smooth' : 'straight'}</button
  >
  <button
    class="plain act"
    role="switch"
    aria-checked={tube.closed}
    aria-label="{item.name} ends where it begins"
    onclick={() => put('closed', !tube.closed, `line of ${item.name}`)}
    >{tube.closed ? 'closed' : 'open'}</button
  >
</div>
<div class="row">
  <span>radius × at its ends</span>
  {#each ['beginning', 'end'] as which, end (which)}
    <DragNumber
      value={ends[end] ?? 1}
      label="radius of {item.name} at its {which}"
      unit="×"
      low={0.001}
      high={1000}
      oninput={(value) =>
        shot.preview([
          {
            op: 'replace',
            path: at('thickness'),
            value: end ? taper(ends[0], value) : taper(value, ends[1]),
          },
        ])}
      onchange={(value) =>
        put('thickness', end ? taper(ends[0], value) : taper(value, ends[1]), `radius of ${item.name}`)}
    />
  {/each}
</div>
{#each tube.points as point, k (k)}
  <div class="row" role="group" aria-label="point {k + 1} of {item.name}">
    <span>point {k + 1}</span>
    {#each point as value, axis (axis)}
      <DragNumber
        {value}
        label="{'xyz'[axis]} of point {k + 1} of {item.name}"
        unit="m"
        oninput={(next) => shot.preview(number(k, axis, next))}
        onchange={(next) => void shot.commit(number(k, axis, next), `point ${k + 1} of ${item.name}`)}
      />
    {/each}
    <button
      class="plain act"
      aria-label="add a point after point {k + 1} of {item.name}"
      title="add a point after it"
      onclick={() => points(insertedAfter(tube.points, k), `a point of ${item.name}`)}>+</button
    >
    {#if tube.points.length > 2}
      <button
        class="plain act"
        aria-label="delete point {k + 1} of {item.name}"
        title="delete it"
        onclick={() =>
          points(
            tube.points.filter((_, other) => other !== k),
            `delete a point of ${item.name}`,
          )}>×</button
      >
    {/if}
  </div>
{/each}
<div class="row acts">
  <button
    class="plain act"
    title="click a surface in the picture: the line goes on to there"
    onclick={byClick}>+ point by a click</button
  >
</div>

<style>
  .act {
    color: var(--amber);
  }
</style>
