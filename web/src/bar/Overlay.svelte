<!-- What covers everything below the bar until it is closed: focus stays within, Escape closes, and the focus goes back to where it was. -->
<script lang="ts">
  import { onMount, type Snippet } from 'svelte';

  type Props = {
    label: string;
    /** What stands in its head, before the button that closes it. */
    head: Snippet;
    children: Snippet;
    /** Told before Escape closes it: whether something within was closed instead. */
    onescape?: () => boolean;
    onclose: () => void;
  };
  let { label, head, children, onescape, onclose }: Props = $props();

  let box: HTMLDivElement | undefined = $state();
  const back = document.activeElement as HTMLElement | null;

  onMount(() => {
    if (!box?.contains(document.activeElement)) box?.focus();
    return () => back?.focus?.();
  });

  function key(event: KeyboardEvent) {
    event.stopPropagation();
    if (event.key === 'Escape') {
      if (!onescape?.()) onclose();
    } else if (event.key === 'Tab') {
      const all = [
        ...(box?.querySelectorAll<HTMLElement>(
          'button:not(:disabled), input, textarea, select, a[href], summary',
        ) ?? []),
      ];
      const [first, last] = [all[0], all.at(-1)];
      if (event.shiftKey && document.activeElement === first) last?.focus();
      else if (!event.shiftKey && document.activeElement === last) first?.focus();
      else return;
      event.preventDefault();
    }
  }

  /** What had the focus may be gone, such as a row that was removed: keys then reach only the page, and are brought back here. */
  function lost(event: KeyboardEvent) {
    if (document.activeElement !== document.body) return;
    box?.focus();
    key(event);
  }
</script>

<svelte:window onkeydowncapture={lost} />

<div
  class="overlay"
  role="dialog"
  aria-modal="true"
  aria-label={label}
  tabindex="-1"
  bind:this={box}
  onkeydown={key}
>
  <header>
    {@render head()}
    <button class="plain close" onclick={onclose}>close</button>
  </header>
  {@render children()}
</div>

<style>
  .overlay {
    position: fixed;
    inset: var(--head, 41px) 0 0 0;
    z-index: 45;
    display: flex;
    flex-direction: column;
    background: var(--panel);
    outline: none;
  }
  header {
    display: flex;
    flex-wrap: wrap;
    gap: 8px 14px;
    align-items: center;
    padding: 10px 14px;
    border-bottom: 1px solid var(--line);
  }
  header :global(button),
  header :global(a) {
    min-height: 24px;
    line-height: 24px;
  }
  .close {
    color: var(--quiet);
    margin-left: auto;
  }
</style>
