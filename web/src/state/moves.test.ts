import { describe, expect, it } from 'vitest';
import type { Shot, Track } from '../api/client';
import { keyed, moving, MOVES, stilling, sweepAlong, turntable, writing } from './moves';

const track = {
  id: 't1',
  at: '/objects/o1/rotation/1',
  keys: [],
  formula: 'time',
  before: 'hold',
  after: 'hold',
};
const of = (name: string) => {
  const found = MOVES.find((each) => each.name === name);
  if (!found) throw new Error(name);
  return found;
};

describe('moves', () => {
  it('begin at what the number is, and are told per second', () => {
    const [patch] = moving(track as unknown as Track, 2, of('drift'), 12.5);
    expect(patch).toEqual({
      op: 'replace',
      path: '/tracks/2',
      value: { id: 't1', at: '/objects/o1/rotation/1', formula: '12.5 + 20 * time' },
    });
    const metres = { ...track, at: '/objects/o1/position/0' } as unknown as Track;
    expect(JSON.stringify(moving(metres, 0, of('swing'), -0.25))).toContain('(-0.25) + 0.1 * sin');
  });

  it('give way to keys, to another formula, and to nothing', () => {
    const given = track as unknown as Track;
    expect(writing(given, 0, '2 * time')[0]).toMatchObject({ value: { formula: '2 * time' } });
    expect(keyed(given, 0, 7, 1.5)[0]).toMatchObject({ value: { keys: [{ frame: 7, value: 1.5 }] } });
    expect(stilling(given, 3, 1.5)).toEqual([
      { op: 'replace', path: '/objects/o1/rotation/1', value: 1.5 },
      { op: 'remove', path: '/tracks/3' },
    ]);
  });

  it('turn a thing in one go, whether it had keys or not', () => {
    const document = { objects: [{ id: 'o1', rotation: [0, 30, 0] }], tracks: [] } as unknown as Shot;
    expect(turntable(document, '/objects/0/rotation/1', 30)).toEqual([
      { op: 'add', path: '/tracks/-', value: { at: '/objects/o1/rotation/1', formula: '30 + 36 * time' } },
    ]);
    const moved = { ...document, tracks: [track] } as unknown as Shot;
    expect(turntable(moved, '/objects/0/rotation/1', 30)[0]).toMatchObject({ path: '/tracks/0' });
  });

  it('send a locator along its line, whether its share had keys or not', () => {
    const document = { locators: [{ id: 'l1', along_share: 0 }], tracks: [] } as unknown as Shot;
    const at = '/locators/l1/along_share';
    const formula = 'smoothstep(0, 1, share)';
    expect(sweepAlong(document, '/locators/0/along_share')).toEqual([
      { op: 'add', path: '/tracks/-', value: { at, formula } },
    ]);
    const moved = { ...document, tracks: [{ ...track, at }] } as unknown as Shot;
    expect(sweepAlong(moved, '/locators/0/along_share')).toEqual([
      { op: 'replace', path: '/tracks/0', value: { id: 't1', at, formula } },
    ]);
  });
});
