import { describe, expect, it } from 'vitest';
import type { Shot } from '../api/client';
import { applied } from './addressing';
import { canHaveKeys, takeKeyAway, setKeyAt, trackAt } from './tracks';

const key = (id: string, frame: number, value: number) => ({
  id,
  frame,
  value,
  interpolation: 'linear',
  slope_in: null,
  slope_out: null,
});
const document = {
  tracks: [
    {
      id: 't',
      at: '/lights/lamp/power',
      keys: [key('a', 1, 2), key('b', 9, 6)],
      before: 'hold',
      after: 'loop',
    },
  ],
  lights: [{ id: 'lamp', name: 'lantern', power: 9 }],
  objects: [{ id: 'ball', name: 'ball', position: [0, 5, 0] }],
  numbers: [],
  number_uses: [],
  looks: [],
  signals: [],
} as unknown as Shot;

const frames = (shot: Shot) => shot.tracks.map((each) => each.keys.map((one) => [one.frame, one.value]));

describe('keys of numbers', () => {
  it('are found by where the number stands now', () => {
    expect(trackAt(document, '/lights/0/power')?.track.id).toBe('t');
    expect(trackAt(document, '/objects/0/position/1')).toBeNull();
    expect(['/lights/0/power', '/frames/last'].map(canHaveKeys)).toEqual([true, false]);
  });

  it('begin a track with the first one', () => {
    const made = applied(document, setKeyAt(document, '/objects/0/position/1', 4, 0.5));
    expect(made.tracks[1]).toMatchObject({
      at: '/objects/ball/position/1',
      keys: [{ frame: 4, value: 0.5 }],
    });
  });

  it.each([
    [
      0,
      [
        [0, 7],
        [1, 2],
        [9, 6],
      ],
    ],
    [
      5,
      [
        [1, 2],
        [5, 7],
        [9, 6],
      ],
    ],
    [
      9,
      [
        [1, 2],
        [9, 7],
      ],
    ],
    [
      20,
      [
        [1, 2],
        [9, 6],
        [20, 7],
      ],
    ],
  ])('are put in order at frame %i', (frame, wanted) => {
    expect(frames(applied(document, setKeyAt(document, '/lights/0/power', frame, 7)))[0]).toEqual(wanted);
  });

  it('go one by one, and with the last the number stays as it was there', () => {
    const one = applied(document, takeKeyAway(document, '/lights/0/power', 0, 0));
    expect(frames(one)).toEqual([[[9, 6]]]);
    const none = applied(one, takeKeyAway(one, '/lights/0/power', 0, 0));
    expect(none.tracks).toEqual([]);
    expect(none.lights[0]?.power).toBe(6);
  });
});
