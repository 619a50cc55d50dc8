<!-- How finely an object's faces are divided, what that comes to before it is done, and whether its looks move its surface. -->
<script lang="ts">
  import { client, type Json, type Shot } from '../api/client';
  import Choice from '../fields/Choice.svelte';
  import { inBytes } from '../fields/numbers';
  import NumberRow from '../fields/NumberRow.svelte';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';

  type Props = { item: Shot['objects'][number]; index: number };
  let { item, index }: Props = $props();

  type Level = { levels: number; triangles: number; bytes: number; seconds: number; fits: boolean };
  let levels = $state.raw<Level[]>([]);

  const finer = $derived(item.subdivision);
  const moved = $derived(item.displacement);
  const scheme = $derived(finer?.scheme ?? 'midpoint');
  const now = $derived(levels.find((each) => each.levels === finer?.levels));
  const most = $derived(levels.filter((each) => each.fits).at(-1)?.levels ?? 0);
  const at = (...more: string[]) => pointer('objects', index, ...more);
  const put = (path: string, value: Json, label: string) =>
    void shot.commit([{ op: 'add', path, value }], label);

  $effect(() => {
    const [id, name, how] = [shot.id, item.name, scheme];
    if (!finer) return;
    void client
      .GET('/api/shots/{shot_id}/fineness', {
        params: { path: { shot_id: id }, query: { object: name, scheme: how } },
      })
      .then(({ data }) => {
        if (data && id === shot.id && name === item.name && how === scheme) levels = data.levels;
      });
  });

  function divide(how: string) {
    const value =
      how === 'as they are'
        ? null
        : { ...(finer ?? { levels: 2, edge_pixels: null, crease: 180 }), scheme: how };
    put(at('subdivision'), value, `faces of ${item.name}: ${how}`);
  }
</script>

<div class="row">
  <span>faces</span>
  <Choice
    value={finer ? finer.scheme : 'as they are'}
    label="faces of {item.name}"
    options={[
      { value: 'as they are', text: 'as they are' },
      { value: 'midpoint', text: 'divided' },
      { value: 'catmull-clark', text: 'divided, rounded' },
    ]}
    onchange={divide}
  />
</div>
{#if finer}
  <NumberRow
    path={at('subdivision', 'levels')}
    value={finer.levels}
    label="levels of {item.name}"
    text="levels"
    low={0}
    high={8}
    whole
  />
  {#if now}
    <p class="told" class:bad={!now.fits}>
      {now.triangles.toLocaleString('en')} faces at most, {inBytes(now.bytes)}, {now.seconds < 1
        ? 'under a second'
        : `about ${now.seconds.toPrecision(2)} s`}.
      {#if now.fits}
        Up to level {most} there is room.
      {:else}
        There is no room for so many:
        <button
          class="plain act"
          onclick={() => put(at('subdivision', 'levels'), most, `levels of ${item.name}`)}
          >use level {most}</button
        >
      {/if}
    </p>
  {/if}
  <div class="row">
    <span>fewer where far away</span>
    <button
      class="plain act"
      role="switch"
      aria-checked={finer.edge_pixels !== null}
      aria-label="fewer levels of {item.name} where it is far away"
      onclick={() =>
        put(
          at('subdivision', 'edge_pixels'),
          finer.edge_pixels === null ? 2 : null,
          `faces of ${item.name} by distance`,
        )}>{finer.edge_pixels === null ? 'no' : 'yes'}</button
    >
  </div>
  {#if finer.edge_pixels !== null}
    <NumberRow
      path={at('subdivision', 'edge_pixels')}
      value={finer.edge_pixels ?? 2}
      label="edges of {item.name} in the picture"
      text="edges as short as"
      unit="px"
      low={0.25}
      high={100}
    />
  {/if}
  {#if finer.scheme === 'catmull-clark' || moved}
    <NumberRow
      path={at('subdivision', 'crease')}
      value={finer.crease}
      label="sharp edges of {item.name}"
      text="edges stay sharp from"
      unit="°"
      low={0}
      high={180}
    />
  {/if}
{/if}
<div class="row">
  <span>displacement moves it</span>
  <button
    class="plain act"
    role="switch"
    aria-checked={moved !== null}
    aria-label="displacement moves {item.name}"
    title="where it does not, a look's displacement only tilts the normal, as a bump does"
    onclick={() => put(at('displacement'), moved ? null : {}, `displacement of ${item.name}`)}
    >{moved ? 'yes' : 'no'}</button
  >
</div>
{#if moved}
  <NumberRow
    path={at('displacement', 'zero')}
    value={moved.zero}
    label="zero level of {item.name}"
    text="height that moves nothing"
    unit="m"
  />
  <NumberRow
    path={at('displacement', 'most')}
    value={moved.most}
    label="farthest displacement of {item.name}"
    text="moved at most"
    unit="m"
    low={0.0001}
    high={1000}
  />
  <div class="row">
    <span>outwards only</span>
    <button
      class="plain act"
      role="switch"
      aria-checked={moved.outwards_only}
      aria-label="{item.name} is moved outwards only"
      onclick={() =>
        put(
          at('displacement', 'outwards_only'),
          !moved.outwards_only,
          `displacement of ${item.name} outwards only`,
        )}>{moved.outwards_only ? 'yes' : 'no'}</button
    >
  </div>
{/if}

<style>
  .told {
    margin: 0 0 4px;
    color: var(--quiet);
    font-size: 12px;
  }
  .bad {
    color: var(--bad);
  }
  .act {
    color: var(--amber);
  }
</style>
