<!-- A file that an op reads: one that was brought in before, or another from the person's disk. -->
<script lang="ts">
  import type { Json } from '../api/client';
  import { bringIn, knownFiles, type FileKind } from './bringIn';
  import Choice from './Choice.svelte';

  type Props = { kind: FileKind; value: Json; label: string; onchange: (value: Json) => void };
  let { kind, value, label, onchange }: Props = $props();

  let sending = $state(false);
  const current = $derived((value ?? { file: '', sha256: '' }) as { file: string; sha256?: string | null });
  const files = $derived(knownFiles(kind));
  const known = $derived(files.find((each) => each.sha256 === current.sha256)?.sha256 ?? current.file);

  async function pick(sha256: string) {
    let found = files.find((each) => each.sha256 === sha256) ?? null;
    if (sha256 === 'bring in') {
      sending = true;
      found = await bringIn(kind);
      sending = false;
    }
    if (found) onchange({ file: found.file, sha256: found.sha256 });
  }
</script>

{#if sending}
  <span class="quiet">reading…</span>
{/if}
<Choice
  named
  value={known}
  {label}
  options={[
    ...files.map((each) => ({ value: each.sha256, text: each.name })),
    { value: 'bring in', text: 'bring one in…' },
  ]}
  onchange={(wanted) => void pick(wanted)}
/>

<style>
  .quiet {
    color: var(--quiet);
  }
</style>
