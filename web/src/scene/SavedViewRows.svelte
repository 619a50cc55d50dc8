<!-- Cameras kept by name, to come back to. -->
<script lang="ts">
  import type { Json } from '../api/client';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';

  let name = $state('');
  const views = $derived(shot.document?.views ?? []);
  const camera = $derived((shot.document?.camera ?? {}) as unknown as Json);

  function keep() {
    const wanted = name.trim() || `view ${views.length + 1}`;
    const at = views.findIndex((view) => view.name === wanted);
    const value = { name: wanted, camera };
    void shot.commit(
      [
        at < 0
          ? { op: 'add', path: '/views/-', value }
          : { op: 'replace', path: pointer('views', at), value },
      ],
      `keep view ${wanted}`,
    );
    name = '';
  }
</script>

{#each views as view, index (view.name)}
  <div class="row">
    <span>{view.name}</span>
    <button
      class="plain"
      aria-label="go to view {view.name}"
      onclick={() =>
        void shot.commit(
          [{ op: 'replace', path: '/camera', value: view.camera as unknown as Json }],
          `go to ${view.name}`,
        )}>go to</button
    >
    <button
      class="plain"
      aria-label="take view {view.name} away"
      onclick={() =>
        void shot.commit([{ op: 'remove', path: pointer('views', index) }], `take view ${view.name} away`)}
      >×</button
    >
  </div>
{/each}
<div class="row">
  <input
    placeholder="name of this view"
    aria-label="name of the view to keep"
    bind:value={name}
    onkeydown={(event) => {
      event.stopPropagation();
      if (event.key === 'Enter') keep();
    }}
  />
  <button class="plain" onclick={keep}>keep view</button>
</div>

<style>
  input {
    min-width: 0;
  }
  input {
    background: none;
    border: none;
    border-bottom: 1px dotted var(--line);
    color: inherit;
    font: inherit;
    padding: 0;
  }
  button {
    color: var(--amber);
  }
</style>
