<!-- When the picture is good enough, and how far its light paths are followed. -->
<script lang="ts">
  import { live } from '../state/live.svelte';
  import { shot } from '../state/shot.svelte';
  import NumberRow from '../fields/NumberRow.svelte';
  import SwitchRow from '../fields/SwitchRow.svelte';

  let more = $state(false);
  const document = $derived(shot.document);
  const frame = $derived(live.frame ?? document?.frames.first ?? 1);
  const share = (degrees: number) => Number((frame + degrees / 360).toFixed(3));
  const opens = $derived(document ? share(document.shutter.offset - document.shutter.angle / 2) : 0);
  const closes = $derived(document ? share(document.shutter.offset + document.shutter.angle / 2) : 0);
  const exposure = $derived(document ? document.shutter.angle / 360 / document.frames.rate : 0);
  const use = $derived(live.head?.volumes ?? null);
</script>

{#if document}
  <NumberRow
    path="/sampling/samples"
    value={document.sampling.samples}
    label="sample limit"
    low={1}
    high={65536}
    whole
  />
  <NumberRow
    path="/sampling/noise"
    value={document.sampling.noise}
    label="noise threshold"
    text="stop below noise (0 never)"
    low={0}
    high={1}
  />
  <SwitchRow
    path="/shutter/on"
    value={document.shutter.on}
    text="motion blur"
    label="motion blur"
    yes="on"
    no="off"
  />
  {#if document.shutter.on}
    <NumberRow
      path="/shutter/angle"
      value={document.shutter.angle}
      label="shutter angle"
      unit="°"
      low={0}
      high={720}
    />
    <NumberRow
      path="/shutter/offset"
      value={document.shutter.offset}
      label="shutter offset"
      unit="°"
      low={-720}
      high={720}
    />
    <p>open from frame {opens} to {closes}, {(exposure * 1000).toFixed(1)} ms</p>
  {/if}
  {#if use}
    <NumberRow
      path="/sampling/volume_detail"
      value={document.sampling.volume_detail}
      label="volume detail"
      low={0.25}
      high={3}
    />
    <p>
      cells {(3 / document.sampling.volume_detail).toFixed(1)} pixels wide in finals, {use.cell_pixels.toFixed(
        1,
      )} here · {use.bricks.toLocaleString('en')} bricks,
      {use.megabytes.toFixed(0)} MB
    </p>
    {#if use.exceeded}<p class="wrong" role="status">
        bounds did not hold {use.exceeded} times: volumes are too dark there
      </p>{/if}
    {#if use.untracked}<p class="wrong" role="status">
        {use.untracked} paths met more than can be followed
      </p>{/if}
    {#if use.coarser}<p class="wrong" role="status">
        {use.coarser} paths took coarser bricks, for want of room: lower the detail
      </p>{/if}
  {/if}
  <button class="plain" aria-expanded={more} onclick={() => (more = !more)}
    >{more ? 'fewer limits' : 'light bounces…'}</button
  >
  {#if more}
    <NumberRow path="/bounces" value={document.bounces} label="bounces in all" low={0} high={64} whole />
    {#each ['diffuse', 'glossy', 'transmission', 'transparency'] as const as name (name)}
      <NumberRow
        path="/limits/{name}"
        value={document.limits[name]}
        label="{name} bounces"
        low={0}
        high={64}
        whole
      />
    {/each}
    <NumberRow
      path="/limits/clamp"
      value={document.limits.clamp}
      label="hold indirect light to"
      text="hold indirect light to (0 never; not in finals)"
      low={0}
      high={1000}
    />
  {/if}
{/if}

<style>
  p {
    margin: 0;
    color: var(--quiet);
    font-size: 12px;
  }
  .wrong {
    color: var(--amber);
  }
  button {
    color: var(--amber);
  }
</style>
