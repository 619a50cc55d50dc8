<!-- The shot itself: its name and title, how long and how large it is. -->
<script lang="ts">
  import NumberRow from '../fields/NumberRow.svelte';
  import { shot } from '../state/shot.svelte';

  const document = $derived(shot.document);
  const TEXTS = [
    ['name', 80],
    ['title', 200],
  ] as const;

  function take(what: 'name' | 'title', text: string) {
    const next = text.trim();
    if (!document || next === document[what] || (!next && what === 'name')) return;
    void shot
      .commit([{ op: 'replace', path: `/${what}`, value: next }], `${what} ${next}`)
      .then(() => shot.refreshList());
  }
</script>

{#if document}
  {#each TEXTS as [what, longest] (what)}
    <label class="row">
      <span>{what}</span>
      <input
        value={document[what]}
        maxlength={longest}
        aria-label="{what} of the shot"
        onblur={(event) => take(what, event.currentTarget.value)}
        onkeydown={(event) => {
          event.stopPropagation();
          if (event.key === 'Enter') event.currentTarget.blur();
          if (event.key === 'Escape') event.currentTarget.value = document[what];
        }}
      />
    </label>
  {/each}
  <NumberRow
    path="/frames/first"
    value={document.frames.first}
    label="first frame"
    low={-1000000}
    high={document.frames.last}
    whole
  />
  <NumberRow
    path="/frames/last"
    value={document.frames.last}
    label="last frame"
    low={document.frames.first}
    high={1000000}
    whole
  />
  <NumberRow
    path="/frames/rate"
    value={document.frames.rate}
    label="frame rate"
    text="frames a second"
    unit="fps"
    low={1}
    high={1000}
  />
  <NumberRow
    path="/resolution/0"
    value={document.resolution[0]}
    label="picture width"
    unit="px"
    low={16}
    high={8192}
    whole
  />
  <NumberRow
    path="/resolution/1"
    value={document.resolution[1]}
    label="picture height"
    unit="px"
    low={16}
    high={8192}
    whole
  />
{/if}

<style>
  input {
    width: 60%;
    background: var(--ground);
    color: var(--text);
    border: 1px solid var(--line);
    font: inherit;
    padding: 1px 6px;
    min-height: 24px;
  }
</style>
