<!-- The shelf of looks: found by typing, taken as a copy or linked; and the look on the sheet put there. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import Overlay from '../bar/Overlay.svelte';
  import { root } from '../api/root';
  import { bench } from '../state/bench.svelte';
  import { shot } from '../state/shot.svelte';
  import { matchingLooks, tagsOf } from './listing';
  import { shelf } from './shelf.svelte';

  type Props = { onclose: () => void };
  let { onclose }: Props = $props();

  let text = $state('');
  let putting = $state(false);
  let name = $state(bench.look);
  let tags = $state('');
  let note = $state('');
  let sure = $state('');
  let find: HTMLInputElement | undefined = $state();
  const found = $derived(matchingLooks(shelf.looks, text));
  const there = $derived(shelf.looks.find((each) => each.name === name.trim()));

  onMount(() => {
    void shelf.load();
    find?.focus();
    const timer = window.setInterval(
      () => shelf.looks.some((each) => !each.picture) && void shelf.load(),
      4000,
    );
    return () => clearInterval(timer);
  });

  async function take(wanted: string, linked: boolean) {
    if (await shelf.take(wanted, linked)) onclose();
  }
  async function put() {
    if (!(await shelf.put(bench.look, name.trim() || bench.look, tagsOf(tags), note))) return;
    putting = false;
    find?.focus();
  }
  function closeForm(): boolean {
    const open = putting;
    putting = false;
    return open;
  }
</script>

<Overlay label="shelf of looks" onescape={closeForm} {onclose}>
  {#snippet head()}
    <b>shelf of looks</b>
    <input
      bind:this={find}
      bind:value={text}
      aria-label="find a look"
      placeholder="find: metal, wet, worn …"
    />
    <span class="quiet">{found.length} of {shelf.looks.length}, for every project here</span>
    <button class="plain act put" aria-expanded={putting} onclick={() => (putting = !putting)}
      >put “{bench.look}” here …</button
    >
  {/snippet}
  {#if putting}
    <form
      onsubmit={(event) => {
        event.preventDefault();
        void put();
      }}
    >
      <label>name <input bind:value={name} maxlength="80" required /></label>
      <label>tags <input bind:value={tags} placeholder="wood, worn" /></label>
      <label class="wide"
        >note <input bind:value={note} maxlength="2000" placeholder="what to know of it" /></label
      >
      <button class="plain act" disabled={there?.ships}
        >{there
          ? there.ships
            ? 'that name ships'
            : `put here as version ${there.version + 1}`
          : 'put here'}</button
      >
    </form>
  {/if}
  <ul>
    {#each found as each (each.name)}
      <li>
        <div class="picture">
          {#if each.picture}
            <img
              src={root + '/' + encodeURI(each.picture)}
              alt="{each.name} on the test body"
              loading="lazy"
            />
          {:else}
            <span class="quiet">its picture is being made</span>
          {/if}
        </div>
        <div class="name">
          <b>{each.name}</b>
          <span class="quiet"
            >{each.ships ? '' : `v${each.version}${each.author ? ` · ${each.author}` : ''}`}</span
          >
        </div>
        <p class="quiet" title={each.note}>{each.note}</p>
        <p class="tags">{each.tags.join(' · ')}</p>
        <div class="acts">
          <button
            class="plain act"
            aria-label="take a copy of {each.name}"
            onclick={() => take(each.name, false)}>take a copy</button
          >
          {#if !each.ships}
            <button
              class="plain act"
              title="the look says when a newer one is on the shelf"
              aria-label="linked: take {each.name}"
              onclick={() => take(each.name, true)}>linked</button
            >
            <button
              class="plain quiet"
              aria-label={sure === each.name ? `really take it off: ${each.name}` : `take off ${each.name}`}
              onclick={() => {
                if (sure === each.name) void shelf.takeOff(each.name);
                sure = sure === each.name ? '' : each.name;
              }}>{sure === each.name ? 'really take it off' : 'take off'}</button
            >
          {/if}
        </div>
      </li>
    {:else}
      <li class="none quiet">
        Nothing on the shelf has these words. {shot.document ? 'Escape goes back to the shot.' : ''}
      </li>
    {/each}
  </ul>
</Overlay>

<style>
  form {
    display: flex;
    flex-wrap: wrap;
    gap: 8px 14px;
    align-items: center;
    padding: 10px 14px;
    border-bottom: 1px solid var(--line);
  }
  form button,
  .acts button {
    min-height: 24px;
  }
  input {
    background: var(--ground);
    border: 1px solid var(--line);
    color: var(--text);
    font: inherit;
    padding: 3px 6px;
    min-width: 180px;
  }
  label {
    color: var(--quiet);
  }
  .wide {
    flex: 1;
  }
  .wide input {
    width: calc(100% - 40px);
  }
  .act {
    color: var(--amber);
  }
  .act:disabled {
    color: var(--quiet);
  }
  .quiet {
    color: var(--quiet);
  }
  .put {
    margin-left: auto;
  }
  ul {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(180px, 1fr));
    gap: 18px 14px;
    align-content: start;
    flex: 1;
    min-height: 0;
    overflow: auto;
    margin: 0;
    padding: 14px;
    list-style: none;
  }
  .picture {
    display: grid;
    place-items: center;
    aspect-ratio: 1;
    overflow: hidden;
    background: var(--ground);
  }
  img {
    width: 100%;
    height: 100%;
    object-fit: cover;
    /* the body fills the square: around it there is only floor and sky */
    transform: scale(1.4);
    transform-origin: 50% 60%;
  }
  .name {
    display: flex;
    justify-content: space-between;
    gap: 8px;
    margin-top: 6px;
  }
  p {
    margin: 2px 0;
    font-size: 12px;
    line-height: 16px;
  }
  p.quiet {
    display: -webkit-box;
    -webkit-box-orient: vertical;
    -webkit-line-clamp: 2;
    line-clamp: 2;
    overflow: hidden;
    min-height: 32px;
  }
  .tags {
    color: var(--named);
  }
  .acts {
    display: flex;
    gap: 12px;
  }
  .none {
    grid-column: 1 / -1;
  }
</style>
