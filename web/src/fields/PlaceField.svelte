<!-- What something is measured from: the world, the object, a locator, another object … -->
<script lang="ts">
  import type { Json } from '../api/client';
  import { shot } from '../state/shot.svelte';
  import Choice from './Choice.svelte';

  type Props = { value: Json; label: string; onchange: (value: Json) => void };
  let { value, label, onchange }: Props = $props();

  const text = $derived.by(() => {
    if (value === null || typeof value !== 'object' || Array.isArray(value)) return String(value);
    const [kind, name] = Object.entries(value)[0] ?? ['', ''];
    return `${kind}:${String(name)}`;
  });
  const options = $derived([
    { value: 'world', text: 'the world' },
    { value: 'object', text: 'the object' },
    { value: 'rest', text: 'undeformed shape' },
    { value: 'uv', text: 'its UV map' },
    { value: 'camera', text: 'the camera' },
    ...(shot.document?.locators ?? []).map((each) => ({ value: `locator:${each.name}`, text: each.name })),
    ...(shot.document?.objects ?? []).map((each) => ({
      value: `object:${each.name}`,
      text: `object ${each.name}`,
    })),
  ]);

  function placeOf(wanted: string): Json {
    const at = wanted.indexOf(':');
    return at < 0 ? wanted : { [wanted.slice(0, at)]: wanted.slice(at + 1) };
  }
</script>

<Choice
  named={text.includes(':')}
  value={text}
  {label}
  {options}
  onchange={(wanted) => onchange(placeOf(wanted))}
/>
