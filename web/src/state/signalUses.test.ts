import { expect, test } from 'vitest';
import type { Shot } from '../api/client';
import { usesOfSignal } from './signalUses';

const steps = (params: unknown, op = 'noise') => ({ steps: [{ op, params }] });
const shot = {
  objects: [],
  signals: [
    { name: 'a', recipe: steps({}) },
    { name: 'b', recipe: steps({ by: { signal: 'a' } }, 'add') },
    { name: 'alone', recipe: steps({}) },
  ],
  looks: [
    {
      name: 'wet',
      layers: [
        {
          name: 'film',
          where: steps({ size: { signal: 'a' } }),
          channels: {
            base_color: { recipe: steps({ stops: [{ at: 0, value: { signal: 'b' } }] }, 'ramp') },
            bump: { recipe: steps({ expression: 'signal("a") * 2' }, 'formula') },
            wetness: { recipe: steps({ value: 1 }, 'constant') },
          },
        },
      ],
    },
  ],
} as unknown as Shot;

test('a signal is found in parameters, stops, formulas and by way of others', () => {
  expect(usesOfSignal(shot, 'a')).toEqual([
    'wet: film · where',
    'wet: film · base color',
    'wet: film · bump',
  ]);
  expect(usesOfSignal(shot, 'b')).toEqual(['wet: film · base color']);
  expect(usesOfSignal(shot, 'alone')).toEqual([]);
});
