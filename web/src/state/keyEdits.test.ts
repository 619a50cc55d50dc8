import { describe, expect, it } from 'vitest';
import type { Shot } from '../api/client';
import { applied } from './addressing';
import {
  copying,
  pasting,
  pairsOf,
  pickedFrom,
  removing,
  shifting,
  sloping,
  spanOf,
  stretching,
  valuing,
  type Picked,
} from './keyEdits';

const key = (id: string, frame: number, value = frame) => ({
  id,
  frame,
  value,
  interpolation: 'smooth',
  slope_in: null,
  slope_out: null,
});
const document = {
  tracks: [
    { id: 't', at: '/lights/lamp/power', keys: [key('a', 1), key('b', 9), key('c', 12), key('d', 20)] },
    { id: 'u', at: '/lights/lamp/width', keys: [key('e', 5), key('f', 9)] },
  ],
  lights: [{ id: 'lamp', name: 'lantern', power: 9, width: 1, height: 2 }],
} as unknown as Shot;
const picked = (...ids: string[]): Picked =>
  new Map(
    document.tracks.map((track) => [
      track.id,
      new Set(track.keys.map((each) => each.id).filter((id) => ids.includes(id))),
    ]),
  );
const frames = (shot: Shot) => shot.tracks.map((each) => each.keys.map((one) => one.frame));

describe('several keys at once', () => {
  it('are shifted together, as far as those beside them let', () => {
    expect(frames(applied(document, shifting(document.tracks, picked('b', 'c', 'f'), 3)))).toEqual([
      [1, 12, 15, 20],
      [5, 12],
    ]);
    expect(frames(applied(document, shifting(document.tracks, picked('b', 'c', 'f'), 99)))[0]).toEqual([
      1, 16, 19, 20,
    ]);
    expect(frames(applied(document, shifting(document.tracks, picked('b', 'c', 'f'), -99)))).toEqual([
      [1, 6, 9, 20],
      [5, 6],
    ]);
    expect(frames(applied(document, shifting(document.tracks, picked('a', 'b', 'c', 'd'), -40)))[0]).toEqual([
      -39, -31, -28, -20,
    ]);
    expect(shifting(document.tracks, picked(), 3)).toEqual([]);
  });

  it('are stretched in time from the end that stays, but never onto each other', () => {
    const all = picked('a', 'b', 'c', 'd');
    expect(spanOf(document.tracks, all)).toEqual({ first: 1, last: 20 });
    expect(frames(applied(document, stretching(document.tracks, all, 1, 2, true)))[0]).toEqual([
      1, 17, 23, 39,
    ]);
    expect(frames(applied(document, stretching(document.tracks, all, 20, 0.5, false)))[0]).toEqual([
      10.5, 14.5, 16, 20,
    ]);
    expect(stretching(document.tracks, all, 1, 0.01, true)).toEqual([]);
    expect(stretching(document.tracks, picked('b', 'c'), 9, 4, true)).toEqual([]);
    expect(stretching(document.tracks, all, 1, -1, true)).toEqual([]);
  });

  it('are put in where they are from, and those of one number onto another', () => {
    const both = copying(document.tracks, picked('b', 'c', 'f'));
    const there = applied(document, pasting(document, both, 18, ''));
    expect(frames(there)).toEqual([
      [1, 9, 12, 18, 20, 21],
      [5, 9, 18],
    ]);
    const one = copying(document.tracks, picked('a', 'b'));
    const over = applied(document, pasting(document, one, 1, '/lights/lamp/width'));
    expect(frames(over)[1]).toEqual([1, 5, 9]);
    expect(over.tracks[1]?.keys[2]?.value).toBe(9);
    const begun = applied(document, pasting(document, one, 4, '/lights/lamp/height'));
    expect(begun.tracks[2]).toMatchObject({ at: '/lights/lamp/height' });
    expect(frames(begun)[2]).toEqual([4, 12]);
    expect(pasting(document, one, 4, '/lights/gone/height')).toEqual([]);
  });

  it('leave their number as it was at the first of them', () => {
    const left = applied(document, removing(document, picked('a', 'e', 'f')));
    expect(frames(left)).toEqual([[9, 12, 20]]);
    expect(left.lights[0]).toMatchObject({ width: 5, power: 9 });
    const none = applied(document, removing(document, picked('a', 'b', 'c', 'd', 'e', 'f')));
    expect([none.tracks, none.lights[0]]).toMatchObject([[], { power: 1, width: 5 }]);
  });

  it('take slopes on both sides, on one, or those of their neighbours', () => {
    const track = document.tracks[0]!;
    const slopes = (patch: ReturnType<typeof sloping>) => {
      const made = applied(document, patch).tracks[0]!.keys[1]!;
      return [made.slope_in, made.slope_out];
    };
    expect(slopes(sloping(track, 0, 1, 'in', 2, false))).toEqual([2, 2]);
    expect(slopes(sloping(track, 0, 1, 'out', 2, true))).toEqual([null, 2]);
    expect(slopes(sloping(track, 0, 1, 'in', null, false))).toEqual([null, null]);
    expect(sloping(track, 0, 9, 'in', 1, false)).toEqual([]);
  });

  it('take another value where they were shifted to', () => {
    const track = document.tracks[0]!;
    const moved = shifting(document.tracks, picked('b'), 2);
    const made = applied(document, valuing(moved, track, 0, 1, 7.5)).tracks[0]!.keys[1];
    expect([made?.frame, made?.value]).toEqual([11, 7.5]);
    const still = applied(document, valuing([], track, 0, 1, 7.5)).tracks[0]!.keys[1];
    expect([still?.frame, still?.value]).toEqual([9, 7.5]);
  });

  it('are told apart by their tracks', () => {
    const pairs: [string, string][] = [
      ['t', 'a'],
      ['u', 'e'],
      ['t', 'b'],
      ['t', 'a'],
    ];
    expect(pairsOf(pickedFrom(pairs))).toEqual([
      ['t', 'a'],
      ['t', 'b'],
      ['u', 'e'],
    ]);
  });
});
