<!-- Which grid of a file of voxel grids: those that the file has. -->
<script lang="ts">
  import { client, type Json } from '../api/client';
  import Choice from './Choice.svelte';

  type Props = { value: string; file: Json; label: string; onchange: (value: Json) => void };
  let { value, file, label, onchange }: Props = $props();

  let names = $state.raw<string[]>([]);
  const sha256 = $derived(String((file as { sha256?: string } | null)?.sha256 ?? ''));

  $effect(() => {
    const wanted = sha256;
    names = [];
    if (!wanted) return;
    void client
      .GET('/api/voxels/{sha256}/grids', { params: { path: { sha256: wanted } } })
      .then(({ data }) => {
        if (wanted === sha256) names = (data?.grids ?? []).map((each) => each.name);
      });
  });
  const offered = $derived(names.includes(value) ? names : [value, ...names]);
</script>

<Choice named {value} {label} options={offered.map((name) => ({ value: name, text: name }))} {onchange} />
