<!-- How often values of an attribute lie where: even bins, the highest as high as the picture. -->
<script lang="ts">
  type Props = { counts: number[]; label: string };
  let { counts, label }: Props = $props();
  const most = $derived(Math.max(...counts, 1));
  const bars = $derived(
    counts
      .map((count, at) => {
        const [from, to] = [(at / counts.length) * 60, ((at + 1) / counts.length) * 60];
        const top = 12 - (12 * count) / most;
        return `M${from.toFixed(1)},12V${top.toFixed(1)}H${to.toFixed(1)}V12Z`;
      })
      .join(''),
  );
</script>

<svg width="60" height="12" viewBox="0 0 60 12" role="img" aria-label={label}>
  <path d={bars} />
</svg>

<style>
  path {
    fill: var(--quiet);
  }
  svg {
    flex: none;
    border-bottom: 1px solid var(--line);
  }
</style>
