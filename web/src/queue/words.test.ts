import { describe, expect, it } from 'vitest';
import type { Render } from '../api/client';
import { duration, expected, ranges, standing } from './words';

const frame = { state: 'done' };
const render = (more: object) =>
  ({
    state: 'going',
    over: false,
    left: null,
    counts: { done: 1, failed: 0, stopped: 0, running: 1, waiting: 1 },
    frames: [frame, frame, frame],
    ...more,
  }) as unknown as Render;

describe('durations', () => {
  it.each([
    [0, '0 s'],
    [-3, '0 s'],
    [59.2, '59 s'],
    [61, '1 min'],
    [3599, '1 h'],
    [7500, '2 h 5 min'],
  ])('%d s is %s', (seconds, words) => expect(duration(seconds)).toBe(words));
});

describe('ranges', () => {
  it('joins what follows each other, in any order', () => {
    expect(ranges([3, 1, 2, 9])).toBe('1-3,9');
    expect(ranges([])).toBe('');
    expect(ranges([-2, -1])).toBe('-2--1');
  });
});

describe('where an order stands', () => {
  it('tells how much is done and what is left', () => {
    expect(standing(render({ left: 90 }))).toBe('1 of 3 done, about 2 min left');
    expect(standing(render({ counts: { done: 1, running: 0, failed: 1 } }))).toBe(
      '1 of 3 done, 1 failed, waiting',
    );
    expect(standing(render({ state: 'paused' }))).toBe('paused at 1 of 3');
    expect(standing(render({ over: true, counts: { done: 3 } }))).toBe('all 3 done');
    expect(standing(render({ over: true, counts: { done: 1, stopped: 2 } }))).toBe('1 of 3 done, stopped');
    expect(standing(render({ over: true, frames: [frame], counts: { done: 1 } }))).toBe('done');
  });
});

describe('what an order would take', () => {
  const estimate = { frame: [10, 12, 14], frames: 48, total: 576, workers: 1, memory: 512.4, disk: 1234 };
  it('tells the range, the whole and what is needed', () => {
    expect(expected(estimate)).toBe(
      '10 s to 14 s a frame, 10 min for 48 by 1 worker; 512 MB of memory, 1,234 MB on disk',
    );
    expect(expected({ ...estimate, frame: [9, 9, 9], frames: 1, disk: 0.2 })).toBe(
      'about 9 s; 512 MB of memory, less than 1 MB on disk',
    );
  });
});
