/** How wide the columns of the sheet are: those in which no layer sets anything make room for the others' words. */

/** Pixels that a group's longest word takes; of others their heading decides. */
const WORDS: Record<string, number> = {
  colour: 68,
  finish: 74,
  glow: 56,
  through: 76,
  form: 78,
  density: 68,
  scattering: 90,
  points: 66,
};

const EMPTY: Record<string, number> = { density: 52, scattering: 62 };

/** A CSS template: the layer's name, where it lies, and a column for each group. */
export function columns(groups: readonly string[], filled: ReadonlySet<string>): string {
  const wide = (group: string) => (filled.has(group) ? (WORDS[group] ?? 72) : (EMPTY[group] ?? 44));
  return ['minmax(76px, 1fr)', '52px', ...groups.map((group) => `minmax(0, ${wide(group)}px)`)].join(' ');
}
