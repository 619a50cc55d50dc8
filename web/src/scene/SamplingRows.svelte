<!-- When the picture is good enough, and how far its light paths are followed. -->
<script lang="ts">
  import { shot } from '../state/shot.svelte';
  import NumberRow from '../fields/NumberRow.svelte';

  let more = $state(false);
  const document = $derived(shot.document);
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
  button {
    color: var(--amber);
  }
</style>
