import { expect, test } from 'vitest';
import { columns } from './columns';

const GROUPS = ['colour', 'finish', 'glow', 'through', 'form'];
const widths = (filled: string[]) =>
  columns(GROUPS, new Set(filled))
    .match(/\d+(?=px\))/g)
    ?.map(Number) ?? [];

test('there is a column for the name, one for where, and one for each group', () => {
  expect(columns(GROUPS, new Set()).match(/minmax\([^)]*\)|\S+/g)).toHaveLength(2 + GROUPS.length);
});

test('what layers set is given the room of its longest word, and the rest that of its heading', () => {
  for (const group of GROUPS) {
    const [none, some] = [widths([]), widths([group])];
    GROUPS.forEach((each, index) => {
      if (each === group) expect(some[index]).toBeGreaterThan(none[index] ?? 0);
      else expect(some[index]).toBe(none[index]);
    });
  }
});

test('three groups find room beside each other in a sheet of 478 pixels, with gaps of 6', () => {
  for (const left of GROUPS)
    for (const right of GROUPS) {
      const filled = [...new Set(['colour', left, right])];
      const sum = 76 + 52 + widths(filled).reduce((a, b) => a + b, 0) + 6 * 6;
      expect(sum).toBeLessThanOrEqual(478);
    }
});
