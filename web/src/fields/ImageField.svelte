<!-- A picture: one that was brought in before, or another from a file. -->
<script lang="ts">
  import { client, type Json, type Problem } from '../api/client';
  import { notices } from '../state/notices.svelte';
  import { shot } from '../state/shot.svelte';
  import Choice from './Choice.svelte';

  type Props = { value: Json; label: string; onchange: (value: Json) => void };
  let { value, label, onchange }: Props = $props();

  let chooser: HTMLInputElement | undefined = $state();
  let sending = $state(false);
  const current = $derived((value ?? { file: '', sha256: '' }) as { file: string; sha256?: string | null });
  const known = $derived(
    shot.pictures.find((each) => each.sha256 === current.sha256)?.sha256 ?? current.file,
  );

  function pick(sha256: string) {
    if (sha256 === 'bring in') chooser?.click();
    const found = shot.pictures.find((each) => each.sha256 === sha256);
    if (found) onchange({ file: found.file, sha256: found.sha256 });
  }
  async function send(file: File | undefined) {
    if (!file) return;
    sending = true;
    const form = new FormData();
    form.set('picture', file);
    try {
      const { data, error } = await client.POST('/api/pictures', {
        body: form as never,
        bodySerializer: (body: unknown) => body as FormData,
      });
      if (data) {
        await shot.refreshPictures();
        onchange({ file: data.file, sha256: data.sha256 });
      } else {
        const problem = error as unknown as Problem | undefined;
        notices.say('error', problem?.title ?? 'The picture was refused', problem?.detail ?? '');
      }
    } catch {
      notices.say('error', 'The picture did not arrive', 'The server did not answer.');
    } finally {
      sending = false;
    }
  }
</script>

{#if sending}
  <span class="quiet">reading…</span>
{:else}
  <Choice
    named
    value={known}
    {label}
    options={[
      ...shot.pictures.map((each) => ({ value: each.sha256, text: each.name })),
      { value: 'bring in', text: 'bring one in…' },
    ]}
    onchange={pick}
  />
{/if}
<input
  bind:this={chooser}
  type="file"
  hidden
  aria-label="bring in a picture"
  accept=".png,.jpg,.jpeg,.tif,.tiff,.exr,.hdr"
  onchange={(event) => {
    void send(event.currentTarget.files?.[0]);
    event.currentTarget.value = '';
  }}
/>

<style>
  .quiet {
    color: var(--quiet);
  }
</style>
