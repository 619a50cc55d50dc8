<!-- One number of the document in a row of its own: dragged to try, let go to save. -->
<script lang="ts">
  import { shot } from '../state/shot.svelte';
  import MemberNumber from './MemberNumber.svelte';
  import type { Snippet } from 'svelte';

  type Props = {
    /** JSON Pointer of the number. */
    path: string;
    value: number;
    label: string;
    /** What the row says, where that is not the label. */
    text?: string;
    unit?: string;
    low?: number;
    high?: number;
    whole?: boolean;
    children?: Snippet;
  };
  let { path, value, label, text = label, unit = '', low, high, whole = false, children }: Props = $props();

  const kept = (next: number) => (whole ? Math.round(next) : next);
  const patch = (next: number) => [{ op: 'add' as const, path, value: kept(next) }];
</script>

<div class="row">
  <span>{text}</span>
  <MemberNumber
    {path}
    {value}
    {label}
    {unit}
    {low}
    {high}
    oninput={(next) => shot.preview(patch(next))}
    onchange={(next) => void shot.commit(patch(next), label)}
  />
  {@render children?.()}
</div>
