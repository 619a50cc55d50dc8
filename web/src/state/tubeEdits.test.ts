import { describe, expect, it } from 'vitest';
import { insertedAfter, intoOwn, movedPoint, type Point } from './tubeEdits';

const LINE: Point[] = [
  [0, 0, 0],
  [1, 0, 0],
  [1, 2, 0],
];

describe('points of a tube', () => {
  it('come between two, or as far beyond the end again', () => {
    expect(insertedAfter(LINE, 0)[1]).toEqual([0.5, 0, 0]);
    expect(insertedAfter(LINE, 2)[3]).toEqual([1, 4, 0]);
    expect(insertedAfter(LINE, 9)).toEqual(LINE);
  });
  it('move by themselves', () => {
    expect(movedPoint(LINE, 1, [0.1, 0, -0.2])).toEqual([
      [0, 0, 0],
      [1.1, 0, -0.2],
      [1, 2, 0],
    ]);
  });
  it("are found in the tube's own space", () => {
    // Twice as large, and a metre up.
    const rows = [0.5, 0, 0, 0, 0, 0.5, 0, -0.5, 0, 0, 0.5, 0];
    expect(intoOwn(rows, [2, 3, 4])).toEqual([1, 1, 2]);
  });
});
