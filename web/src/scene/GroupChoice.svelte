<!-- To which light group something belongs. -->
<script lang="ts">
  import { shot } from '../state/shot.svelte';
  import Choice from '../fields/Choice.svelte';

  type Props = { path: string; value: string | null; label: string };
  let { path, value, label }: Props = $props();
  const groups = $derived(shot.document?.light_groups ?? []);
</script>

{#if groups.length}
  <div class="row">
    <span>light group</span>
    <Choice
      value={value ?? ''}
      {label}
      options={[
        { value: '', text: 'none' },
        ...groups.map((group) => ({ value: group.name, text: group.name })),
      ]}
      onchange={(name) => void shot.commit([{ op: 'add', path, value: name || null }], label)}
    />
  </div>
{/if}
