<!-- The line of a tube: its points by numbers, by clicking the picture, and how its radius goes along it. -->
<script lang="ts">
  import type { Json, Problem, Shot } from '../api/client';
  import type { components } from '../api/schema';
  import { send } from '../api/send';
  import DragNumber from '../fields/DragNumber.svelte';
  import CurveField from '../fields/CurveField.svelte';
  import { chosen } from '../state/chosen.svelte';
  import { live } from '../state/live.svelte';
  import { notices } from '../state/notices.svelte';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';
  import {
    insertedAfter,
    intoOwn,
    ledBy,
    sampled,
    withPoints,
    withTangents,
    type Point,
    type Tangents,
  } from '../state/tubeEdits';

  type Line = components['schemas']['LineBody'];
  type Tube = {
    points: Point[];
    closed: boolean;
    smooth: boolean;
    radius: number;
    thickness: [number, number][];
    tangents?: Tangents;
  };
  type Props = { item: Shot['objects'][number]; body: unknown; index: number };
  let { item, body, index }: Props = $props();
  const tube = $derived(body as Tube);
  const at = (...more: (string | number)[]) => pointer('objects', index, 'geometry', ...more);
  const put = (name: string, value: Json, label: string) =>
    void shot.commit([{ op: 'replace', path: at(name), value }], label);
  const tangents = $derived<Tangents>(tube.points.map((_, k) => tube.tangents?.[k] ?? null));
  const points = (next: Point[], label: string, led?: Tangents) =>
    void shot.commit(withPoints(index, next, led), label);
  const natural = (k: number) =>
    live.head?.gizmo?.tube?.points.find((each) => each.number === k)?.tangent ?? null;
  const lead = (k: number, tangent: Point | null) =>
    void shot.commit(
      withTangents(index, ledBy(tangents, tube.points.length, k, tangent)),
      `tangent of point ${k + 1} of ${item.name}`,
    );
  const ledAxis = (k: number, axis: number, value: number) => [
    { op: 'replace' as const, path: at('tangents', k, axis), value },
  ];
  const number = (point: number, axis: number, value: number) => [
    { op: 'replace' as const, path: at('points', point, axis), value },
  ];
  const ends = $derived<[number, number]>([tube.thickness[0]?.[1] ?? 1, tube.thickness.at(-1)?.[1] ?? 1]);
  const taper = (first: number, last: number): Json => [
    [0, first],
    ...tube.thickness.slice(1, -1),
    [1, last],
  ];

  let curved = $state(false);
  const thick = $derived<[number, number][]>(
    tube.thickness.length > 1
      ? tube.thickness
      : [
          [0, tube.thickness[0]?.[1] ?? 1],
          [1, tube.thickness[0]?.[1] ?? 1],
        ],
  );
  /** Within what a tube may have: shares of its length, and factors above 0. */
  const held = (next: [number, number][]): Json =>
    next.map(([share, factor]) => [Math.min(Math.max(share, 0), 1), Math.min(Math.max(factor, 0.001), 1000)]);

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

  /** The line of a file in place of this one's, with its radius where the file has one. */
  async function fromFile(file: File) {
    const { data, error } = await send('/api/meshes/line', 'line', file, () => undefined).catch(() => ({
      data: undefined,
      error: undefined,
    }));
    if (!data) {
      const problem = error as Problem | undefined;
      notices.say('error', problem?.title ?? 'The server did not answer', problem?.detail ?? '');
      return;
    }
    const line = data as Line;
    const changes: [string, Json][] = [
      ['points', line.points as Json],
      ['tangents', []],
      ['closed', line.closed],
      ['thickness', line.thickness as Json],
    ];
    if (line.radius !== null) changes.push(['radius', line.radius]);
    await shot.commit(
      changes.map(([name, value]) => ({ op: 'add', path: at(name), value })),
      `line of ${item.name} from ${file.name}`,
    );
    notices.say('info', `The line of ${item.name} is that of ${file.name}`, `${line.said}.`);
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
<div class="row">
  <span>radius along it</span>
  <button
    class="plain act"
    aria-expanded={curved}
    aria-label="radius of {item.name} along its length"
    onclick={() => (curved = !curved)}>{curved ? 'close' : 'by a curve …'}</button
  >
</div>
{#if curved}
  <CurveField
    points={thick}
    response={{ low: 0, high: 1, values: sampled(thick) }}
    oninput={(next) => shot.preview([{ op: 'replace', path: at('thickness'), value: held(next) }])}
    onchange={(next) => put('thickness', held(next), `radius of ${item.name}`)}
  />
{/if}
{#each tube.points as point, k (k)}
  <div class="row point" role="group" aria-label="point {k + 1} of {item.name}">
    <span title="point {k + 1}">{k + 1}</span>
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
      onclick={() =>
        points(insertedAfter(tube.points, k), `a point of ${item.name}`, [
          ...tangents.slice(0, k + 1),
          null,
          ...tangents.slice(k + 1),
        ])}>+</button
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
            tangents.filter((_, other) => other !== k),
          )}>×</button
      >
    {/if}
    {#if tube.smooth && (tangents[k] || natural(k))}
      <button
        class="plain act bend"
        role="switch"
        aria-checked={tangents[k] !== null}
        aria-label="tangent of point {k + 1} of {item.name} by hand"
        title="how the line bends here: by hand, or by its neighbours"
        onclick={() => lead(k, tangents[k] ? null : (natural(k) as Point | null))}>⌒</button
      >
    {/if}
  </div>
  {#if tube.smooth && tangents[k]}
    <div class="row">
      <span>bends towards</span>
      {#each tangents[k] ?? [] as value, axis (axis)}
        <DragNumber
          {value}
          label="{'xyz'[axis]} of the tangent of point {k + 1} of {item.name}"
          unit="m"
          oninput={(next) => shot.preview(ledAxis(k, axis, next))}
          onchange={(next) =>
            void shot.commit(ledAxis(k, axis, next), `tangent of point ${k + 1} of ${item.name}`)}
        />
      {/each}
    </div>
  {/if}
{/each}
<div class="row acts">
  <button
    class="plain act"
    title="click a surface in the picture: the line goes on to there"
    onclick={byClick}>+ point by a click</button
  >
  <label class="act pick" title="rows of x, y, z (and radius) as .csv, or a line element of an .obj">
    line from a file …
    <input
      type="file"
      accept=".csv,.obj"
      aria-label="line of {item.name} from a file"
      onchange={(event) => {
        const file = event.currentTarget.files?.[0];
        event.currentTarget.value = '';
        if (file) void fromFile(file);
      }}
    />
  </label>
</div>

<style>
  .act {
    color: var(--amber);
  }
  .point {
    gap: 7px !important;
  }
  .act[aria-checked='false'].bend {
    color: var(--quiet);
  }
  .pick {
    position: relative;
    cursor: pointer;
  }
  .pick input {
    position: absolute;
    width: 1px;
    height: 1px;
    overflow: hidden;
    opacity: 0;
  }
  .pick:focus-within {
    outline: 2px solid var(--amber);
  }
</style>
