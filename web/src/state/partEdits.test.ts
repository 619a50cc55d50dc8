import { expect, test } from 'vitest';
import type { Shot } from '../api/client';
import { applied } from './addressing';
import { dressed, wornBy } from './partEdits';

const shot = {
  objects: [{ name: 'jar', look: 'clay', parts: [{ name: 'lid', look: 'brass' }] }],
} as unknown as Shot;
const first = (made: Shot) => made.objects[0] as Shot['objects'][number];

test('a part wears a look of its own, another, or again what the whole does', () => {
  const item = first(shot);
  expect(wornBy(item, 'lid')).toBe('brass');
  expect(wornBy(item, 'foot')).toBe('');
  expect(wornBy(first(applied(shot, dressed(item, 0, 'foot', 'iron'))), 'foot')).toBe('iron');
  expect(wornBy(first(applied(shot, dressed(item, 0, 'lid', 'iron'))), 'lid')).toBe('iron');
  expect(first(applied(shot, dressed(item, 0, 'lid', ''))).parts).toEqual([]);
  expect(dressed(item, 0, 'foot', '')).toEqual([]);
});
