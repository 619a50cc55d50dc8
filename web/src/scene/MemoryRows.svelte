<!-- What the points or copies of an object remember, masks that grow and springs that ring; and the water that carries it. -->
<script lang="ts">
  import type { Json, Shot } from '../api/client';
  import Choice from '../fields/Choice.svelte';
  import NameInput from '../fields/NameInput.svelte';
  import NumberRow from '../fields/NumberRow.svelte';
  import { bench } from '../state/bench.svelte';
  import { live } from '../state/live.svelte';
  import { pointer } from '../state/pointer';
  import { freeName } from '../state/setEdits';
  import { shot } from '../state/shot.svelte';

  type Props = { item: Shot['objects'][number]; index: number };
  let { item, index }: Props = $props();

  type Memory = Shot['objects'][number]['remembers'][number];
  type Row = { field: string; text: string; unit: string; low: number; high: number };
  const ROWS: Record<Memory['kind'], Row[]> = {
    growth: [
      { field: 'above', text: 'starts above', unit: '', low: 0, high: 1 },
      { field: 'speed', text: 'spreads', unit: 'm/s', low: 0, high: 1 },
      { field: 'edge', text: 'rises within', unit: 'm', low: 0, high: 0.2 },
      { field: 'fades', text: 'fades by', unit: '/s', low: 0, high: 2 },
    ],
    springs: [
      { field: 'frequency', text: 'swings', unit: 'Hz', low: 0, high: 6 },
      { field: 'damping', text: 'damped by', unit: '', low: 0, high: 2 },
      { field: 'spread', text: 'rings travel', unit: 'm/s', low: 0, high: 2 },
      { field: 'strength', text: 'drawn by ×', unit: '', low: -2, high: 2 },
    ],
  };
  const CELL: Row = { field: 'cell', text: 'points apart, at most', unit: 'm', low: 0, high: 0.2 };
  /** Signals beside the one that touches, and how much each does. */
  const BESIDE = [
    {
      signal: 'ragged' as const,
      text: 'made ragged by',
      does: 'makes ragged',
      amount: 'unevenness' as const,
      words: 'slower and faster by',
      unit: '',
      high: 0.95,
    },
    {
      signal: 'heals' as const,
      text: 'healed by',
      does: 'heals',
      amount: 'healing' as const,
      words: 'where it is 1, by',
      unit: '/s',
      high: 4,
    },
  ];
  const FLOATS = [
    { field: 'draught' as const, text: 'lies deep', unit: 'm', low: 0.005, high: 2 },
    { field: 'damping' as const, text: 'damped by', unit: '', low: 0, high: 2 },
    { field: 'tilts' as const, text: 'tilts by', unit: '×', low: 0, high: 1 },
  ];
  const OF = [
    { value: 'surface' as const, text: 'at each point' },
    { value: 'copies' as const, text: 'at each copy' },
  ];
  const signals = $derived(
    (shot.document?.signals ?? []).map((each) => ({ value: each.name, text: each.name })),
  );
  const orNone = $derived([{ value: '', text: 'nothing' }, ...signals]);
  const at = (...more: (string | number)[]) => pointer('objects', index, 'remembers', ...more);
  const floating = (...more: string[]) => pointer('objects', index, 'floats', ...more);
  const commit = (patch: Parameters<typeof shot.commit>[0], label: string) =>
    void shot.commit(patch, label).then(() => shot.refreshAttributes());
  const set = (path: string, value: Json, each: Memory) =>
    commit([{ op: 'replace', path, value }], `${each.name}, which ${item.name} remembers`);
  const alone = (each: Memory) =>
    live.show.kind === 'attribute' && live.show.attribute === each.name && live.show.look === item.look;

  function add(kind: Memory['kind']) {
    const [signal] = signals;
    if (!signal) return;
    const taken = item.remembers.map((each) => each.name);
    const name = freeName(kind === 'growth' ? 'growth' : 'ring', taken);
    const words = kind === 'growth' ? 'a mask grows on' : 'springs on';
    commit(
      [{ op: 'add', path: at('-'), value: { kind, name, signal: signal.value } }],
      `${words} ${item.name}`,
    );
  }
</script>

{#each item.remembers as each, number (each.id || number)}
  <div class="row">
    <button
      class="plain act"
      title="show it in the picture, alone"
      aria-label="{each.kind === 'growth' ? 'grows' : 'rings'}: show {each.name} of {item.name} alone"
      aria-pressed={alone(each)}
      onclick={() => (alone(each) ? bench.showPicture() : bench.showAttribute(item.look, each.name, false))}
      >{each.kind === 'growth' ? 'grows' : 'rings'}</button
    >
    <NameInput
      value={each.name}
      label="name of what {item.name} remembers, {number + 1}"
      onchange={(name) => set(at(number, 'name'), name, each)}
    />
    {#if item.array}
      <Choice
        value={each.of}
        label="what of {item.name} remembers {each.name}"
        options={OF}
        onchange={(value) => set(at(number, 'of'), value, each)}
      />
    {/if}
    <button
      class="plain act"
      aria-label="forget {each.name} of {item.name}"
      onclick={() => commit([{ op: 'remove', path: at(number) }], `${item.name} forgets ${each.name}`)}
      >×</button
    >
  </div>
  <div class="row inner">
    <span>{each.kind === 'growth' ? 'touched by' : 'drawn to'}</span>
    <Choice
      value={each.signal}
      label="signal that {each.name} of {item.name} starts from"
      options={signals}
      onchange={(value) => set(at(number, 'signal'), value, each)}
    />
  </div>
  <div class="inner">
    {#each each.of === 'surface' ? [...ROWS[each.kind], CELL] : ROWS[each.kind] as row (row.field)}
      <NumberRow
        path={at(number, row.field)}
        value={(each as unknown as Record<string, number>)[row.field] ?? 0}
        label="{row.text}: {each.name} of {item.name}"
        text={row.text}
        unit={row.unit}
        low={row.low}
        high={row.high}
      />
    {/each}
  </div>
  {#if each.kind === 'growth'}
    {#each BESIDE as other (other.signal)}
      <div class="row inner">
        <span>{other.text}</span>
        <Choice
          value={each[other.signal] ?? ''}
          label="signal that {other.does} {each.name} of {item.name}"
          options={orNone}
          onchange={(value) => set(at(number, other.signal), value || null, each)}
        />
      </div>
      {#if each[other.signal]}
        <div class="inner">
          <NumberRow
            path={at(number, other.amount)}
            value={each[other.amount]}
            label="{other.amount} of {each.name} of {item.name}"
            text={other.words}
            unit={other.unit}
            low={0}
            high={other.high}
          />
        </div>
      {/if}
    {/each}
  {/if}
{/each}
{#if signals.length}
  <div class="row">
    <span>floats on</span>
    <Choice
      value={item.floats?.signal ?? ''}
      label="signal that {item.name} floats on"
      options={orNone}
      onchange={(signal) =>
        void shot.commit(
          [
            {
              op: 'add',
              path: floating(),
              value: signal ? { ...(item.floats ?? {}), signal } : null,
            },
          ],
          signal ? `${item.name} floats on ${signal}` : `${item.name} floats no more`,
        )}
    />
  </div>
  {#if item.floats}
    <div class="inner">
      {#each FLOATS as row (row.field)}
        <NumberRow
          path={floating(row.field)}
          value={item.floats[row.field]}
          label="{row.text}: {item.name} on the water"
          text={row.text}
          unit={row.unit}
          low={row.low}
          high={row.high}
        />
      {/each}
    </div>
  {/if}
  <div class="row">
    <button class="plain act" onclick={() => add('growth')}>let a mask grow on it</button>
    <button class="plain act" onclick={() => add('springs')}>let it ring</button>
  </div>
{:else}
  <p class="told">A shared signal can touch it, and be remembered: share one first.</p>
{/if}

<style>
  .act {
    color: var(--amber);
  }
  .inner {
    padding-left: 12px;
  }
  .told {
    color: var(--quiet);
  }
</style>
