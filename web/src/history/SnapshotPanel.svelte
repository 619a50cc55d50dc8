<!-- Kept pictures: keep one, compare with it, go back to the document that made it. -->
<script lang="ts">
  import { Button } from 'carbon-components-svelte';
  import { client, type Json, type Problem, type Snapshot } from '../api/client';
  import { root } from '../api/root';
  import { live } from '../state/live.svelte';
  import { notices } from '../state/notices.svelte';
  import { shot } from '../state/shot.svelte';
  import type { Compared } from '../state/compared';
  import FileField from '../fields/FileField.svelte';

  type Props = {
    snapshots: Snapshot[];
    compared: Compared | null;
    oncompare: (compared: Compared | null) => void;
    onkept: () => Promise<void>;
  };
  let { snapshots, compared, oncompare, onkept }: Props = $props();

  /** Whether the picture is kept as soon as it has come in. */
  let waiting = $state(false);
  /** The snapshot that was just kept: its name can be typed at once. */
  let naming = $state(0);
  let field: HTMLInputElement | undefined = $state();
  $effect(() => field?.select());
  let wanted = $state<Json>(null);
  const shown = $derived(shot.pictures.filter((each) => /\.(png|jpe?g)$/.test(each.file)));
  const asCompared = (snapshot: Snapshot): Compared => ({
    key: `snapshot ${snapshot.id}`,
    name: snapshot.name,
    picture: root + snapshot.picture,
    reference: false,
  });
  function refer(value: Json) {
    wanted = value;
    const { sha256 } = value as { sha256: string };
    const found = shot.pictures.find((each) => each.sha256 === sha256);
    if (!found || !shown.includes(found)) {
      notices.say('info', 'Not a picture that a browser shows', 'A reference comes as PNG or JPEG.');
      return;
    }
    oncompare({
      key: `reference ${sha256}`,
      name: found.name,
      picture: `${root}/api/pictures/${sha256}/file`,
      reference: true,
    });
  }
  let told = $state<Record<number, string[]>>({});

  async function tell(snapshot: Snapshot) {
    if (told[snapshot.id]) {
      delete told[snapshot.id];
      return;
    }
    const { data } = await client.GET('/api/shots/{shot_id}/snapshots/{snapshot_id}/changes', {
      params: { path: { shot_id: shot.id, snapshot_id: snapshot.id } },
    });
    if (data) told[snapshot.id] = data.changes;
  }
  const ready = $derived(live.show.kind === 'picture' && live.head?.stage === 'full' && !shot.draft.length);

  async function keep() {
    waiting = false;
    const { data, error } = await client.POST('/api/shots/{shot_id}/snapshots', {
      params: { path: { shot_id: shot.id } },
      body: { name: `revision ${shot.revision}`, session: live.session },
    });
    if (error) notices.say('warning', (error as Problem).title, (error as Problem).detail ?? '');
    await onkept();
    naming = data?.id ?? 0;
  }
  $effect(() => {
    if (waiting && ready) void keep();
  });

  async function rename(snapshot: Snapshot, wanted: string) {
    naming = 0;
    const name = wanted.trim();
    if (!name || name === snapshot.name) return;
    const { error } = await client.PATCH('/api/shots/{shot_id}/snapshots/{snapshot_id}', {
      params: { path: { shot_id: shot.id, snapshot_id: snapshot.id } },
      body: { name },
    });
    if (error) notices.say('warning', (error as Problem).title, (error as Problem).detail ?? '');
    await onkept();
  }
</script>

<div>
  <div class="keep">
    <Button
      size="small"
      disabled={live.show.kind !== 'picture'}
      on:click={() => (ready ? void keep() : (waiting = true))}>Keep this picture</Button
    >
    {#if live.show.kind !== 'picture'}
      <span>Show the picture to keep it.</span>
    {:else if waiting}
      <span role="status">kept as soon as it has come in …</span>
      <button class="plain act" onclick={() => (waiting = false)}>don't</button>
    {/if}
  </div>
  <div class="reference">
    <span>reference picture</span>
    <FileField kind="image" value={wanted} label="reference picture" onchange={refer} />
    {#if compared?.reference}<button class="plain" onclick={() => oncompare(null)}>end</button>{/if}
  </div>
  <ul>
    {#each [...snapshots].reverse() as snapshot (snapshot.id)}
      {@const mine = asCompared(snapshot)}
      <li class:compared={compared?.key === mine.key}>
        <img src={root + snapshot.picture} alt="" />
        <div>
          {#if naming === snapshot.id}
            <input
              class="naming"
              bind:this={field}
              value={snapshot.name}
              maxlength="80"
              aria-label="name of the snapshot"
              onblur={(event) => void rename(snapshot, event.currentTarget.value)}
              onkeydown={(event) => {
                event.stopPropagation();
                if (event.key === 'Enter') event.currentTarget.blur();
                if (event.key === 'Escape') naming = 0;
              }}
            />
          {:else}
            <button
              class="plain title"
              title="call it otherwise"
              aria-label="rename the snapshot {snapshot.name}"
              onclick={() => (naming = snapshot.id)}><b>{snapshot.name}</b></button
            >
          {/if}
          <span class="mono">revision {snapshot.revision} · {snapshot.samples} samples</span>
          {#if snapshot.author}<span class="line">by {snapshot.author}</span>{/if}
          <span class="acts">
            <button class="plain" onclick={() => oncompare(compared?.key === mine.key ? null : mine)}
              >{compared?.key === mine.key ? 'end comparing' : 'compare'}</button
            >
            <button
              class="plain"
              disabled={snapshot.revision === shot.revision}
              onclick={() => void shot.restore(snapshot.id)}>restore</button
            >
            <button
              class="plain"
              aria-expanded={snapshot.id in told}
              aria-label="changes since {snapshot.name}"
              onclick={() => void tell(snapshot)}>changes</button
            >
          </span>
          {#each told[snapshot.id] ?? [] as line, index (index)}<span class="line">{line}</span>{/each}
          {#if told[snapshot.id]?.length === 0}<span class="line">nothing changed since</span>{/if}
        </div>
      </li>
    {:else}
      <li class="none">Nothing kept yet. A snapshot is the picture, and the document that made it.</li>
    {/each}
  </ul>
</div>

<style>
  .keep {
    display: flex;
    gap: 10px;
    align-items: center;
    color: var(--quiet);
  }
  .act {
    color: var(--amber);
    min-height: 24px;
  }
  .title {
    min-height: 24px;
  }
  .title:hover b {
    color: var(--amber);
  }
  .naming {
    width: 100%;
    background: var(--ground);
    color: var(--text);
    border: 1px solid var(--amber);
    font: inherit;
    min-height: 24px;
  }
  .reference {
    display: flex;
    gap: 10px;
    align-items: baseline;
    margin-top: 8px;
  }
  .reference span {
    flex: 1;
    color: var(--quiet);
  }
  .reference button {
    color: var(--amber);
  }
  .line {
    display: block;
    color: var(--quiet);
    font-size: 12px;
    line-height: 14px;
  }
  .none {
    color: var(--quiet);
    margin: 6px 0 0;
  }
  ul {
    list-style: none;
    margin: 8px 0 0;
    padding: 0;
    max-height: 380px;
    overflow: auto;
  }
  li {
    display: flex;
    gap: 10px;
    padding: 6px 0;
    border-top: 1px solid var(--line);
  }
  li.compared b {
    color: var(--amber);
  }
  img {
    width: 96px;
    height: 54px;
    object-fit: cover;
    background: var(--well);
  }
  b,
  .mono {
    display: block;
  }
  .mono {
    color: var(--quiet);
    font-size: 12px;
  }
  .acts {
    display: flex;
    gap: 14px;
    color: var(--amber);
    margin-top: 2px;
  }
</style>
