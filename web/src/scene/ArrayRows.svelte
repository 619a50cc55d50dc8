<!-- Copies of an object: in rows, on a ring, along a tube, over a surface, or at particles. -->
<script lang="ts">
  import type { Json, Shot } from '../api/client';
  import Choice from '../fields/Choice.svelte';
  import DragNumber from '../fields/DragNumber.svelte';
  import NumberRow from '../fields/NumberRow.svelte';
  import SwitchRow from '../fields/SwitchRow.svelte';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';
  import CopyBodyRows from './CopyBodyRows.svelte';
  import CopyRows from './CopyRows.svelte';

  type Props = { item: Shot['objects'][number]; index: number };
  let { item, index }: Props = $props();
  const array = $derived(item.array);
  const others = $derived((shot.document?.objects ?? []).filter((each) => each.name !== item.name));
  const at = (...more: (string | number)[]) => pointer('objects', index, 'array', ...more);
  const put = (value: Json, label: string) => void shot.commit([{ op: 'add', path: at(), value }], label);
  const number = (name: string, axis: number, value: number) => [
    { op: 'replace' as const, path: at(name, axis), value },
  ];
  const isTube = (each: Shot['objects'][number]) =>
    'shape' in each.geometry && each.geometry.shape === 'tube';
  const isCloud = (each: Shot['objects'][number]) => each.particles !== null && each.particles !== undefined;
  /** What copies may stand along, by the way in which they do. */
  const grounds = $derived({
    line: others.filter(isTube),
    surface: others.filter((each) => !isCloud(each) || each.particles?.skin),
    particles: others.filter(isCloud),
  });

  function lay(along: string) {
    const label = `copies of ${item.name}: ${along}`;
    if (along === 'none') put(null, label);
    else if (along === 'line' || along === 'surface' || along === 'particles') {
      const [first] = grounds[along];
      if (first) put({ along, object: first.name }, label);
    } else put({ along }, label);
  }
</script>

<div class="row">
  <span>copies</span>
  <Choice
    value={array?.along ?? 'none'}
    label="copies of {item.name}"
    options={[
      { value: 'none', text: 'none' },
      { value: 'grid', text: 'in rows' },
      { value: 'ring', text: 'on a ring' },
      ...(grounds.line.length ? [{ value: 'line', text: 'along a tube' }] : []),
      ...(grounds.surface.length ? [{ value: 'surface', text: 'over a surface' }] : []),
      ...(grounds.particles.length ? [{ value: 'particles', text: 'at particles' }] : []),
    ]}
    onchange={lay}
  />
</div>
{#if array && 'object' in array}
  <div class="row">
    <span>{array.along === 'surface' ? 'which stand on' : 'of'}</span>
    <Choice
      value={array.object}
      label="what copies of {item.name} stand along"
      options={grounds[array.along].map((each) => ({ value: each.name, text: each.name }))}
      onchange={(name) =>
        void shot.commit(
          [{ op: 'replace', path: at('object'), value: name }],
          `copies of ${item.name}: ${name}`,
        )}
    />
  </div>
{/if}
{#if array?.along === 'grid'}
  {#each ['counts', 'spacing'] as const as name (name)}
    <div class="row">
      <span>{name === 'counts' ? 'how many' : 'how far apart'}</span>
      {#each array[name] as value, axis (axis)}
        <DragNumber
          {value}
          label="{name} of copies of {item.name} along {'xyz'[axis]}"
          unit={name === 'counts' ? '' : 'm'}
          {...name === 'counts' ? { low: 1, high: 4096, whole: true } : {}}
          oninput={(next) => shot.preview(number(name, axis, next))}
          onchange={(next) => void shot.commit(number(name, axis, next), `copies of ${item.name}`)}
        />
      {/each}
    </div>
  {/each}
{:else if array?.along === 'ring' || array?.along === 'line'}
  <NumberRow
    path={at('count')}
    value={array.count}
    label="number of copies of {item.name}"
    text="how many"
    low={1}
    high={4096}
    whole
  />
  {#if array.along === 'ring'}
    <NumberRow
      path={at('radius')}
      value={array.radius}
      label="radius of the ring of {item.name}"
      text="radius"
      unit="m"
      low={0}
      high={1000}
    />
  {/if}
  <SwitchRow
    path={at('turned')}
    value={array.turned}
    text="turned with the {array.along}"
    label="copies of {item.name} are turned with the {array.along}"
  />
{:else if array?.along === 'surface'}
  <NumberRow
    path={at('apart')}
    value={array.apart}
    label="how far apart copies of {item.name} are"
    text="at least apart"
    unit="m"
    low={0.001}
    high={100}
  />
  <NumberRow
    path={at('most')}
    value={array.most}
    label="most copies of {item.name}"
    text="how many at most"
    low={1}
    high={200000}
    whole
  />
  <div class="row">
    <span>size, by chance</span>
    {#each array.sizes as value, end (end)}
      <DragNumber
        {value}
        label="{end ? 'largest' : 'smallest'} of the copies of {item.name}"
        unit="×"
        low={0.01}
        high={10}
        oninput={(next) => shot.preview(number('sizes', end, next))}
        onchange={(next) => void shot.commit(number('sizes', end, next), `sizes of copies of ${item.name}`)}
      />
    {/each}
  </div>
  <NumberRow
    path={at('turn')}
    value={array.turn}
    label="how far copies of {item.name} are turned"
    text="turned, of all the way"
    low={0}
    high={1}
  />
  <NumberRow
    path={at('tilt')}
    value={array.tilt}
    label="how far copies of {item.name} lean"
    text="lean at most"
    unit="°"
    low={0}
    high={180}
  />
  <NumberRow
    path={at('upright')}
    value={array.upright}
    label="how upright copies of {item.name} stand"
    text="upright"
    low={0}
    high={1}
  />
  <NumberRow
    path={at('seed')}
    value={array.seed}
    label="seed of the copies of {item.name}"
    text="seed"
    low={0}
    high={100000}
    whole
  />
{:else if array?.along === 'particles'}
  <SwitchRow
    path={at('sized')}
    value={array.sized}
    text="as large as the particle"
    label="copies of {item.name} are as large as their particles"
  />
{/if}
{#if array}
  <CopyBodyRows {item} {index} />
  <CopyRows {item} {index} />
{/if}
