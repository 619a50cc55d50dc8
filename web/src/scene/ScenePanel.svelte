<!-- What is in the shot: objects, locators, camera, light, how far it is sampled, and a mesh to bring in. -->
<script lang="ts">
  import type { Snippet } from 'svelte';
  import { layout } from '../state/layout.svelte';
  import { shot } from '../state/shot.svelte';
  import BringIn from './BringIn.svelte';
  import LightGroupRows from './LightGroupRows.svelte';
  import LightRows from './LightRows.svelte';
  import LocatorRows from './LocatorRows.svelte';
  import NumberRow from '../fields/NumberRow.svelte';
  import ObjectGroupRows from './ObjectGroupRows.svelte';
  import ObjectRows from './ObjectRows.svelte';
  import SamplingRows from './SamplingRows.svelte';
  import SavedViewRows from './SavedViewRows.svelte';
  import ShotRows from './ShotRows.svelte';
  import AtmosphereRows from './AtmosphereRows.svelte';
  import SurroundingsRows from './SurroundingsRows.svelte';

  type Props = { onopened: () => void };
  let { onopened }: Props = $props();

  const CAMERA = [
    ['exposure', 'exposure', 'exposure', 'stops', -20, 20],
    ['focal_length', 'focal length', 'focal length', 'mm', 8, 400],
    ['film_width', 'film width', 'film width', 'mm', 1, 100],
    ['f_stop', 'f-stop (0 is a pinhole)', 'f-stop', '', 0, 64],
    ['focus_distance', 'focus', 'focus distance', 'm', 0.01, 1000],
  ] as const;
  const BLOOM = [
    ['intensity', 'bloom', '', 1],
    ['threshold', 'bloom from', '', 1000],
    ['size', 'bloom radius', '× width', 1],
  ] as const;

  const document = $derived(shot.document);
</script>

{#snippet part(name: string, rows: Snippet)}
  <details bind:open={() => layout.isOpen(name), (open) => layout.setOpen(name, open)}>
    <summary>{name}</summary>
    {@render rows()}
  </details>
{/snippet}

{#snippet objects()}<ObjectRows />{/snippet}
{#snippet groups()}<ObjectGroupRows />{/snippet}
{#snippet locators()}<LocatorRows />{/snippet}
{#snippet lamps()}<LightRows />{/snippet}
{#snippet surroundings()}<SurroundingsRows /><AtmosphereRows />{/snippet}
{#snippet lightGroups()}<LightGroupRows />{/snippet}
{#snippet sampling()}<SamplingRows />{/snippet}
{#snippet bringing()}<BringIn {onopened} />{/snippet}
{#snippet whole()}<ShotRows />{/snippet}
{#snippet camera()}
  {#if document}
    {#each CAMERA as [name, text, label, unit, low, high] (name)}
      <NumberRow path="/camera/{name}" value={document.camera[name]} {label} {text} {unit} {low} {high} />
    {/each}
    {#each BLOOM as [name, label, unit, high] (name)}
      {#if name === 'intensity' || document.bloom.intensity > 0}
        <NumberRow
          path="/bloom/{name}"
          value={document.bloom[name]}
          {label}
          {unit}
          low={name === 'size' ? 0.001 : 0}
          {high}
        />
      {/if}
    {/each}
    <SavedViewRows />
  {/if}
{/snippet}

<div class="panel">
  {@render part('objects', objects)}
  {@render part('bring in meshes', bringing)}
  {@render part('groups', groups)}
  {@render part('locators', locators)}
  {#if document}
    {@render part('camera', camera)}
    {@render part('surroundings', surroundings)}
    {@render part('lamps', lamps)}
    {@render part('light groups', lightGroups)}
    {@render part('sampling', sampling)}
    {@render part('this shot', whole)}
  {/if}
</div>

<style>
  .panel {
    padding: 4px 12px 12px;
    height: 100%;
    overflow: auto;
  }
  summary {
    font-weight: 600;
    color: var(--quiet);
    padding: 6px 0 2px;
    cursor: pointer;
    min-height: 24px;
  }
  summary:hover {
    color: var(--text);
  }
  /* A line of the panel, in whichever of its parts. */
  .panel :global(.row) {
    display: flex;
    gap: 10px;
    align-items: baseline;
    min-height: 20px;
  }
  .panel :global(.row > :first-child) {
    flex: 1;
    text-align: left;
    min-width: 0;
  }
  .panel :global(.xyz) {
    display: flex;
    gap: 10px;
  }
</style>
