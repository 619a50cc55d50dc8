import { describe, expect, test } from 'vitest';
import type { Shot } from '../api/client';
import { applied } from './addressing';
import {
  added,
  addedLocator,
  besideTarget,
  duplicated,
  freeName,
  MEASURES,
  removed,
  renamed,
  SHAPES,
  usesOf,
} from './setEdits';

const object = (id: string, name: string, follows: string | null = null) => ({
  follows,
  id,
  name,
  geometry: { shape: 'box' },
  look: 'stone',
  position: [1, 2, 3],
  bodies: [],
});
const step = (params: object) => ({ id: 's', op: 'height', params });
const document = {
  camera: { position: [0, 2, 4], target: [0.5, 1, 0] },
  objects: [object('a', 'ball'), object('b', 'ball 2'), object('c', 'floor', 'ball')],
  locators: [{ id: 'o', name: 'ball', position: [0, 1, 0] }],
  signals: [{ id: 'x', name: 'near', recipe: { steps: [step({ origin: { object: 'ball' } })] } }],
  looks: [
    {
      id: 'l',
      name: 'stone',
      layers: [
        { id: 'm', name: 'base', where: null, channels: {} },
        {
          id: 'n',
          name: 'wet',
          where: { steps: [step({ origin: { object: 'ball' } }), step({ origin: { locator: 'ball' } })] },
          channels: {
            wetness: {
              recipe: {
                steps: [step({ signal: { signal: 'near', stand_ins: { ball: { object: 'ball' } } } })],
              },
            },
          },
        },
      ],
    },
  ],
} as unknown as Shot;
const text = (value: unknown) => JSON.stringify(value);

test.each([
  [
    [0, 1, 4],
    [0, 0, 0],
    [1, 0, 0],
  ],
  [
    [4, 1, 0],
    [0, 0, 0],
    [0, 0, -1],
  ],
  [
    [3, 9, -3],
    [0, 2, 0],
    [-0.71, 0, -0.71],
  ],
  [
    [1, 9, 2],
    [1, 0, 2],
    [1, 0, 2],
  ],
])('to the right of what a camera at %j sees at %j is %j', (position, target, place) => {
  expect(besideTarget({ position, target } as never).map((each) => each + 0)).toEqual(place);
});

describe('names', () => {
  test.each([
    ['box', [], 'box'],
    ['box', ['box'], 'box 2'],
    ['box', ['box', 'box 2', 'box 3'], 'box 4'],
    ['box 2', ['box 2', 'box'], 'box 3'],
    ['x'.repeat(99), [], 'x'.repeat(80)],
    ['x'.repeat(80), ['x'.repeat(80)], 'x'.repeat(72) + ' 2'],
  ])('%s beside %j is %s', (wanted, taken, name) => {
    expect(freeName(wanted, taken)).toBe(name);
  });
});

test('an object is used where recipes measure from it, not where a locator has its name', () => {
  expect(usesOf(document, 'object', 'ball').map((use) => [use.where, use.how])).toEqual([
    ['stone · wet', 'measured'],
    ['stone · wet', 'stands in'],
    ['signal near', 'measured'],
  ]);
  expect(usesOf(document, 'object', 'floor')).toEqual([]);
});

test('whatever measures from an object follows its new name', () => {
  const made = applied(document, renamed(document, 'object', 0, 'globe')) as Shot;
  expect(made.objects.map((each) => each.name)).toEqual(['globe', 'ball 2', 'floor']);
  expect(usesOf(made, 'object', 'globe')).toEqual(usesOf(document, 'object', 'ball'));
  expect(text(made)).toContain(text({ locator: 'ball' }));
  expect(text(made)).not.toContain(text({ object: 'ball' }));
});

test('a locator is followed by objects too', () => {
  expect(usesOf(document, 'locator', 'ball').map((use) => use.where)).toEqual([
    'stone · wet',
    'floor follows it',
  ]);
  const made = applied(document, renamed(document, 'locator', 0, 'middle')) as Shot;
  expect(usesOf(made, 'locator', 'middle')).toHaveLength(2);
  expect(made.objects[2]?.follows).toBe('middle');
  expect(usesOf(made, 'object', 'ball')).toEqual(usesOf(document, 'object', 'ball'));
  const gone = applied(document, removed(document, 'locator', 0)) as Shot;
  expect(gone.locators).toEqual([]);
  expect(gone.objects[2]?.follows).toBeNull();
  expect(usesOf(gone, 'locator', 'ball')).toEqual([]);
  expect(addedLocator(document).name).toBe('locator');
});

test('a copy has another name, no id, and stands beside the first', () => {
  const { name, patch } = duplicated(document, 'object', 0);
  expect(name).toBe('ball 3');
  const made = applied(document, patch) as Shot;
  expect(made.objects.map((each) => each.name)).toEqual(['ball', 'ball 3', 'ball 2', 'floor']);
  expect(made.objects[1]).toEqual({
    follows: null,
    name: 'ball 3',
    geometry: { shape: 'box' },
    look: 'stone',
    position: [1.5, 2, 3],
    bodies: [],
  });
  expect(document.objects).toHaveLength(3);
});

test('what measured from an object that is taken away measures from the world', () => {
  const made = applied(document, removed(document, 'object', 0)) as Shot;
  expect(made.objects.map((each) => each.name)).toEqual(['ball 2', 'floor']);
  expect(usesOf(made, 'object', 'ball').map((use) => use.where)).toEqual(['signal near']);
  expect(text(made.looks)).toContain(text({ origin: 'world' }));
  expect(text(made.looks)).toContain('"stand_ins":{}');
});

test.each(SHAPES)('a %s is added under a name of its own, with measures to set', (shape) => {
  const { name, patch } = added(document, shape, 'stone');
  expect(name).toBe(shape);
  expect((applied(document, patch) as Shot).objects.at(-1)).toEqual({
    name,
    geometry: { shape },
    look: 'stone',
    position: expect.any(Array),
  });
  expect(MEASURES[shape].length).toBeGreaterThan(1);
});

describe('copies along another object', () => {
  const laid = {
    ...document,
    objects: [...document.objects, { ...object('d', 'moss'), array: { along: 'surface', object: 'floor' } }],
  } as unknown as Shot;
  test('go on along it under its new name', () => {
    expect(renamed(laid, 'object', 2, 'ground')).toContainEqual({
      op: 'replace',
      path: '/objects/3/array/object',
      value: 'ground',
    });
  });
  test('become one where it is taken away, and that is said before', () => {
    expect(usesOf(laid, 'object', 'floor').map((use) => use.where)).toEqual([
      'copies of moss stand along it',
    ]);
    expect(removed(laid, 'object', 2)).toEqual([
      { op: 'replace', path: '/objects/3/array', value: null },
      { op: 'remove', path: '/objects/2' },
    ]);
  });
});

describe('bodies that copies have', () => {
  const several = {
    ...document,
    objects: [...document.objects, { ...object('d', 'moss'), bodies: ['ball', 'floor'] }],
  } as unknown as Shot;
  test('go by their new names', () => {
    expect(renamed(several, 'object', 2, 'ground')).toContainEqual({
      op: 'replace',
      path: '/objects/3/bodies/1',
      value: 'ground',
    });
  });
  test('are left out where they are taken away', () => {
    expect(removed(several, 'object', 2)).toEqual([
      { op: 'remove', path: '/objects/3/bodies/1' },
      { op: 'remove', path: '/objects/2' },
    ]);
  });
});
