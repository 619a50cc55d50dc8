<!-- The shot's objects: shown or hidden, what they wear, and how they meet other clear bodies. -->
<script lang="ts">
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';
  import Choice from '../fields/Choice.svelte';
  import GroupChoice from './GroupChoice.svelte';
  import NumberRow from '../fields/NumberRow.svelte';

  let opened = $state('');
  const objects = $derived(shot.document?.objects ?? []);
  const looks = $derived(shot.document?.looks ?? []);
</script>

{#each objects as item, index (item.name)}
  <div class="row">
    <button
      class="plain name"
      class:hidden={!item.visible}
      aria-expanded={opened === item.name}
      onclick={() => (opened = opened === item.name ? '' : item.name)}>{item.name}</button
    >
    <span class="quiet">{item.look}</span>
    <button
      class="plain act"
      role="switch"
      aria-checked={item.visible}
      aria-label="show {item.name}"
      onclick={() =>
        void shot.commit(
          [{ op: 'replace', path: pointer('objects', index, 'visible'), value: !item.visible }],
          `${item.visible ? 'hide' : 'show'} ${item.name}`,
        )}>{item.visible ? 'shown' : 'hidden'}</button
    >
  </div>
  {#if opened === item.name}
    <div class="more">
      <div class="row">
        <span>wears</span>
        <Choice
          value={item.look}
          label="look of {item.name}"
          options={looks.map((look) => ({ value: look.name, text: look.name }))}
          onchange={(value) =>
            void shot.commit(
              [{ op: 'replace', path: pointer('objects', index, 'look'), value }],
              `${item.name} wears ${value}`,
            )}
        />
      </div>
      <NumberRow
        path={pointer('objects', index, 'priority')}
        value={item.priority}
        label="priority of {item.name}"
        text="priority among clear bodies"
        low={-100}
        high={100}
        whole
      />
      <GroupChoice
        path={pointer('objects', index, 'group')}
        value={item.group}
        label="light group of {item.name}"
      />
    </div>
  {/if}
{/each}

<style>
  .more {
    padding-left: 12px;
    border-left: 1px solid var(--line);
    color: var(--quiet);
  }
  .act,
  .name:hover {
    color: var(--amber);
  }
  .hidden {
    color: var(--faint);
  }
  .quiet {
    color: var(--quiet);
  }
</style>
