<!-- Asked before something goes for good: its name is typed once more. -->
<script lang="ts">
  import { Modal, TextInput } from 'carbon-components-svelte';

  type Props = { name: string; what: string; onanswer: (typed: string | null) => void };
  let { name, what, onanswer }: Props = $props();
  let typed = $state('');
</script>

<Modal
  open
  size="sm"
  danger
  selectorPrimaryFocus="#typed-name"
  modalHeading="Delete “{name}” for good?"
  primaryButtonText="delete for good"
  primaryButtonDisabled={typed !== name}
  secondaryButtonText="keep it"
  on:click:button--primary={() => onanswer(typed)}
  on:click:button--secondary={() => onanswer(null)}
  on:close={() => onanswer(null)}
>
  <p>
    This deletes {what}, all revisions and snapshots. It can't be taken back. Type the name to say that it is
    this one.
  </p>
  <TextInput id="typed-name" labelText="name" bind:value={typed} autocomplete="off" />
</Modal>
