<!-- Asked before something is done that touches more than one's own work: what others have changed, or other shots. -->
<script lang="ts">
  import { Modal } from 'carbon-components-svelte';
  import { inShort, shot } from '../state/shot.svelte';

  const question = $derived(shot.question);
  const answer = (yes: boolean) => {
    const run = question?.run;
    shot.question = null;
    if (yes) run?.();
  };
</script>

{#if question}
  <Modal
    open
    size="sm"
    selectorPrimaryFocus=".bx--btn--secondary"
    modalHeading="{question.what}: this touches more than your own work"
    primaryButtonText="do it anyway"
    secondaryButtonText="leave it"
    on:click:button--primary={() => answer(true)}
    on:click:button--secondary={() => answer(false)}
    on:close={() => answer(false)}
  >
    {#if question.conflicts.length}
      <p>Others have changed since:</p>
      <ul>
        {#each question.conflicts as each (each.pointer)}
          <li>
            {each.where || each.pointer}: now <b>{inShort(each.theirs)}</b>, would be
            <b>{inShort(each.mine)}</b>
          </li>
        {/each}
      </ul>
    {/if}
    {#if question.touches.length}
      <p>Other shots that use it would change:</p>
      <ul>
        {#each question.touches as each, index (index)}
          <li>{each.shot} · {each.look} · {each.where}</li>
        {/each}
      </ul>
    {/if}
  </Modal>
{/if}

<style>
  ul {
    margin: 6px 0 14px 16px;
    list-style: disc;
  }
</style>
