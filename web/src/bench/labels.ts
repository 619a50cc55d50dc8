/** Labels under an axis: each as near to its place as the others leave room for. */
type Label = { text: string; tip: string; at: number };

/** About the width of a figure of the small monospaced text, pixels. */
const FIGURE = 7.3;
const GAP = 6;

/** Labels with their left edges in pixels. Where they do not all fit beside each other, one label tells all. */
export function spread(labels: Label[], breadth: number): { text: string; tip: string; left: number }[] {
  const sorted = labels
    .map((label) => ({ ...label, width: label.text.length * FIGURE }))
    .sort((a, b) => a.at - b.at);
  const room = sorted.reduce((sum, label) => sum + label.width + GAP, -GAP);
  const [first, last] = [sorted[0], sorted.at(-1)];
  if (!first || !last) return [];
  if (room > breadth) {
    const text = `${labels[0]?.text} … ${labels.at(-1)?.text}`;
    const middle = (first.at + last.at) / 2 - (text.length * FIGURE) / 2;
    const left = Math.max(0, Math.min(middle, breadth - text.length * FIGURE));
    return [{ text, tip: labels.map((each) => `${each.tip}: ${each.text}`).join('\n'), left }];
  }
  const lefts = sorted.map((label) =>
    Math.max(0, Math.min(label.at - label.width / 2, breadth - label.width)),
  );
  // From left to right each is pushed past the one before, then from right to left back into the room that there is.
  for (let k = 1; k < sorted.length; k++)
    lefts[k] = Math.max(lefts[k] ?? 0, (lefts[k - 1] ?? 0) + (sorted[k - 1]?.width ?? 0) + GAP);
  for (let k = sorted.length - 1; k >= 0; k--) {
    const end = k + 1 < sorted.length ? (lefts[k + 1] ?? 0) - GAP : breadth;
    lefts[k] = Math.min(lefts[k] ?? 0, end - (sorted[k]?.width ?? 0));
  }
  return sorted.map(({ text, tip }, k) => ({ text, tip, left: lefts[k] ?? 0 }));
}
