<!-- The named numbers of the look on the sheet, and of the whole shot: its knobs. -->
<script lang="ts">
  import type { Json, Operation } from '../api/client';
  import Choice from '../fields/Choice.svelte';
  import DragNumber from '../fields/DragNumber.svelte';
  import { typed } from '../fields/typed';
  import { bench } from '../state/bench.svelte';
  import { formulasWith, removedNumber, renamedNumber, usesOfNumber } from '../state/numberEdits';
  import { wordsOf } from '../state/numberUses';
  import { pointer } from '../state/pointer';
  import { shot } from '../state/shot.svelte';

  let opened = $state('');
  const numbers = $derived(
    (shot.document?.numbers ?? [])
      .map((number, index) => ({ number, index }))
      .filter(({ number }) => number.look === null || number.look === bench.look),
  );
  const set = (index: number, member: string, value: Json): Operation[] => [
    { op: 'replace', path: pointer('numbers', index, member), value },
  ];

  /** An end of the range that a number is dragged in, as it was typed; what is no number leaves it as it was. */
  function limit(index: number, end: 'low' | 'high', field: HTMLInputElement) {
    const number = shot.document?.numbers[index];
    if (!number) return;
    const text = field.value.trim();
    const read = text ? typed(text, number.unit) : null;
    const value = read && 'value' in read ? read.value : null;
    if (read && 'wrong' in read) field.value = String(number[end] ?? '');
    else if (value !== number[end]) void shot.commit(set(index, end, value), `range of ${number.name}`);
  }

  function belong(index: number, to: string) {
    const number = shot.document?.numbers[index];
    if (!number) return;
    void shot.commit(
      [...set(index, 'look', to === 'look' ? bench.look : null), ...set(index, 'project', to === 'project')],
      `${number.name}: of the ${to === 'look' ? `look ${bench.look}` : `whole ${to}`}`,
    );
  }

  function placesOf(name: string): string[] {
    const document = shot.document;
    if (!document) return [];
    const within = [...usesOfNumber(document, name), ...formulasWith(document, name)].map((use) => {
      const owner = use.path[0] === 'looks' ? document.looks : document.signals;
      return owner[Number(use.path[1])]?.name ?? '';
    });
    const outside = document.number_uses.filter((use) => use.number === name);
    return [...within, ...outside.map((use) => wordsOf(document, use.at))];
  }

  function rename(index: number, text: string) {
    const name = text.trim();
    if (!shot.document || !name || name === shot.document.numbers[index]?.name) return;
    const made = renamedNumber(shot.document, index, name);
    opened = made.name;
    void shot.commit(made.patch, `rename the number to ${made.name}`);
  }
</script>

{#if numbers.length}
  <div class="knobs" role="group" aria-label="named numbers">
    {#each numbers as { number, index } (number.id)}
      <span class="knob" title={number.note || 'a named number: several parameters can use it'}>
        <button
          class="plain name"
          aria-expanded={opened === number.name}
          onclick={() => (opened = opened === number.name ? '' : number.name)}>{number.name}</button
        >
        <DragNumber
          value={number.value}
          label={number.name}
          unit={number.unit}
          low={number.low}
          high={number.high}
          oninput={(value) => shot.preview(set(index, 'value', value))}
          onchange={(value) => void shot.commit(set(index, 'value', value), number.name)}
        />
      </span>
      {#if opened === number.name}
        {@const places = placesOf(number.name)}
        <span class="more">
          <label
            >name <input
              value={number.name}
              maxlength="80"
              onblur={(event) => rename(index, event.currentTarget.value)}
              onkeydown={(event) => {
                event.stopPropagation();
                if (event.key === 'Enter') event.currentTarget.blur();
              }}
            /></label
          >
          <label
            >unit <input
              class="short"
              value={number.unit}
              maxlength="16"
              onblur={(event) =>
                event.currentTarget.value !== number.unit &&
                void shot.commit(set(index, 'unit', event.currentTarget.value), `unit of ${number.name}`)}
              onkeydown={(event) => event.stopPropagation()}
            /></label
          >
          {#each [['low', 'from'], ['high', 'to']] as const as [end, word] (end)}
            <label title="how far it is dragged; empty where there is no end"
              >{word}
              <input
                class="short"
                aria-label="{number.name} is dragged {word}"
                value={number[end] ?? ''}
                onblur={(event) => limit(index, end, event.currentTarget)}
                onkeydown={(event) => {
                  event.stopPropagation();
                  if (event.key === 'Enter') event.currentTarget.blur();
                }}
              /></label
            >
          {/each}
          <label
            >note <input
              value={number.note}
              maxlength="400"
              onblur={(event) =>
                event.currentTarget.value !== number.note &&
                void shot.commit(set(index, 'note', event.currentTarget.value), `note of ${number.name}`)}
              onkeydown={(event) => event.stopPropagation()}
            /></label
          >
          <Choice
            value={number.project ? 'project' : number.look === null ? 'shot' : 'look'}
            label="what {number.name} belongs to"
            title="a number of the shot also stands for lamps, placements and lenses; one of the project is the same in all its shots"
            options={[
              { value: 'look', text: 'of this look' },
              { value: 'shot', text: 'of the whole shot' },
              { value: 'project', text: 'of the whole project' },
            ]}
            onchange={(to) => belong(index, to)}
          />
          <span title={places.join('\n')}
            >{places.length
              ? `used in ${places.length} ${places.length === 1 ? 'place' : 'places'}`
              : 'not used yet'}</span
          >
          <button
            class="plain act"
            title="what uses it keeps its value"
            onclick={() =>
              shot.document &&
              void shot.commit(removedNumber(shot.document, index), `delete the number ${number.name}`)}
            >delete</button
          >
        </span>
      {/if}
    {/each}
  </div>
{/if}

<style>
  .knobs {
    display: flex;
    flex-wrap: wrap;
    gap: 2px 14px;
    align-items: baseline;
    padding-bottom: 4px;
  }
  .knob {
    display: inline-flex;
    gap: 6px;
    align-items: baseline;
    position: relative;
  }
  .name {
    color: var(--named);
    border-bottom: 1px solid var(--named-line);
  }
  .more {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 10px;
    width: 100%;
    padding: 2px 0 4px 10px;
    border-left: 1px solid var(--line);
    color: var(--quiet);
  }
  .more input {
    width: 110px;
    background: var(--ground);
    color: var(--text);
    border: 1px solid var(--line);
    font: inherit;
    min-height: 24px;
  }
  .more .short {
    width: 44px;
  }
  .act {
    color: var(--quiet);
    min-height: 24px;
  }
  .act:hover {
    color: var(--amber);
  }
</style>
