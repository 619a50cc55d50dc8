<!-- A name that is typed: taken over when it is left or Enter is pressed, if it is another and not empty. -->
<script lang="ts">
  type Props = { value: string; label: string; onchange: (name: string) => void };
  let { value, label, onchange }: Props = $props();
</script>

<input
  class="name"
  {value}
  maxlength="80"
  aria-label={label}
  onkeydown={(event) => {
    event.stopPropagation();
    if (event.key === 'Enter') event.currentTarget.blur();
  }}
  onblur={(event) => {
    const name = event.currentTarget.value.trim();
    if (name && name !== value) onchange(name);
  }}
/>

<style>
  .name {
    width: 9em;
    padding: 2px 4px;
    border: 1px solid var(--line);
    background: none;
    color: inherit;
    font: inherit;
  }
</style>
