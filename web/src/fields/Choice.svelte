<!-- A small native choice, quiet enough to stand in a line of text. -->
<script lang="ts">
  type Option = { value: string; text: string };
  type Props = {
    value: string;
    label: string;
    options: Option[];
    named?: boolean;
    title?: string;
    onchange: (value: string) => void;
  };
  let { value, label, options, named = false, title, onchange }: Props = $props();
  const missing = $derived(!options.some((option) => option.value === value));
</script>

<select
  class:named
  aria-label={label}
  {title}
  {value}
  onchange={(event) => onchange(event.currentTarget.value)}
  onkeydown={(event) => {
    // Letters find its entries; what is held with Ctrl is meant for the page.
    if (!event.ctrlKey && !event.metaKey) event.stopPropagation();
  }}
>
  {#if missing}<option {value}>{value || '—'}</option>{/if}
  {#each options as option (option.value)}
    <option value={option.value}>{option.text}</option>
  {/each}
</select>

<style>
  select {
    appearance: none;
    background: none;
    border: none;
    border-bottom: 1px dotted var(--amber-line);
    color: var(--amber);
    font: inherit;
    padding: 0 1px;
    cursor: pointer;
    max-width: 130px;
    text-overflow: ellipsis;
    field-sizing: content;
  }
  select.named {
    color: var(--named);
    border-bottom: 1px solid var(--named-line);
  }
  select:hover {
    background: var(--amber-soft);
  }
  select.named:hover {
    background: var(--named-faint);
  }
  option {
    background: var(--raised);
    color: var(--text);
  }
</style>
