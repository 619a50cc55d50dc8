<!-- A locator's place in metres, to be typed or dragged. -->
<script lang="ts">
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';
  import DragNumber from './DragNumber.svelte';

  type Props = { name: string; axis?: 0 | 1 | 2 };
  let { name, axis = 1 }: Props = $props();
  const index = $derived(shot.document?.locators.findIndex((locator) => locator.name === name) ?? -1);
  const value = $derived(shot.document?.locators[index]?.position[axis] ?? 0);
  const patch = (next: number) => [
    { op: 'replace' as const, path: pointer('locators', index, 'position', axis), value: next },
  ];
</script>

<DragNumber
  {value}
  label="{name} {'xyz'[axis]}"
  unit="m"
  oninput={(next) => shot.preview(patch(next))}
  onchange={(next) => void shot.commit(patch(next), `move ${name}`)}
/>
