<!-- Ops to choose from, found by typing. -->
<script lang="ts">
  import { Search } from 'carbon-components-svelte';
  import type { Op } from '../api/client';
  import { shot } from '../state/shot.svelte';

  type Props = { kind: 'source' | 'step'; onpick: (op: Op) => void; onclose: () => void };
  let { kind, onpick, onclose }: Props = $props();

  let wanted = $state('');
  let box: HTMLDivElement | undefined = $state();
  const word = $derived(wanted.trim().toLowerCase());
  /** Names before descriptions, and among names those that begin with what is typed. */
  const rank = (op: Op) => {
    const at = op.name.indexOf(word);
    return at === 0 ? 0 : at > 0 ? 1 : op.purpose.toLowerCase().includes(word) ? 2 : 3;
  };
  const found = $derived(
    shot.vocabulary.ops.filter((op) => op.kind === kind && rank(op) < 3).sort((a, b) => rank(a) - rank(b)),
  );

  let place = $state('');

  // Fixed to the window beside what opened it, so that no scrolling row cuts it off.
  $effect(() => {
    const anchor = box?.parentElement?.getBoundingClientRect();
    if (!box || !anchor) return;
    const left = Math.max(Math.min(anchor.left, innerWidth - 300), 4);
    const above = anchor.top > innerHeight - anchor.bottom;
    place = above
      ? `left:${left}px;bottom:${innerHeight - anchor.top + 4}px`
      : `left:${left}px;top:${anchor.bottom + 4}px`;
    box.querySelector('input')?.focus();
  });
</script>

<svelte:window
  onpointerdown={(event) => {
    if (box && !box.contains(event.target as Node)) onclose();
  }}
/>

<div
  class="menu"
  style={place}
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
    position: fixed;
    z-index: 30;
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
