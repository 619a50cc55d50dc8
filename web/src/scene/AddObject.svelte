<!-- Bodies to add to the set. -->
<script lang="ts">
  import { SHAPES, type ShapeName } from '../state/setEdits';

  type Props = { onadd: (shape: ShapeName) => void };
  let { onadd }: Props = $props();
  let open = $state(false);
</script>

<button class="plain act" aria-expanded={open} onclick={() => (open = !open)}>+ body</button>
{#if open}
  <div class="shapes" role="group" aria-label="bodies to add">
    {#each SHAPES as shape (shape)}
      <button
        class="plain shape"
        onclick={() => {
          open = false;
          onadd(shape);
        }}>{shape}</button
      >
    {/each}
  </div>
{/if}

<style>
  .act {
    color: var(--amber);
  }
  .shapes {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 12px;
    padding: 2px 0 6px 12px;
    border-left: 1px solid var(--line);
  }
  .shape:hover {
    color: var(--amber);
  }
</style>
