<!-- The project's shared signals: where each is used, and giving it another name or taking it away. -->
<script lang="ts">
  import { client, type SignalItem } from '../api/client';
  import { bench } from '../state/bench.svelte';
  import { shot } from '../state/shot.svelte';

  type Props = { onshot: (id: number) => Promise<void> };
  let { onshot }: Props = $props();

  let signals = $state.raw<SignalItem[]>([]);
  let naming = $state('');
  let leaving = $state('');
  let wide = $state('');

  $effect(() => {
    void shot.revision; // asked again whenever something was saved
    void load(shot.id);
  });
  async function load(id: number) {
    const { data } = await client.GET('/api/shots/{shot_id}/signals', { params: { path: { shot_id: id } } });
    if (data) signals = data.signals;
  }
  const placeOf = (use: SignalItem['uses'][number]) =>
    use.look ? `${use.shot} · ${use.look} · ${use.where}` : use.where;

  async function rename(name: string, to: string) {
    naming = '';
    if (!to.trim() || to === name) return;
    await shot.renameSignal(name, to.trim());
  }
  async function take(name: string) {
    leaving = '';
    const open = bench.opened?.signal === name;
    await shot.inlineSignal(name);
    if (open) bench.openLook(bench.look);
  }
  async function go(use: SignalItem['uses'][number]) {
    if (use.shot_id !== shot.id) await onshot(use.shot_id);
    bench.open(use.address, use.look || bench.look);
  }
  const uses = (count: number) => `used ${count} ${count === 1 ? 'time' : 'times'}`;
</script>

<div class="panel">
  {#each signals as signal (signal.name)}
    <div class="signal" data-signal={signal.name}>
      <div class="row">
        {#if naming === signal.name}
          <!-- svelte-ignore a11y_autofocus -->
          <input
            value={signal.name}
            aria-label="the signal's name"
            autofocus
            onblur={(event) => void rename(signal.name, event.currentTarget.value)}
            onkeydown={(event) => {
              event.stopPropagation();
              if (event.key === 'Enter') event.currentTarget.blur();
              if (event.key === 'Escape') naming = '';
            }}
          />
        {:else}
          <button class="plain named" onclick={() => bench.openSignal(signal.name)}>{signal.name}</button>
        {/if}
        <span class="acts">
          <button
            class="plain"
            aria-expanded={wide === signal.name}
            aria-label="{uses(signal.uses.length)}, uses of {signal.name}"
            onclick={() => (wide = wide === signal.name ? '' : signal.name)}
            >{uses(signal.uses.length)}</button
          >
          <button class="plain" aria-label="rename {signal.name}" onclick={() => (naming = signal.name)}
            >rename</button
          >
          <button
            class="plain"
            aria-label="take {signal.name} away"
            onclick={() => (signal.uses.length ? (leaving = signal.name) : void take(signal.name))}>×</button
          >
        </span>
      </div>
      {#if leaving === signal.name}
        <p class="ask" role="alert">
          It is used in {signal.uses.length}
          {signal.uses.length === 1 ? 'place' : 'places'}. Its steps can be written out there instead.
          <button class="plain" onclick={() => void take(signal.name)}>write out and take away</button>
          <button class="plain" onclick={() => (leaving = '')}>keep</button>
        </p>
      {/if}
      {#if wide === signal.name || leaving === signal.name}
        <ul>
          {#each signal.uses as use (use.shot_id + use.look + use.address)}
            <li><button class="plain" onclick={() => void go(use)}>{placeOf(use)}</button></li>
          {:else}
            <li class="quiet">nothing uses it yet</li>
          {/each}
        </ul>
      {/if}
    </div>
  {:else}
    <p class="quiet">
      No shared signals yet. Open a recipe and “share by name” to write it once and use it everywhere.
    </p>
  {/each}
</div>

<style>
  .panel {
    width: 380px;
    max-height: 60vh;
    overflow: auto;
    padding: 6px 12px 10px;
  }
  .signal {
    padding: 4px 0;
    border-bottom: 1px solid var(--line);
  }
  .row {
    display: flex;
    justify-content: space-between;
    gap: 10px;
  }
  .named {
    color: var(--named);
  }
  .acts {
    display: flex;
    gap: 10px;
    color: var(--quiet);
    white-space: nowrap;
  }
  .acts button:hover,
  li button:hover {
    color: var(--amber);
  }
  ul {
    margin: 2px 0;
    padding: 0 0 0 12px;
    list-style: none;
    color: var(--quiet);
  }
  .quiet {
    color: var(--quiet);
  }
  .ask {
    margin: 2px 0;
  }
  .ask button {
    color: var(--amber);
    margin-left: 8px;
  }
  input {
    background: var(--ground);
    color: var(--text);
    border: 1px solid var(--amber);
    font: inherit;
    width: 150px;
  }
</style>
