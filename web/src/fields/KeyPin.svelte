<!-- A pin beside a number: whether it has keys, whether one stands at this frame; a click sets or takes that away. -->
<script lang="ts">
  type Props = { tracked: boolean; here: boolean; label: string; onclick: () => void };
  let { tracked, here, label, onclick }: Props = $props();
</script>

<button
  class="plain pin"
  class:tracked
  class:here
  aria-label={here ? 'take the key away' : 'set a key'}
  aria-pressed={here}
  title="{here ? 'take the key of' : 'set a key for'} {label} at this frame"
  {onclick}
>
  <svg viewBox="0 0 8 14" aria-hidden="true"><path d="M4 13V5" /><circle cx="4" cy="3.5" r="2.5" /></svg>
</button>

<style>
  .pin {
    width: 10px;
    opacity: 0;
    flex: none;
  }
  .pin.tracked,
  .pin:focus-visible,
  :global(.row:hover) > .pin,
  :global(.line:hover) > .pin,
  :global(.parameter:hover) :global(.value) > .pin {
    opacity: 1;
  }
  svg {
    width: 8px;
    height: 14px;
    fill: none;
    stroke: var(--quiet);
    stroke-width: 1.2;
  }
  .tracked svg {
    stroke: var(--amber);
  }
  .here svg {
    fill: var(--amber);
  }
</style>
