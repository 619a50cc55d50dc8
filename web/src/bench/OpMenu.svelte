<!-- Ops to choose from, found by typing, under the headings of what they are about; copied steps come first. -->
<script lang="ts">
  import { autoUpdate, computePosition, flip, offset, shift } from '@floating-ui/dom';
  import { Search } from 'carbon-components-svelte';
  import type { Json, Op } from '../api/client';
  import { root } from '../api/root';
  import { haveFiles } from '../fields/bringIn';
  import Icon from '../fields/Icon.svelte';
  import { clipboard } from '../state/clipboard.svelte';
  import { pickedOps } from '../state/pickedOps.svelte';
  import { shot } from '../state/shot.svelte';

  type Props = {
    kind: Op['kind'];
    onpick: (op: Op) => void;
    onpaste?: (steps: Json[]) => void;
    /** A shared signal by its name, where one can stand here. */
    onsignal?: (name: string) => void;
    onclose: () => void;
  };
  let { kind, onpick, onpaste, onsignal, onclose }: Props = $props();

  let wanted = $state('');
  let box: HTMLDivElement | undefined = $state();
  const word = $derived(wanted.trim().toLowerCase());
  /** Names before descriptions, and among names those that begin with what is typed. */
  const rank = (op: Op) => {
    const at = op.name.indexOf(word);
    if (at >= 0) return at === 0 ? 0 : 1;
    if (op.synonyms.some((each) => each.startsWith(word))) return 1;
    return `${op.purpose} ${op.category} ${op.synonyms.join(' ')}`.toLowerCase().includes(word) ? 2 : 3;
  };
  const found = $derived(
    shot.vocabulary.ops
      .filter((op) => op.kind === kind && rank(op) < 3)
      .sort((a, b) => rank(a) - rank(b) || (word ? 0 : a.category.localeCompare(b.category))),
  );
  type Listed = { op: Op; heading: string };
  /** Under headings while nothing is typed: favourites and those used last stand first, and in their places again. */
  const listed = $derived.by((): Listed[] => {
    if (word) return found.map((op) => ({ op, heading: '' }));
    const named = (names: string[], heading: string) =>
      names.flatMap((name) => found.filter((op) => op.name === name).map((op) => ({ op, heading })));
    return [
      ...named(pickedOps.favourites, 'favourites'),
      ...named(pickedOps.last, 'used last'),
      ...found.map((op) => ({ op, heading: op.category })),
    ];
  });
  async function pick(op: Op) {
    if (!(await haveFiles(op))) return;
    pickedOps.picked(op.name);
    onpick(op);
  }
  /** Shared signals are found by their names, as sources. */
  const signals = $derived(
    onsignal && kind === 'source'
      ? (shot.document?.signals ?? []).filter((each) => each.name.toLowerCase().includes(word))
      : [],
  );
  const copied = $derived(onpaste && !word ? clipboard.fitting(kind) : []);
  const nameOf = (step: Json) => String((step as { op?: string }).op ?? '');
  const PROMPTS = { source: 'which source?', modifier: 'which step?', warp: 'bend the lookup how?' };

  // Beside what opened it, within the window: no scrolling row cuts it off.
  $effect(() => {
    const anchor = box?.parentElement;
    if (!box || !anchor) return;
    const floating = box;
    floating.querySelector('input')?.focus();
    return autoUpdate(anchor, floating, async () => {
      const middleware = [offset(4), flip(), shift({ padding: 4 })];
      const { x, y } = await computePosition(anchor, floating, {
        strategy: 'fixed',
        placement: 'bottom-start',
        middleware,
      });
      Object.assign(floating.style, { left: `${x}px`, top: `${y}px` });
    });
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
    else if (event.key === 'Enter' && (event.target as HTMLElement).tagName !== 'BUTTON' && listed[0])
      void pick(listed[0].op);
    else if (event.key === 'Enter' && !listed[0] && signals[0]) onsignal?.(signals[0].name);
  }}
>
  <Search size="sm" placeholder={PROMPTS[kind]} bind:value={wanted} />
  <ul>
    {#if copied.length}
      <li>
        <button class="plain" onclick={() => onpaste?.(copied)}>
          <b class="paste"
            >paste {copied.length === 1 ? nameOf(copied[0] ?? null) : `${copied.length} steps`}</b
          >
          <span>what was copied: {copied.map(nameOf).join(', ')}</span>
        </button>
      </li>
    {/if}
    {#each signals as each (each.id)}
      <li>
        <button class="plain" onclick={() => onsignal?.(each.name)}>
          <b class="named">{each.name}</b><span>a shared signal of the project</span>
        </button>
      </li>
    {/each}
    {#each listed as { op, heading }, index (`${heading} ${op.name}`)}
      {@const liked = pickedOps.favourites.includes(op.name)}
      {#if heading && heading !== listed[index - 1]?.heading}<li class="heading">{heading}</li>{/if}
      <li class="choice">
        <button class="plain pictured" onclick={() => void pick(op)}>
          <img src="{root}/api/ops/{encodeURIComponent(op.name)}/picture" alt="" loading="lazy" />
          <span><b>{op.name}</b>{op.purpose}</span>
        </button>
        <button
          class="plain liking"
          class:liked
          aria-pressed={liked}
          aria-label="favourite: {op.name}"
          title={liked ? 'no favourite any more' : 'make it a favourite: it stands first'}
          onclick={() => pickedOps.toggle(op.name)}><Icon name={liked ? 'star' : 'star outline'} /></button
        >
      </li>
    {:else}
      {#if !signals.length}<li class="none">nothing of that name</li>{/if}
    {/each}
  </ul>
</div>

<style>
  .menu {
    position: fixed;
    z-index: 30;
    width: 320px;
    background: var(--raised);
    border: 1px solid var(--line);
    box-shadow: 0 8px 24px var(--shadow);
  }
  ul {
    max-height: 300px;
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
  .choice {
    display: flex;
    align-items: stretch;
  }
  .choice .pictured {
    flex: 1;
    width: auto;
    min-width: 0;
    white-space: normal;
  }
  .choice .liking {
    width: 32px;
    flex: none;
    color: var(--faint);
    text-align: center;
  }
  .choice .liked {
    color: var(--amber);
  }
  button:hover,
  button:focus-visible {
    background: var(--amber-soft);
  }
  .pictured {
    display: grid;
    grid-template-columns: 40px 1fr;
    gap: 10px;
  }
  img {
    width: 40px;
    height: 40px;
  }
  b {
    display: block;
    color: var(--text);
    font-size: 14px;
    line-height: 18px;
  }
  .named {
    color: var(--named);
  }
  .paste {
    color: var(--amber);
  }
  .heading {
    padding: 6px 10px 2px;
    color: var(--faint);
    border-top: 1px solid var(--line);
  }
  .heading:first-child {
    border: none;
  }
  span,
  .none {
    color: var(--quiet);
    font-size: 12px;
    line-height: 14px;
  }
  .none {
    padding: 8px 10px;
  }
</style>
