<!-- Ops to choose from, found by typing. -->
<script lang="ts">
  import { Search } from 'carbon-components-svelte';
  import type { Op } from '../api/client';
  import { shot } from '../state/shot.svelte';

  type Props = { kind: 'source' | 'step'; onpick: (op: Op) => void; onclose: () => void };
  let { kind, onpick, onclose }: Props = $props();

  let wanted = $state('');
  let box: HTMLDivElement | undefined = $state();
  const found = $derived(
    shot.vocabulary.ops.filter(
      (op) =>
        op.kind === kind && `${op.name} ${op.purpose}`.toLowerCase().includes(wanted.trim().toLowerCase()),
    ),
  );

  $effect(() => {
    box?.querySelector('input')?.focus();
  });
</script>

<svelte:window
  onpointerdown={(event) => {
    if (box && !box.contains(event.target as Node)) onclose();
  }}
/>

<div
  class="menu"
  bind:this={box}
  role="dialog"
  aria-label="choose an op"
  tabindex="-1"
  onkeydown={(event) => {
    event.stopPropagation();
    if (event.key === 'Escape') onclose();
    else if (event.key === 'Enter' && found[0]) onpick(found[0]);
  }}
>
  <Search size="sm" placeholder={kind === 'source' ? 'which source?' : 'which step?'} bind:value={wanted} />
  <ul>
    {#each found as op (op.name)}
      <li>
        <button class="plain" onclick={() => onpick(op)}>
          <b>{op.name}</b><span>{op.purpose}</span>
        </button>
      </li>
    {:else}
      <li class="none">nothing of that name</li>
    {/each}
  </ul>
</div>

<style>
  .menu {
    position: absolute;
    z-index: 30;
    bottom: 100%;
    left: 0;
    width: 290px;
    background: var(--raised);
    border: 1px solid var(--line);
    box-shadow: 0 8px 24px #0009;
  }
  ul {
    max-height: 230px;
    overflow: auto;
    margin: 0;
    padding: 4px 0;
    list-style: none;
  }
  button {
    display: block;
    width: 100%;
    padding: 5px 10px;
  }
  button:hover,
  button:focus-visible {
    background: var(--amber-soft);
  }
  b {
    display: block;
  }
  span,
  .none {
    color: var(--quiet);
    font-size: 11px;
    line-height: 14px;
  }
  .none {
    padding: 8px 10px;
  }
</style>
