<!-- A shot in the list: its picture, name and title, and what can be done to it. -->
<script lang="ts">
  import type { ListedShot } from '../api/client';
  import { root } from '../api/root';
  import { pictureOf } from './pictureOf';
  import { shotList } from './shotList.svelte';

  type Props = {
    item: ListedShot;
    current: boolean;
    onopen: (shot: number | null) => void;
    ondelete: (shot: ListedShot) => void;
    ondrag: (shot: ListedShot | null) => void;
    ondrop: () => void;
  };
  let { item, current, onopen, ondelete, ondrag, ondrop }: Props = $props();

  let naming = $state<'' | 'name' | 'title'>('');
  let over = $state(false);
  let field: HTMLInputElement | undefined = $state();
  $effect(() => field?.focus());

  const picture = $derived(pictureOf(item.id, item.picture));

  function done(text: string) {
    const what = naming;
    naming = '';
    const next = text.trim();
    if (what && next !== item[what] && (next || what === 'title')) void shotList.renameShot(item, what, next);
  }
</script>

<li
  class:current
  class:over
  data-shot={item.name}
  draggable={item.binned === null && !naming}
  ondragstart={() => ondrag(item)}
  ondragend={() => ondrag(null)}
  ondragover={(event) => {
    event.preventDefault();
    over = true;
  }}
  ondragleave={() => (over = false)}
  ondrop={(event) => {
    event.preventDefault();
    over = false;
    ondrop();
  }}
>
  <button
    class="plain open"
    aria-label="open {item.name} {item.title}"
    aria-current={current}
    disabled={item.binned !== null}
    onclick={() => onopen(item.id)}
    onkeydown={(event) => {
      if (event.key === 'F2') naming = 'name';
      else if (event.altKey && event.key === 'ArrowLeft') void shotList.step(item, -1);
      else if (event.altKey && event.key === 'ArrowRight') void shotList.step(item, 1);
      else return;
      event.preventDefault();
    }}
  >
    {#if picture}<img src={picture} alt="" loading="lazy" width="160" height="90" />{:else}<span
        class="none"
        data-text="no picture yet"
      ></span>{/if}
  </button>
  {#if naming}
    <input
      value={item[naming]}
      maxlength={naming === 'name' ? 80 : 200}
      aria-label="{naming} of {item.name}"
      bind:this={field}
      onfocus={(event) => event.currentTarget.select()}
      onblur={(event) => done(event.currentTarget.value)}
      onkeydown={(event) => {
        event.stopPropagation();
        if (event.key === 'Enter') done(event.currentTarget.value);
        if (event.key === 'Escape') naming = '';
      }}
    />
  {:else}
    <div class="said"><b>{item.name}</b> <span>{item.title}</span></div>
  {/if}
  <div class="acts">
    {#if item.binned === null}
      <button class="plain" aria-label="name of {item.name}: change it" onclick={() => (naming = 'name')}
        >name</button
      >
      <button class="plain" aria-label="title of {item.name}" onclick={() => (naming = 'title')}>title</button
      >
      <button
        class="plain"
        aria-label="copy {item.name}"
        onclick={async () => onopen(await shotList.copyShot(item))}>copy</button
      >
      <a
        class="plain"
        href="{root}/api/packs/shot/{item.id}"
        download
        aria-label="pack {item.name}"
        title="with every file that it uses, as one .zip">pack</a
      >
      <button
        class="plain"
        aria-label="put {item.name} into the bin"
        onclick={() => void shotList.bin(item, true)}>bin</button
      >
    {:else}
      <button class="plain" onclick={() => void shotList.bin(item, false)}>bring back</button>
      <button class="plain" onclick={() => ondelete(item)}>delete …</button>
    {/if}
  </div>
</li>

<style>
  li {
    width: 168px;
    padding: 4px;
    border: 1px solid transparent;
    content-visibility: auto;
    contain-intrinsic-size: 168px 148px;
  }
  li.current {
    border-color: var(--amber);
  }
  li.over {
    box-shadow: -3px 0 var(--amber);
  }
  .open {
    display: block;
    width: 160px;
    height: 90px;
    background: var(--well);
    overflow: hidden;
  }
  .open:hover {
    box-shadow: 0 0 0 1.5px var(--amber);
  }
  .open:disabled {
    opacity: 0.5;
  }
  img {
    width: 100%;
    height: 100%;
    object-fit: cover;
    display: block;
  }
  .none {
    display: grid;
    place-items: center;
    height: 100%;
    color: var(--quiet);
  }
  .none::before {
    content: attr(data-text);
  }
  .said {
    padding-top: 3px;
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  b {
    font-weight: 600;
  }
  .said span {
    color: var(--quiet);
  }
  .acts {
    display: flex;
    gap: 7px;
    color: var(--quiet);
  }
  .acts a {
    color: inherit;
    text-decoration: none;
    line-height: 24px;
  }
  .acts a:hover {
    color: var(--amber);
  }
  .acts button {
    min-height: 24px;
  }
  .acts button:hover {
    color: var(--amber);
  }
  input {
    width: 100%;
    background: var(--ground);
    color: var(--text);
    border: 1px solid var(--amber);
    font: inherit;
  }
</style>
