<!-- All keys and gestures on one sheet. -->
<script lang="ts">
  import { firstVisit } from '../state/firstVisit.svelte';

  type Props = { onreference: () => void };
  let { onreference }: Props = $props();

  const GROUPS = [
    [
      'anywhere',
      [
        ['O', 'projects and shots: find, open, begin, pack'],
        ['Q', 'the queue: all orders for frames, and how far they are'],
        ['E', 'the set beside the stage: objects, locators, camera, light'],
        ['K', 'the shelf of looks'],
        ['A', 'one mask, channel or step alone, and back'],
        ['S', 'while one is shown alone: the next style'],
        ['Ctrl Z, Ctrl Shift Z', 'undo and redo'],
        ['?', 'this sheet'],
        ['Escape', 'close what is open; end a reading'],
      ],
    ],
    [
      'in the picture',
      [
        ['click, Enter', 'read the point: every layer, mask and step there'],
        ['drag, arrow keys', 'orbit'],
        ['Shift with these', 'pan'],
        ['wheel, Alt with arrow keys', 'come nearer, fly'],
        ['handles of what is chosen in the set', 'drag, or arrow keys: move, turn, scale'],
        ['Ctrl while dragging them', 'by steps: 0.1 m, 15°, 0.1 ×'],
        ['M, T, L', 'handles to move, to turn, to make larger'],
        ['D', 'drop what is chosen onto what is below it'],
      ],
    ],
    [
      'numbers',
      [
        ['drag sideways', 'change it; with Shift a tenth as fast'],
        ['click, Enter', 'type it: also 35 cm, 50/2, 2*pi'],
        ['arrow keys', 'a step up or down'],
      ],
    ],
    [
      'layers and steps',
      [
        ['F2, double-click', 'rename'],
        ['Ctrl C, Ctrl V in a cell', 'copy what it changes, into any layer, look or shot'],
        ['drag by the dots, arrow keys there', 'change the order'],
        ['drag a look onto the picture', 'the object there wears it'],
      ],
    ],
    [
      'lanes of keys',
      [
        ['drag, Shift-drag over the lanes', 'choose the keys within, or add them'],
        ['arrow keys, Page keys', 'the chosen ones a frame, or ten, earlier or later'],
        ['Alt while dragging', 'off whole frames; at a slope, one side alone'],
        ['Ctrl C, Ctrl V, Ctrl A', 'copy, put in from the frame shown, all of a lane'],
      ],
    ],
    [
      'list of shots',
      [
        ['type', 'find; Enter opens the first'],
        ['arrow keys, Enter', 'go to one and open it'],
        ['F2', 'rename'],
        ['Alt ← →', 'change the order'],
      ],
    ],
  ] as const;
</script>

<div class="sheet">
  <button class="plain act" onclick={() => firstVisit.go(0)}>the first visit again, beside the advice</button>
  <button class="plain act" onclick={onreference}>every op, channel and rule, with pictures</button>
  {#each GROUPS as [name, keys] (name)}
    <section>
      <h2>{name}</h2>
      <dl>
        {#each keys as [key, what] (key)}
          <dt><kbd>{key}</kbd></dt>
          <dd>{what}</dd>
        {/each}
      </dl>
    </section>
  {/each}
</div>

<style>
  .sheet {
    display: grid;
    grid-template-columns: repeat(2, minmax(0, 1fr));
    gap: 4px 28px;
    width: 720px;
    max-width: calc(100vw - 40px);
    max-height: calc(100vh - 70px);
    overflow: auto;
    padding: 10px 16px 16px;
  }
  .act {
    color: var(--amber);
    min-height: 24px;
  }
  h2 {
    font: inherit;
    font-weight: 600;
    color: var(--quiet);
    margin: 8px 0 4px;
  }
  dl {
    display: grid;
    grid-template-columns: minmax(0, 11fr) minmax(0, 14fr);
    gap: 4px 10px;
    margin: 0;
  }
  dd {
    margin: 0;
    color: var(--quiet);
  }
  kbd {
    font: inherit;
    font-family: var(--mono);
  }
</style>
