<!-- A first visit in five steps: told beside the work, never over it; left at any time and found again on the sheet of keys. -->
<script lang="ts">
  import { firstVisit } from '../state/firstVisit.svelte';

  const STEPS = [
    [
      'Look',
      'The picture is rendered as you watch. Drag it to orbit, roll to come nearer, click a point to read every value there.',
    ],
    [
      'Layers',
      'The table is the look of one object: the top row covers those below. The first cell says where a layer lies. Click one.',
    ],
    [
      'Recipes',
      'Below stands how that mask is made, as a sentence and as steps. Drag a number in the sentence, or a handle on a histogram.',
    ],
    [
      'The set',
      'Press E for objects, locators, camera and lamps; what you open there gets handles in the picture. O lists projects and shots.',
    ],
    [
      'Keep',
      'Everything saves itself. History has every change in words; a snapshot keeps the picture with it. ? has all keys.',
    ],
  ] as const;
  const step = $derived(STEPS[firstVisit.step]);
</script>

{#if firstVisit.open && step}
  <section aria-label="first visit">
    <b>{step[0]}</b> <span class="quiet">{firstVisit.step + 1} of {STEPS.length}</span>
    <p>{step[1]}</p>
    <div class="acts">
      {#if firstVisit.step > 0}<button class="plain act" onclick={() => firstVisit.go(firstVisit.step - 1)}
          >back</button
        >{/if}
      {#if firstVisit.step < STEPS.length - 1}
        <button class="plain act" onclick={() => firstVisit.go(firstVisit.step + 1)}>next</button>
      {/if}
      <button class="plain quiet" onclick={() => firstVisit.leave()}>
        {firstVisit.step < STEPS.length - 1 ? 'leave' : 'done'}</button
      >
    </div>
  </section>
{/if}

<style>
  section {
    border: 1px solid var(--amber-line);
    padding: 6px 8px;
    margin-bottom: 8px;
  }
  p {
    margin: 4px 0;
  }
  .quiet {
    color: var(--quiet);
  }
  .acts {
    display: flex;
    gap: 14px;
  }
  .acts button {
    min-height: 24px;
  }
  .act {
    color: var(--amber);
  }
</style>
