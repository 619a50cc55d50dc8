<!-- Other objects whose bodies copies have in the object's place. -->
<script lang="ts">
  import type { Shot } from '../api/client';
  import Choice from '../fields/Choice.svelte';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';

  type Props = { item: Shot['objects'][number]; index: number };
  let { item, index }: Props = $props();
  const at = (...more: (string | number)[]) => pointer('objects', index, 'bodies', ...more);
  const others = $derived(
    (shot.document?.objects ?? []).filter(
      (each) => each.name !== item.name && !item.bodies.includes(each.name) && !each.particles,
    ),
  );

  function add(name: string) {
    if (name)
      void shot.commit([{ op: 'add', path: at('-'), value: name }], `copies of ${item.name}: ${name} too`);
  }

  function drop(number: number) {
    void shot.commit(
      [{ op: 'remove', path: at(number) }],
      `copies of ${item.name}: no ${item.bodies[number]}`,
    );
  }
</script>

{#each item.bodies as body, number (body)}
  <div class="row">
    <span>{number ? '' : 'or have the body of'}</span>
    <b>{body}</b>
    <button
      class="plain"
      aria-label="no copies of {item.name} have the body of {body}"
      onclick={() => drop(number)}>×</button
    >
  </div>
{/each}
{#if others.length}
  <div class="row">
    <span>{item.bodies.length ? 'and of' : 'or have the body of'}</span>
    <Choice
      value=""
      label="another body for copies of {item.name}"
      options={[{ value: '', text: '…' }, ...others.map((each) => ({ value: each.name, text: each.name }))]}
      onchange={add}
    />
  </div>
{/if}

<style>
  b {
    font-weight: 500;
    margin-right: auto;
  }
</style>
