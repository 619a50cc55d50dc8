<!-- Asked before something is taken away that others measure from or follow: what uses it, and what becomes of that. -->
<script lang="ts">
  import { Modal } from 'carbon-components-svelte';
  import type { Use } from '../state/setEdits';

  type Props = { name: string; uses: Use[]; onanswer: (yes: boolean) => void };
  let { name, uses, onanswer }: Props = $props();
  const places = $derived([...new Set(uses.map((use) => use.where))]);
</script>

<Modal
  open
  size="sm"
  danger
  selectorPrimaryFocus=".bx--btn--secondary"
  modalHeading="Delete {name}?"
  primaryButtonText="delete"
  secondaryButtonText="keep it"
  on:click:button--primary={() => onanswer(true)}
  on:click:button--secondary={() => onanswer(false)}
  on:close={() => onanswer(false)}
>
  <p>
    What measures from it would measure from the world's origin, and what follows it would stand by its own
    numbers:
  </p>
  <ul>
    {#each places as where (where)}<li>{where}</li>{/each}
  </ul>
</Modal>

<style>
  ul {
    margin: 6px 0 14px 16px;
    list-style: disc;
  }
</style>
