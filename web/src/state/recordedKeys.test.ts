import { expect, it } from 'vitest';
import type { Shot, Track } from '../api/client';
import { applied } from './addressing';
import { recorded } from './recordedKeys';

const key = (frame: number, value: number) => ({ frame, value, interpolation: 'smooth' as const });
const shot = (...tracks: object[]) =>
  ({ tracks, locators: [{ id: 'l', name: 'spill', position: [0, 1, 2] }] }) as unknown as Shot;
const values = (made: Shot) => made.tracks.map((each) => [each.at, each.keys.map((one) => one.frame)]);

it('recorded axes get tracks of their own, and those that stood still none', () => {
  const patch = recorded(
    shot(),
    '/locators/0/position',
    [null, null, null],
    { keys: [[key(3, 0), key(9, 2)], [], [key(3, 2), key(6, 1), key(9, 0)]] },
    [3, 4, 9],
    [0, 1, 2],
  );
  expect(values(applied(shot(), patch))).toEqual([
    ['/locators/l/position/0', [3, 9]],
    ['/locators/l/position/2', [3, 6, 9]],
  ]);
});

it('recorded keys take the place of those in their frames; what moves by a formula stays with it', () => {
  const x = { id: 'a', at: '/locators/l/position/0', keys: [key(1, 5), key(4, 5), key(12, 7)] };
  const y = { id: 'b', at: '/locators/l/position/1', keys: [key(4, 5), key(12, 7)] };
  const z = { id: 'c', at: '/locators/l/position/2', formula: 'time', keys: [] };
  const document = shot(x, y, z);
  const patch = recorded(
    document,
    '/locators/0/position',
    [x, y, z] as unknown as Track[],
    { keys: [[key(3, 0), key(9, 2)], [], [key(3, 2), key(9, 0)]] },
    [3, 9],
    [0, 1, 2],
  );
  expect(values(applied(document, patch))).toEqual([
    ['/locators/l/position/0', [1, 3, 9, 12]],
    ['/locators/l/position/1', [3, 12]],
    ['/locators/l/position/2', []],
  ]);
  expect(applied(document, patch).tracks[1]?.keys[0]?.value).toBe(1);
});
