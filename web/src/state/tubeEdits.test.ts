import { describe, expect, it, test } from 'vitest';
import { insertedAfter, intoOwn, ledBy, movedPoint, sampled, withTangents, type Point } from './tubeEdits';

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

test('a radius along a line is straight between its points and level beyond them', () => {
  const found = sampled(
    [
      [0.25, 1],
      [0.75, 3],
    ],
    5,
  );
  expect(found).toEqual([1, 1, 2, 3, 3]);
});

test('tangents are given to points one by one, and go when none is left', () => {
  const led = ledBy([], 3, 1, [0, 1, 0]);
  expect(led).toEqual([null, [0, 1, 0], null]);
  expect(withTangents(2, led)).toEqual([{ op: 'add', path: '/objects/2/geometry/tangents', value: led }]);
  expect(withTangents(2, ledBy(led, 3, 1, null))[0]?.value).toEqual([]);
});
