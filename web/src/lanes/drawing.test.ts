import { expect, it } from 'vitest';
import type { Curve } from '../api/client';
import { MARGIN, place, runs } from './drawing';

const curve = (values: number[], speeds: number[]): Curve => ({
  id: 't',
  at: '/x',
  values,
  speeds,
  slopes: [],
  fastest: 10,
});

it('values lie between both margins, the highest on top', () => {
  expect(place(0, 0, 2)).toBeCloseTo(1 - MARGIN);
  expect(place(2, 0, 2)).toBeCloseTo(MARGIN);
  expect(place(1, 0, 2)).toBeCloseTo(0.5);
  expect(place(5, 5, 5)).toBeCloseTo(1 - MARGIN);
});

it('stretches that are too fast to watch are drawn apart, and meet the others', () => {
  const found = runs(curve([0, 1, 2, 3, 3], [1, 20, -20, 0, 0]), 0, 3);
  expect(found.map((each) => [each.fast, each.points.split(' ').length])).toEqual([
    [false, 2],
    [true, 3],
    [false, 2],
  ]);
  expect(found[0]?.points.split(' ').at(-1)).toBe(found[1]?.points.split(' ')[0]);
  expect(found[2]?.points.split(' ').at(-1)).toBe('1000.0,8.0');
});

it('what is not known yet, or is a single frame, is no line', () => {
  expect(runs(null, 0, 1)).toEqual([]);
  expect(runs(curve([1], [0]), 0, 1)).toEqual([]);
});
