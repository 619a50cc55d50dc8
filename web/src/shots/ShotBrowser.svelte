<!-- All projects and shots, with pictures: to open, find by typing, begin, copy, put in order and put away. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import type { ListedProject, ListedShot } from '../api/client';
  import { shot } from '../state/shot.svelte';
  import DeleteDialog from './DeleteDialog.svelte';
  import ProjectColumn from './ProjectColumn.svelte';
  import ShotCard from './ShotCard.svelte';
  import { matching, nextName } from './listed';
  import { shotList, type Start } from './shotList.svelte';

  type Props = { onopen: (id: number) => void; onclose: () => void };
  let { onopen, onclose }: Props = $props();

  let text = $state('');
  let making = $state(false);
  let bin = $state(false);
  let dragged: ListedShot | null = null;
  let deleting = $state.raw<{ name: string; what: string; run: (name: string) => void } | null>(null);
  let box: HTMLDivElement | undefined = $state();
  let find: HTMLInputElement | undefined = $state();
  let name: HTMLInputElement | undefined = $state();
  const back = document.activeElement as HTMLElement | null;

  /** Milliseconds after which the list is looked at again for pictures that are still being made. */
  const PICTURES_EVERY = 4000;

  const found = $derived(matching(shotList.inProject, text));
  const waiting = $derived(shotList.inProject.some((each) => !each.picture));

  onMount(() => {
    void shotList.begin();
    find?.focus();
    return () => back?.focus?.();
  });
  $effect(() => name?.focus());
  $effect(() => {
    if (!waiting) return;
    const timer = setInterval(() => void shotList.choose(shotList.project), PICTURES_EVERY);
    return () => clearInterval(timer);
  });

  function open(id: number | null) {
    if (id === null) return;
    onopen(id);
    onclose();
  }

  async function make(start: Start) {
    const wanted = name?.value.trim() || nextName(shotList.inProject.map((each) => each.name));
    making = false;
    open(await shotList.newShot(wanted, '', start));
  }

  function drop(before: ListedShot) {
    if (dragged && dragged.id !== before.id) void shotList.move(dragged, before.id);
    dragged = null;
  }

  function askForProject(project: ListedProject) {
    const run = (typed: string) => void shotList.deleteProject(project, typed);
    deleting = { name: project.name, what: `the project, its ${project.shots + project.binned} shots`, run };
  }

  function askForShot(item: ListedShot) {
    deleting = { name: item.name, what: 'the shot', run: (typed) => void shotList.deleteShot(item, typed) };
  }

  /** Arrow keys walk over the cards; Tab stays within. */
  function key(event: KeyboardEvent) {
    if (event.key === 'Escape') {
      event.stopPropagation();
      if (making) making = false;
      else if (!deleting) onclose();
      return;
    }
    const cards = [...(box?.querySelectorAll<HTMLElement>('.shots .open:not(:disabled)') ?? [])];
    const at = cards.indexOf(document.activeElement as HTMLElement);
    if (event.key === 'ArrowDown' && document.activeElement === find) cards[0]?.focus();
    else if (event.key === 'Enter' && document.activeElement === find && found[0]) open(found[0].id);
    else if (at >= 0 && !event.altKey && event.key.startsWith('Arrow')) {
      const top = cards[0]?.offsetTop;
      const across = Math.max(cards.filter((each) => each.offsetTop === top).length, 1);
      const by = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -across, ArrowDown: across }[event.key] ?? 0;
      if (at + by < 0) find?.focus();
      else cards[Math.min(at + by, cards.length - 1)]?.focus();
    } else if (event.key === 'Tab') {
      const all = [...(box?.querySelectorAll<HTMLElement>('button:not(:disabled), input') ?? [])];
      const [first, last] = [all[0], all.at(-1)];
      if (event.shiftKey && document.activeElement === first) last?.focus();
      else if (!event.shiftKey && document.activeElement === last) first?.focus();
      else return;
    } else return;
    event.preventDefault();
  }
</script>

<div
  class="browser"
  role="dialog"
  aria-modal="true"
  aria-label="projects and shots"
  tabindex="-1"
  bind:this={box}
  onkeydown={key}
>
  <ProjectColumn onopen={open} ondelete={askForProject} />
  <section aria-label="shots">
    <header>
      <input
        class="find"
        type="search"
        placeholder="find a shot"
        aria-label="find a shot by name or title"
        bind:this={find}
        bind:value={text}
      />
      <span class="quiet">{found.length} of {shotList.inProject.length}</span>
      {#if making}
        <span class="making" role="group" aria-label="new shot">
          <input
            value={nextName(shotList.inProject.map((each) => each.name))}
            maxlength="80"
            aria-label="name of the new shot"
            bind:this={name}
            onfocus={(event) => event.currentTarget.select()}
            onkeydown={(event) => event.key === 'Enter' && void make('starter')}
          />
          <button
            class="plain act"
            title="a ground, a neutral sky, a lamp and a test body"
            onclick={() => make('starter')}>starter set</button
          >
          <button class="plain act" onclick={() => make('empty')}>empty</button>
          {#if shot.id && shotList.chosen?.name === shot.project}<button
              class="plain act"
              onclick={() => make('copy')}>copy of {shot.document?.name}</button
            >{/if}
          <button class="plain" onclick={() => (making = false)}>cancel</button>
        </span>
      {:else if shotList.chosen}
        <button class="plain act" onclick={() => (making = true)}>+ new shot</button>
      {/if}
      <span class="gap"></span>
      <button class="plain quiet" title="Escape" onclick={onclose}>close</button>
    </header>
    <ul class="shots">
      {#each found as item (item.id)}
        <ShotCard
          {item}
          current={item.id === shot.id}
          onopen={open}
          ondelete={askForShot}
          ondrag={(each) => (dragged = each)}
          ondrop={() => drop(item)}
        />
      {:else}
        <li class="quiet empty">
          {shotList.inProject.length ? 'No shot is called so.' : 'There is no shot in this project yet.'}
        </li>
      {/each}
    </ul>
    {#if shotList.binned.length}
      <button class="plain quiet bin" aria-expanded={bin} onclick={() => (bin = !bin)}
        >bin ({shotList.binned.length})</button
      >
      {#if bin}
        <ul class="shots binned">
          {#each shotList.binned as item (item.id)}
            <ShotCard
              {item}
              current={false}
              onopen={open}
              ondelete={askForShot}
              ondrag={() => {}}
              ondrop={() => {}}
            />
          {/each}
        </ul>
      {/if}
    {/if}
  </section>
</div>
{#if deleting}
  <DeleteDialog
    name={deleting.name}
    what={deleting.what}
    onanswer={(typed) => {
      if (typed !== null) deleting?.run(typed);
      deleting = null;
      // What had the focus is perhaps gone.
      find?.focus();
    }}
  />
{/if}

<style>
  .browser {
    position: fixed;
    inset: var(--head, 41px) 0 0 0;
    z-index: 45;
    display: grid;
    grid-template-columns: 250px minmax(0, 1fr);
    background: var(--panel);
  }
  section {
    display: flex;
    flex-direction: column;
    min-height: 0;
    padding: 12px 14px;
  }
  header {
    display: flex;
    gap: 12px;
    align-items: center;
    padding-bottom: 10px;
  }
  .find {
    width: 220px;
  }
  header input {
    background: var(--ground);
    color: var(--text);
    border: 1px solid var(--line);
    font: inherit;
    padding: 4px 8px;
    min-height: 28px;
  }
  header input:focus {
    border-color: var(--amber);
    outline: none;
  }
  header button,
  .bin {
    min-height: 24px;
  }
  .making {
    display: flex;
    gap: 10px;
    align-items: center;
  }
  .act {
    color: var(--amber);
  }
  .quiet {
    color: var(--quiet);
  }
  .gap {
    flex: 1;
  }
  .shots {
    display: flex;
    flex-wrap: wrap;
    align-content: flex-start;
    gap: 8px;
    overflow: auto;
    flex: 1;
    list-style: none;
    padding: 2px;
  }
  .binned {
    max-height: 40%;
    flex: 0 0 auto;
  }
  .bin {
    align-self: flex-start;
    margin-top: 8px;
  }
</style>
