<!-- Asked before a look is deleted: what uses it, and what is to be worn in its place. -->
<script lang="ts">
  import { Modal, Select, SelectItem } from 'carbon-components-svelte';
  import type { Place } from '../state/lookEdits';

  type Props = { name: string; uses: Place[]; others: string[]; onanswer: (instead: string | null) => void };
  let { name, uses, others, onanswer }: Props = $props();
  // svelte-ignore state_referenced_locally
  let instead = $state(others[0] ?? '');
  const worn = $derived(uses.filter((use) => use.how !== 'carried'));
  const carried = $derived(uses.filter((use) => use.how === 'carried'));
</script>

<Modal
  open
  size="sm"
  danger
  selectorPrimaryFocus=".bx--btn--secondary"
  modalHeading="Delete the look “{name}”?"
  primaryButtonText="delete"
  secondaryButtonText="keep it"
  on:click:button--primary={() => onanswer(instead)}
  on:click:button--secondary={() => onanswer(null)}
  on:close={() => onanswer(null)}
>
  {#if worn.length}
    <p>It is worn by {worn.map((use) => use.where).join(', ')}.</p>
    <Select labelText="worn in its place" size="sm" bind:selected={instead}>
      {#each others as other (other)}<SelectItem value={other} text={other} />{/each}
    </Select>
  {/if}
  {#if carried.length}
    <p>These layers carry it and go too: {carried.map((use) => use.where).join(', ')}.</p>
  {/if}
  {#if !uses.length}<p>Nothing uses it.</p>{/if}
</Modal>
