<!-- What stands in, here, for the locators and objects that a shared signal measures from. -->
<script lang="ts">
  import type { Json } from '../api/client';
  import { shot } from '../state/shot.svelte';
  import PlaceField from './PlaceField.svelte';

  type Props = { signal: string; value: Record<string, Json>; onchange: (value: Json) => void };
  let { signal, value, onchange }: Props = $props();

  /** The places by name that a signal's recipe refers to, also through other signals. */
  function references(name: string, seen: string[]): Record<string, Json> {
    const found: Record<string, Json> = {};
    const recipe = shot.document?.signals.find((each) => each.name === name)?.recipe;
    if (!recipe || seen.includes(name)) return found;
    seen.push(name);
    const walk = (part: Json) => {
      if (Array.isArray(part)) part.forEach(walk);
      else if (part !== null && typeof part === 'object') {
        const keys = Object.keys(part);
        const only = keys.length === 1 ? (keys[0] ?? '') : '';
        if (only === 'locator' || only === 'object') found[String(part[only])] = part;
        else if (typeof part['signal'] === 'string') Object.assign(found, references(part['signal'], seen));
        Object.values(part).forEach(walk);
      }
    };
    walk(recipe as unknown as Json);
    return found;
  }
  const places = $derived(Object.entries(references(signal, [])));

  function change(name: string, place: Json, own: Json) {
    const next = { ...value, [name]: place };
    if (JSON.stringify(place) === JSON.stringify(own)) delete next[name];
    onchange(next);
  }
</script>

{#each places as [name, own] (name)}
  <div class="row">
    <span class="quiet">{name} is</span>
    <PlaceField
      value={value[name] ?? own}
      label="what stands in for {name}"
      onchange={(place) => change(name, place, own)}
    />
  </div>
{/each}

<style>
  .row {
    display: flex;
    justify-content: space-between;
    gap: 6px;
  }
  .quiet {
    color: var(--quiet);
  }
</style>
