<!-- A scene-linear colour: a swatch, and its three numbers. -->
<script lang="ts">
  import DragNumber from './DragNumber.svelte';

  type Props = {
    value: number[];
    label: string;
    oninput: (value: number[]) => void;
    onchange: (value: number[]) => void;
  };
  let { value, label, oninput, onchange }: Props = $props();

  // The transfer curve of sRGB (IEC 61966-2-1), only for the browser's own colour chooser.
  const coded = (x: number) => (x <= 0.0031308 ? 12.92 * x : 1.055 * Math.min(x, 1) ** (1 / 2.4) - 0.055);
  const linear = (x: number) => (x <= 0.04045 ? x / 12.92 : ((x + 0.055) / 1.055) ** 2.4);
  const hex = $derived(
    '#' +
      value
        .slice(0, 3)
        .map((x) =>
          Math.round(coded(Math.max(x, 0)) * 255)
            .toString(16)
            .padStart(2, '0'),
        )
        .join(''),
  );
  const read = (text: string) =>
    [1, 3, 5].map((at) => Math.round(linear(parseInt(text.slice(at, at + 2), 16) / 255) * 1e4) / 1e4);
  const one = (index: number, next: number) => value.map((x, i) => (i === index ? next : x));
</script>

<span class="colour">
  <input
    type="color"
    value={hex}
    aria-label={label}
    oninput={(event) => oninput(read(event.currentTarget.value))}
    onchange={(event) => onchange(read(event.currentTarget.value))}
  />
  {#each ['red', 'green', 'blue'] as part, index (part)}
    <DragNumber
      value={value[index] ?? 0}
      label="{label} {part}"
      low={0}
      oninput={(next) => oninput(one(index, next))}
      onchange={(next) => onchange(one(index, next))}
    />
  {/each}
</span>

<style>
  .colour {
    display: inline-flex;
    gap: 5px;
    align-items: center;
  }
  input {
    width: 18px;
    height: 18px;
    padding: 0;
    border: 1px solid var(--line);
    background: none;
    cursor: pointer;
  }
  input::-webkit-color-swatch-wrapper {
    padding: 0;
  }
  input::-webkit-color-swatch {
    border: none;
  }
</style>
