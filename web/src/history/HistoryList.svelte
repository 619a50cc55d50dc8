<!-- All revisions of the shot, newest first: when, who, and what changed in words; each can be looked at and gone back to. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import { client, type Json, type Revision } from '../api/client';
  import { notices } from '../state/notices.svelte';
  import { shot } from '../state/shot.svelte';

  const PAGE = 100;

  let rows = $state.raw<Revision[]>([]);
  let more = $state(false);
  let text = $state('');
  /** The revision that lies open, and what it changed. */
  let opened = $state(0);
  let changes = $state.raw<string[]>([]);
  /** The revision that is looked at in place of the newest. */
  let looked = $state(0);

  const words = $derived(text.toLowerCase().split(/\s+/).filter(Boolean));
  const found = $derived(
    rows.filter((row) => {
      const said = `${row.number} ${row.label} ${row.words} ${row.author}`.toLowerCase();
      return words.every((word) => said.includes(word));
    }),
  );
  const when = (moment: string) =>
    new Date(moment).toLocaleString(undefined, {
      day: 'numeric',
      month: 'short',
      hour: '2-digit',
      minute: '2-digit',
      second: '2-digit',
    });

  async function load(before: number | null = null) {
    const id = shot.id;
    const { data } = await client.GET('/api/shots/{shot_id}/revisions', {
      params: { path: { shot_id: id }, query: { most: PAGE, ...(before === null ? {} : { before }) } },
    });
    if (!data || id !== shot.id) return;
    rows = before === null ? data.revisions : [...rows, ...data.revisions];
    more = data.revisions.length === PAGE;
  }

  // A new revision, of whoever, belongs on top.
  $effect(() => {
    if (shot.revision && !looked) void load();
  });
  onMount(() => () => looked && shot.drop());

  async function document(number: number) {
    const { data } = await client.GET('/api/shots/{shot_id}/revisions/{number}', {
      params: { path: { shot_id: shot.id, number } },
    });
    if (!data)
      notices.say('error', 'That revision is not there', 'It may have been thinned; see docs/storage.md.');
    return data ?? null;
  }

  async function open(number: number) {
    if (opened === number) {
      opened = 0;
      return;
    }
    opened = number;
    changes = [];
    const data = await document(number);
    if (data && opened === number) changes = data.changes;
  }

  /** Show a revision on the stage and in the sheet, without changing the shot. */
  async function look(number: number) {
    if (looked === number) {
      looked = 0;
      shot.drop();
      return;
    }
    const data = await document(number);
    if (!data) return;
    looked = number;
    shot.preview([{ op: 'replace', path: '', value: data.document as unknown as Json }]);
  }

  async function restore(number: number) {
    looked = 0;
    shot.drop();
    await shot.goBack(number);
  }
</script>

<div class="find">
  <input
    type="search"
    placeholder="find in {rows.length} changes"
    aria-label="find a change"
    bind:value={text}
    onkeydown={(event) => event.key !== 'Escape' && event.stopPropagation()}
  />
</div>
{#if looked}
  <p class="looking" role="status">
    You are looking at revision {looked}; nothing is changed.
    <button class="plain act" onclick={() => void look(looked)}>back to now</button>
  </p>
{/if}
<ul>
  {#each found as row (row.number)}
    <li class:looked={row.number === looked}>
      <button class="plain row" aria-expanded={opened === row.number} onclick={() => void open(row.number)}>
        <span class="when mono">{when(row.created)}</span>
        <span class="what">{row.words || row.label || 'first'}</span>
        <span class="who"
          >{[
            row.number === shot.revision ? 'now' : `revision ${row.number}`,
            row.words && row.label ? row.label : '',
            row.author && `by ${row.author}`,
            row.snapshots ? 'kept as a snapshot' : '',
          ]
            .filter(Boolean)
            .join(' · ')}</span
        >
      </button>
      {#if opened === row.number}
        {#each changes as line, index (index)}<span class="line">{line}</span>{/each}
        {#if row.number !== shot.revision}
          <span class="acts">
            <button class="plain act" onclick={() => void look(row.number)}
              >{looked === row.number ? 'back to now' : 'look at it'}</button
            >
            <button class="plain act" onclick={() => void restore(row.number)}>go back to it</button>
          </span>
        {/if}
      {/if}
    </li>
  {:else}
    <li class="who">{rows.length ? 'No change is called so.' : 'reading …'}</li>
  {/each}
  {#if more && !words.length}
    <li><button class="plain act" onclick={() => void load(rows.at(-1)?.number)}>older ones</button></li>
  {/if}
</ul>

<style>
  .find input {
    width: 100%;
    background: var(--ground);
    color: var(--text);
    border: 1px solid var(--line);
    font: inherit;
    padding: 4px 8px;
  }
  .looking {
    color: var(--amber);
    margin: 8px 0 0;
  }
  ul {
    list-style: none;
    margin: 8px 0 0;
    max-height: min(520px, calc(100vh - 160px));
    overflow: auto;
  }
  li {
    border-top: 1px solid var(--line);
    padding: 4px 0;
  }
  li.looked {
    border-left: 2px solid var(--amber);
    padding-left: 6px;
  }
  .row {
    display: block;
    width: 100%;
    text-align: left;
    min-height: 24px;
  }
  .row:hover .what {
    color: var(--amber);
  }
  .when,
  .who,
  .line {
    color: var(--quiet);
    font-size: 12px;
    display: block;
  }
  .what {
    display: block;
    overflow-wrap: anywhere;
  }
  .line {
    padding-left: 10px;
    border-left: 1px solid var(--line);
  }
  .acts {
    display: flex;
    gap: 14px;
  }
  .act {
    color: var(--amber);
    min-height: 24px;
  }
</style>
