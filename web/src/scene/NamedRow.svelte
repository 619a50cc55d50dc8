<!-- A row of the set: its name, which opens it and can be changed in place, and what stands beside it. -->
<script lang="ts">
  import type { Snippet } from 'svelte';

  type Props = {
    name: string;
    /** What it is, for those who can't see where the row stands. */
    kind: string;
    open: boolean;
    naming: boolean;
    hidden?: boolean;
    onopen: () => void;
    onnaming: (naming: boolean) => void;
    onrename: (name: string) => void;
    children?: Snippet;
  };
  let { name, kind, open, naming, hidden = false, onopen, onnaming, onrename, children }: Props = $props();

  let field: HTMLInputElement | undefined = $state();
  // Whatever had the focus: it was asked for.
  $effect(() => field?.focus());

  function done(text: string) {
    if (!naming) return;
    onnaming(false);
    if (text.trim() && text.trim() !== name) onrename(text.trim());
  }
</script>

<div class="row">
  {#if naming}
    <input
      value={name}
      aria-label="name of the {kind}"
      bind:this={field}
      onfocus={(event) => event.currentTarget.select()}
      onblur={(event) => done(event.currentTarget.value)}
      onkeydown={(event) => {
        event.stopPropagation();
        if (event.key === 'Enter') done(event.currentTarget.value);
        if (event.key === 'Escape') onnaming(false);
      }}
    />
  {:else}
    <button
      class="plain name"
      class:hidden
      class:named={kind === 'locator'}
      aria-expanded={open}
      title="open; double-click or F2 renames"
      onclick={onopen}
      ondblclick={() => onnaming(true)}
      onkeydown={(event) => {
        if (event.key === 'F2') onnaming(true);
      }}>{name}</button
    >
  {/if}
  {@render children?.()}
</div>

<style>
  input {
    flex: 1;
    min-width: 0;
    background: var(--ground);
    color: var(--text);
    border: 1px solid var(--amber);
    font: inherit;
  }
  .name:hover {
    color: var(--amber);
  }
  .named {
    color: var(--named);
  }
  .hidden {
    color: var(--faint);
  }
</style>
