<!-- What a layer that carries a look says of it: which one, whether as a material of its own, and what stands in for its places. -->
<script lang="ts">
  import type { Json, Layer } from '../api/client';
  import PlaceField from '../fields/PlaceField.svelte';
  import { bench } from '../state/bench.svelte';
  import { shot } from '../state/shot.svelte';

  type Props = { layer: Layer; onchange: (member: 'bare' | 'stand_ins', value: Json) => void };
  let { layer, onchange }: Props = $props();

  const carried = $derived(layer.look);
  /** The places that the look measures from, by name. */
  const places = $derived.by(() => {
    const found: Record<string, Json> = {};
    const walk = (part: Json) => {
      if (Array.isArray(part)) part.forEach(walk);
      else if (part !== null && typeof part === 'object') {
        const keys = Object.keys(part);
        const only = keys.length === 1 ? (keys[0] ?? '') : '';
        if (only === 'locator' || only === 'object') found[String(part[only])] = part;
        else Object.values(part).forEach(walk);
      }
    };
    walk((shot.look(carried?.look ?? '')?.look.layers ?? []) as unknown as Json);
    return Object.entries(found);
  });
</script>

{#if carried}
  <div class="carried">
    <button class="plain look" title="open this look" onclick={() => bench.openLook(carried.look)}
      >look {carried.look}</button
    >
    <label
      title="on: channels that it leaves alone go back to their defaults, as a finished material's; off: they stay as they are below"
    >
      <input
        type="checkbox"
        checked={carried.bare}
        onchange={(event) => onchange('bare', event.currentTarget.checked)}
      />
      covers all
    </label>
    {#each places as [name, own] (name)}
      <span class="place"
        >{name} is <PlaceField
          value={(carried.stand_ins as unknown as Record<string, Json>)[name] ?? own}
          label="what stands in for {name} in {layer.name}"
          onchange={(place) => {
            const next = { ...(carried.stand_ins as unknown as Record<string, Json>), [name]: place };
            if (JSON.stringify(place) === JSON.stringify(own)) delete next[name];
            onchange('stand_ins', next);
          }}
        /></span
      >
    {/each}
  </div>
{/if}

<style>
  .carried {
    display: flex;
    flex-direction: column;
    align-items: flex-start;
    gap: 2px;
    margin: 2px 0 0 14px;
    color: var(--quiet);
  }
  .look {
    color: var(--named);
    border-bottom: 1px solid var(--named-line);
    text-align: left;
  }
  label {
    display: flex;
    gap: 4px;
    align-items: center;
    white-space: nowrap;
  }
  input {
    accent-color: var(--amber);
    margin: 0;
  }
</style>
