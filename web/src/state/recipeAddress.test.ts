import { describe, expect, test } from 'vitest';
import type { Recipe, Shot } from '../api/client';
import { findRecipe, inputOf, newId, signalOf, whereOf } from './recipeAddress';

const inner = { steps: [{ id: 'q', op: 'noise', params: {} }] };
const steps = [
  { id: 'p', op: 'height', params: {} },
  { id: 'r', op: 'add', params: { by: inner } },
];
const wet = {
  id: 'two',
  name: 'wet',
  where: { steps },
  channels: { coat: { blend: 'replace', recipe: { steps } } },
};
const stone = { id: 'one', name: 'stone', where: null, channels: {} };
const made = (layers: unknown[]) =>
  ({
    looks: [{ id: 'lk', name: 'basin', layers }],
    signals: [{ id: 'sg', name: 'waves', recipe: { steps } }],
  }) as unknown as Shot;
const find = (document: Shot, address: string) => findRecipe(document, address, (name) => name.toUpperCase());

describe('addresses of recipes', () => {
  const address = whereOf({ id: 'lk' }, wet);
  test('name the same recipe whatever stands before it and whatever it is called', () => {
    expect(find(made([stone, wet]), address)?.path).toEqual(['looks', 0, 'layers', 1, 'where']);
    const moved = find(made([{ ...wet, name: 'damp' }, stone]), address);
    expect(moved?.path).toEqual(['looks', 0, 'layers', 0, 'where']);
    expect(moved?.title).toBe('damp · where');
  });
  test('are gone with what they name', () => {
    expect(find(made([stone]), address)).toBeNull();
    expect(find(made([stone]), '')).toBeNull();
    expect(find(made([wet]), '/looks/lk/layers/two/channels/fuzz/recipe')).toBeNull();
  });
  test('lead to channels, signals and recipes within recipes', () => {
    const document = made([stone, wet]);
    expect(find(document, '/looks/lk/layers/two/channels/coat/recipe')?.title).toBe('wet · COAT');
    expect(find(document, signalOf({ id: 'sg' }))?.signal).toBe('waves');
    const deep = inputOf(address, { steps } as never, 1, 'by');
    expect(deep).toBe('/looks/lk/layers/two/where/steps/r/params/by');
    const found = find(document, deep);
    expect(found?.recipe?.steps[0]?.op).toBe('noise');
    expect(found?.within).toBe(address);
    expect(find(document, deep.replace('/r/', '/p/'))).toBeNull();
  });
  test('positions do where there is no id yet', () => {
    expect(find(made([stone, wet]), '/looks/0/layers/1/where')?.layer?.id).toBe('two');
    expect(find(made([stone, wet]), '/looks/0/layers/two7/where')).toBeNull();
  });
  test('new ids begin with a letter', () => expect(newId()).toMatch(/^[a-z][a-z0-9]{0,31}$/));
});

describe('recipes of stops', () => {
  test('are found by the way into the list, and those within them', () => {
    const inner = { steps: [{ id: 'n', op: 'noise', on: true, params: {} }] };
    const stops = [
      { at: 0, value: 0 },
      { at: 1, value: inner },
    ];
    const recipe = { steps: [{ id: 'r', op: 'ramp', on: true, params: { stops } }] };
    const shot = { looks: [], signals: [{ id: 's', name: 'a', recipe }] } as unknown as Shot;
    const address = inputOf('/signals/s/recipe', recipe as unknown as Recipe, 0, 'stops/1/value');
    expect(address).toBe('/signals/s/recipe/steps/r/params/stops/1/value');
    const found = findRecipe(shot, address, (name) => name);
    expect(found?.title).toBe('a › ramp stop 2');
    expect(found?.path).toEqual(['signals', 0, 'recipe', 'steps', 0, 'params', 'stops', 1, 'value']);
    expect(found?.within).toBe('/signals/s/recipe');
    expect(findRecipe(shot, '/signals/s/recipe/steps/r/params/stops/0/value', (name) => name)).toBe(null);
  });
});
