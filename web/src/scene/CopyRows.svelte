<!-- What signals do to the copies of an object, one after the other. -->
<script lang="ts">
  import type { Json, Shot } from '../api/client';
  import Choice from '../fields/Choice.svelte';
  import DragNumber from '../fields/DragNumber.svelte';
  import NameInput from '../fields/NameInput.svelte';
  import NumberRow from '../fields/NumberRow.svelte';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';

  type Props = { item: Shot['objects'][number]; index: number };
  let { item, index }: Props = $props();

  type Does = Shot['objects'][number]['copies'][number]['does'];
  const DOES: { value: Does; text: string }[] = [
    { value: 'move', text: 'moves them' },
    { value: 'resize', text: 'resizes them' },
    { value: 'turn', text: 'turns them' },
    { value: 'tilt', text: 'tilts them' },
    { value: 'keep', text: 'keeps some' },
    { value: 'choose', text: 'chooses the body' },
    { value: 'carry', text: 'is carried' },
  ];
  const signals = $derived(shot.document?.signals ?? []);
  const at = (...more: (string | number)[]) => pointer('objects', index, 'copies', ...more);
  const set = (path: string, value: Json) =>
    void shot.commit([{ op: 'replace', path, value }], `what signals do to copies of ${item.name}`);
  const by = (number: number, axis: number, value: number) => [
    { op: 'replace' as const, path: at(number, 'by', axis), value },
  ];

  function add() {
    const [signal] = signals;
    if (signal)
      void shot.commit(
        [{ op: 'add', path: at('-'), value: { signal: signal.name } }],
        `copies of ${item.name} are moved by ${signal.name}`,
      );
  }
</script>

{#each item.copies as change, number (number)}
  <div class="row change">
    <Choice
      value={change.signal}
      label="signal of change {number + 1} of copies of {item.name}"
      options={signals.map((each) => ({ value: each.name, text: each.name }))}
      onchange={(value) => set(at(number, 'signal'), value)}
    />
    <Choice
      value={change.does}
      label="what change {number + 1} does to copies of {item.name}"
      options={DOES}
      onchange={(value) => set(at(number, 'does'), value)}
    />
    <button
      class="plain act"
      aria-label="take change {number + 1} of copies of {item.name} away"
      onclick={() =>
        void shot.commit([{ op: 'remove', path: at(number) }], `copies of ${item.name} are left as they are`)}
      >×</button
    >
  </div>
  {#if change.does === 'move'}
    <div class="row change">
      <span>at 1 by</span>
      {#each change.by as value, axis (axis)}
        <DragNumber
          {value}
          label="how far change {number + 1} moves copies of {item.name} along {'xyz'[axis]}"
          unit="m"
          oninput={(next) => shot.preview(by(number, axis, next))}
          onchange={(next) =>
            void shot.commit(by(number, axis, next), `how far copies of ${item.name} are moved`)}
        />
      {/each}
    </div>
  {:else if change.does === 'resize' || change.does === 'turn' || change.does === 'tilt'}
    <div class="inner">
      <NumberRow
        path={at(number, 'amount')}
        value={change.amount}
        label="how far change {number + 1} {change.does}s copies of {item.name}"
        text="at 1 {change.does === 'resize' ? 'to' : 'by'}"
        unit={change.does === 'resize' ? '×' : '°'}
        low={change.does === 'resize' ? 0 : -360}
        high={change.does === 'resize' ? 10 : 360}
      />
    </div>
  {:else if change.does === 'carry'}
    <div class="row change">
      <span>as the attribute</span>
      <NameInput
        value={change.name}
        label="attribute that change {number + 1} gives copies of {item.name}"
        onchange={(name) => set(at(number, 'name'), name)}
      />
    </div>
  {/if}
{/each}
{#if signals.length}
  <button class="plain act" onclick={add}>let a signal change the copies</button>
{:else}
  <p class="told">A shared signal can move, resize, turn or colour each copy: share one first.</p>
{/if}

<style>
  .act {
    color: var(--amber);
  }
  .change,
  .inner {
    padding-left: 12px;
  }
  .told {
    color: var(--quiet);
  }
</style>
