<!-- The projects: which one is looked into, new ones, and what can be done to each. -->
<script lang="ts">
  import type { ListedProject } from '../api/client';
  import { InlineLoading } from 'carbon-components-svelte';
  import { root } from '../api/root';
  import { pictureOf } from './pictureOf';
  import { shotList } from './shotList.svelte';

  type Props = { onopen: (shot: number | null) => void; ondelete: (project: ListedProject) => void };
  let { onopen, ondelete }: Props = $props();

  let making = $state(false);
  let naming = $state(0);
  let away = $state(false);
  let field: HTMLInputElement | undefined = $state();
  $effect(() => field?.focus());

  const here = $derived(shotList.projects.filter((each) => !each.put_away));
  const put = $derived(shotList.projects.filter((each) => each.put_away));
  const demo = $derived(shotList.projects.some((each) => each.demo));

  async function make(start: 'empty' | 'starter') {
    const name = field?.value.trim() || 'new project';
    making = false;
    onopen(await shotList.newProject(name, start));
  }

  function rename(project: ListedProject, text: string) {
    if (naming !== project.id) return;
    naming = 0;
    if (text.trim() && text.trim() !== project.name) void shotList.renameProject(project, text.trim());
  }
</script>

{#snippet row(project: ListedProject)}
  <li class:current={project.id === shotList.project}>
    {#if naming === project.id}
      <input
        value={project.name}
        maxlength="80"
        aria-label="name of the project"
        bind:this={field}
        onblur={(event) => rename(project, event.currentTarget.value)}
        onkeydown={(event) => {
          event.stopPropagation();
          if (event.key === 'Enter') rename(project, event.currentTarget.value);
          if (event.key === 'Escape') naming = 0;
        }}
      />
    {:else}
      <button
        class="plain choose"
        aria-current={project.id === shotList.project}
        onclick={() => void shotList.choose(project.id)}
        onkeydown={(event) => event.key === 'F2' && (naming = project.id)}
      >
        {#if project.picture}<img src={pictureOf(project.first_shot, project.picture)} alt="" />{:else}<span
            class="none"
          ></span>{/if}
        <span class="said"
          ><b>{project.name}</b><small
            >{project.shots}
            {project.shots === 1 ? 'shot' : 'shots'}{project.demo ? ' · the demo' : ''}</small
          ></span
        >
      </button>
    {/if}
    {#if project.id === shotList.project}
      <div class="acts">
        <button class="plain" onclick={() => (naming = project.id)}>rename</button>
        <button class="plain" onclick={async () => onopen(await shotList.copyProject(project))}>copy</button>
        <a
          class="plain"
          href="{root}/api/packs/project/{project.id}"
          download
          title="all shots with every file that they use, as one .zip">pack</a
        >
        <button class="plain" onclick={() => void shotList.putAway(project, !project.put_away)}
          >{project.put_away ? 'bring back' : 'put away'}</button
        >
        {#if project.put_away}<button class="plain" onclick={() => ondelete(project)}>delete …</button>{/if}
        {#if project.demo}<button
            class="plain"
            title="this one is put away under another name"
            onclick={async () => onopen(await shotList.beginDemo())}>as at first</button
          >{/if}
      </div>
    {/if}
  </li>
{/snippet}

<nav aria-label="projects">
  <h2>projects</h2>
  <ul>
    {#each here as project (project.id)}{@render row(project)}{/each}
  </ul>
  {#if making}
    <div class="making" role="group" aria-label="new project">
      <input
        placeholder="name"
        maxlength="80"
        aria-label="name of the new project"
        bind:this={field}
        onkeydown={(event) => {
          event.stopPropagation();
          if (event.key === 'Enter') void make('starter');
          if (event.key === 'Escape') making = false;
        }}
      />
      <button
        class="plain act"
        title="a ground, a neutral sky, a lamp and a test body"
        onclick={() => make('starter')}>with the starter set</button
      >
      <button class="plain act" onclick={() => make('empty')}>empty</button>
      <button class="plain" onclick={() => (making = false)}>cancel</button>
    </div>
  {:else}
    <button class="plain act" onclick={() => (making = true)}>+ new project</button>
  {/if}
  <label class="act pick" title="a .zip that was packed here or by texallon pack">
    + from a pack
    <input
      type="file"
      accept=".zip"
      aria-label="bring in a pack"
      onchange={async (event) => {
        const file = event.currentTarget.files?.[0];
        event.currentTarget.value = '';
        if (file) onopen(await shotList.unpack(file));
      }}
    />
  </label>
  {#if shotList.unpacking}<InlineLoading description={shotList.unpacking} />{/if}
  {#if !demo}
    <button class="plain act" onclick={async () => onopen(await shotList.beginDemo())}>+ the demo</button>
  {/if}
  {#if put.length}
    <button class="plain more" aria-expanded={away} onclick={() => (away = !away)}
      >put away ({put.length})</button
    >
    {#if away}<ul>
        {#each put as project (project.id)}{@render row(project)}{/each}
      </ul>{/if}
  {/if}
</nav>

<style>
  nav {
    display: flex;
    flex-direction: column;
    align-items: flex-start;
    gap: 6px;
    padding: 12px;
    border-right: 1px solid var(--line);
    overflow: auto;
  }
  h2 {
    font: inherit;
    font-weight: 600;
    color: var(--quiet);
    margin: 0;
  }
  ul {
    list-style: none;
    width: 100%;
  }
  li {
    padding: 4px 0 4px 6px;
    border-left: 2px solid transparent;
  }
  li.current {
    border-left-color: var(--amber);
  }
  .choose {
    display: flex;
    gap: 8px;
    align-items: center;
    width: 100%;
    text-align: left;
    min-height: 40px;
  }
  .choose:hover b {
    color: var(--amber);
  }
  .choose img,
  .none {
    width: 64px;
    height: 36px;
    object-fit: cover;
    background: var(--well);
    flex-shrink: 0;
  }
  .said {
    display: flex;
    flex-direction: column;
    min-width: 0;
    overflow-wrap: anywhere;
  }
  b {
    font-weight: 600;
  }
  small {
    font-size: 12px;
    color: var(--quiet);
  }
  .acts,
  .making {
    display: flex;
    flex-wrap: wrap;
    gap: 2px 10px;
    color: var(--quiet);
    padding-top: 2px;
  }
  .acts button,
  .making button,
  .act,
  .more {
    min-height: 24px;
  }
  .acts button:hover,
  .making button:hover {
    color: var(--amber);
  }
  .acts a {
    color: inherit;
    text-decoration: none;
    line-height: 24px;
  }
  .acts a:hover {
    color: var(--amber);
  }
  .pick {
    display: flex;
    align-items: center;
    cursor: pointer;
  }
  .pick input {
    position: absolute;
    width: 1px;
    height: 1px;
    opacity: 0;
  }
  .pick:focus-within {
    outline: 1px solid var(--amber);
  }
  .act {
    color: var(--amber);
  }
  .more {
    color: var(--quiet);
    margin-top: 12px;
  }
  input {
    width: 100%;
    background: var(--ground);
    color: var(--text);
    border: 1px solid var(--amber);
    font: inherit;
    padding: 3px 6px;
  }
</style>
