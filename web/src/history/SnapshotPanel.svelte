<!-- Kept pictures: keep one, compare with it, go back to the document that made it. -->
<script lang="ts">
  import { Button, TextInput } from 'carbon-components-svelte';
  import { client, type Json, type Problem, type Snapshot } from '../api/client';
  import { root } from '../api/root';
  import { live } from '../state/live.svelte';
  import { notices } from '../state/notices.svelte';
  import { shot } from '../state/shot.svelte';
  import type { Compared } from '../state/compared';
  import ImageField from '../fields/ImageField.svelte';

  type Props = {
    snapshots: Snapshot[];
    compared: Compared | null;
    oncompare: (compared: Compared | null) => void;
    onkept: () => void;
  };
  let { snapshots, compared, oncompare, onkept }: Props = $props();

  let name = $state('');
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
    const { error } = await client.POST('/api/shots/{shot_id}/snapshots', {
      params: { path: { shot_id: shot.id } },
      body: { name: name.trim() || `revision ${shot.revision}`, session: live.session },
    });
    if (error) notices.say('warning', (error as Problem).title, (error as Problem).detail ?? '');
    name = '';
    onkept();
  }
</script>

<div>
  <div class="keep">
    <TextInput
      size="sm"
      hideLabel
      labelText="name of the snapshot"
      placeholder="name, such as “drier rim”"
      bind:value={name}
      on:keydown={(event) => {
        event.stopPropagation();
        if ((event as unknown as KeyboardEvent).key === 'Enter' && ready) void keep();
      }}
    />
    <Button size="small" disabled={!ready} on:click={keep}>Keep</Button>
  </div>
  {#if !ready}<p>
      {live.show.kind === 'picture' ? 'The picture is still coming in.' : 'Show the picture to keep it.'}
    </p>{/if}
  <div class="reference">
    <span>reference picture</span>
    <ImageField value={wanted} label="reference picture" onchange={refer} />
    {#if compared?.reference}<button class="plain" onclick={() => oncompare(null)}>end</button>{/if}
  </div>
  <ul>
    {#each [...snapshots].reverse() as snapshot (snapshot.id)}
      {@const mine = asCompared(snapshot)}
      <li class:compared={compared?.key === mine.key}>
        <img src={root + snapshot.picture} alt="" />
        <div>
          <b>{snapshot.name}</b>
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
    gap: 6px;
  }
  .keep :global(.bx--form-item) {
    flex: 1;
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
  p,
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
