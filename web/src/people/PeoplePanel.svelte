<!-- Who has the shot open: one's own name, and the others with what lies open there. -->
<script lang="ts">
  import { TextInput } from 'carbon-components-svelte';
  import { live } from '../state/live.svelte';
  import { author, setAuthor } from '../state/window';

  let name = $state(author());

  function keep() {
    setAuthor(name);
    live.sendHere();
  }
</script>

<section aria-label="people">
  <TextInput
    size="sm"
    labelText="your name, for others and for the history"
    maxlength={80}
    bind:value={name}
    on:change={keep}
    on:keydown={(event) => event.stopPropagation()}
  />
  {#if live.others.length}
    <ul>
      {#each live.others as other, index (index)}
        <li><b>{other.author || 'somebody'}</b> <span>{other.place || 'has this shot open'}</span></li>
      {/each}
    </ul>
    <p>Changes to different things are put together. Each window takes back its own.</p>
  {:else}
    <p>Nobody else has this shot open.</p>
  {/if}
</section>

<style>
  section {
    padding: 12px;
    width: 320px;
  }
  ul {
    list-style: none;
    margin: 12px 0 8px;
    padding: 0;
  }
  li {
    padding: 3px 0;
    overflow-wrap: anywhere;
  }
  li span,
  p {
    color: var(--quiet);
  }
  p {
    margin: 10px 0 0;
  }
</style>
