<!-- Three frames side by side. Those that are not kept are looked at one after the other; then the frame that was shown is shown again. -->
<script lang="ts">
  import DragNumber from '../fields/DragNumber.svelte';
  import { live } from '../state/live.svelte';
  import { shot } from '../state/shot.svelte';

  /** While the shot plays nothing is looked at besides. */
  const { playing }: { playing: boolean } = $props();

  /** Milliseconds: between two looks at what has come, and for which a frame is worked on at most before the next. */
  const EVERY = 150;
  const LONG = 2500;
  /** Samples that show what a frame is like. */
  const ENOUGH = 4;

  const frames = $derived(shot.document?.frames ?? { first: 1, last: 1, rate: 24 });
  let offsets = $state<[number, number, number]>([0, 0.5, 1]);
  const chosen = $derived(
    offsets.map((each) => Math.round(frames.first + each * (frames.last - frames.first))),
  );
  let canvases = $state<(HTMLCanvasElement | null)[]>([null, null, null]);

  /** Where to return to, the frame that is being looked at, and since when its picture is there. */
  let home: number | null = null;
  let looking: number | null = null;
  let since = 0;

  $effect(() => {
    const wanted = chosen;
    if (playing) return void ([home, looking] = [null, null]);
    const timer = setInterval(() => {
      const now = live.frame ?? frames.first;
      // Whoever scrubs meanwhile has the frame.
      if (looking !== null && now !== looking) [home, looking] = [null, null];
      if (looking !== null) {
        const seen = live.owed ? undefined : live.cached.get(looking);
        if (!seen) {
          since = Date.now();
          return;
        }
        if (seen.head.samples < ENOUGH && Date.now() - since < LONG) return;
        looking = null;
      }
      const missing = wanted.find((each) => !live.cached.get(each));
      if (missing !== undefined) {
        home ??= now;
        looking = missing;
        since = Date.now();
        if (missing !== now) live.setFrame(missing);
      } else if (home !== null) {
        if (home !== now) live.setFrame(home);
        home = null;
      }
    }, EVERY);
    return () => clearInterval(timer);
  });

  $effect(() => {
    const kept = live.cached.frames;
    chosen.forEach((frame, index) => {
      const canvas = canvases[index];
      if (!canvas) return;
      const found = kept.includes(frame) ? live.cached.get(frame) : undefined;
      if (!found) return void canvas.getContext('2d')?.clearRect(0, 0, canvas.width, canvas.height);
      [canvas.width, canvas.height] = [found.picture.width, found.picture.height];
      canvas.getContext('2d')?.drawImage(found.picture, 0, 0);
    });
  });

  function choose(index: number, frame: number) {
    const span = Math.max(frames.last - frames.first, 1);
    offsets[index] = (Math.min(Math.max(frame, frames.first), frames.last) - frames.first) / span;
  }
</script>

<section class="beside" aria-label="frames side by side">
  {#each chosen as frame, index (index)}
    <figure>
      <canvas bind:this={canvases[index]} data-frame={frame} aria-label="picture of frame {frame}"></canvas>
      <figcaption>
        <span class="quiet">frame</span>
        <DragNumber
          value={frame}
          label="frame of picture {index + 1}"
          low={frames.first}
          high={frames.last}
          whole
          onchange={(value) => choose(index, value)}
        />
        <button class="plain" onclick={() => live.setFrame(frame)}>go there</button>
      </figcaption>
    </figure>
  {/each}
</section>

<style>
  .beside {
    position: absolute;
    left: 0;
    right: 0;
    bottom: 100%;
    display: grid;
    grid-template-columns: repeat(3, minmax(0, 1fr));
    gap: 8px;
    padding: 8px 14px;
    background: var(--panel);
    border-top: 1px solid var(--line);
    z-index: 6;
  }
  figure {
    margin: 0;
  }
  canvas {
    display: block;
    width: 100%;
    background: var(--well);
  }
  figcaption {
    display: flex;
    gap: 8px;
    align-items: center;
    min-height: 26px;
  }
  .quiet {
    color: var(--quiet);
  }
  button {
    margin-left: auto;
    color: var(--amber);
  }
</style>
