<!-- Yes or no in a row of its own. -->
<script lang="ts">
  import { shot } from '../state/shot.svelte';

  type Props = { path: string; value: boolean; text: string; label: string; yes?: string; no?: string };
  let { path, value, text, label, yes = 'yes', no = 'no' }: Props = $props();
</script>

<div class="row">
  <span>{text}</span>
  <button
    class="plain act"
    role="switch"
    aria-checked={value}
    aria-label="{label}: {value ? yes : no}"
    onclick={() =>
      void shot.commit([{ op: 'replace', path, value: !value }], `${label}: ${value ? no : yes}`)}
    >{value ? yes : no}</button
  >
</div>

<style>
  .act {
    color: var(--amber);
  }
</style>
