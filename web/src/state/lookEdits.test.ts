import { describe, expect, it } from 'vitest';
import type { Layer, Operation, Shot } from '../api/client';
import { applied } from './addressing';
import {
  asNewLayers,
  carriable,
  duplicatedLook,
  newLook,
  newVolume,
  removedLook,
  renamedLook,
  usesOfLook,
} from './lookEdits';

const layer = (name: string, carried = ''): Layer =>
  ({
    id: '',
    name,
    on: true,
    opacity: 1,
    where: null,
    channels: {},
    look: carried ? { look: carried, bare: false, stand_ins: {} } : null,
  }) as Layer;
const document = {
  objects: [
    { name: 'basin', look: 'stone', parts: [{ name: 'rim', look: 'wet edge' }] },
    { name: 'pebbles', look: 'stone', parts: [] },
  ],
  looks: [
    { name: 'stone', layers: [layer('base'), layer('edge', 'wet edge')] },
    { name: 'wet edge', layers: [layer('dark')] },
    { name: 'only', layers: [layer('it', 'wet edge')] },
  ],
} as unknown as Shot;
const after = (patch: Operation[]) => applied(document, patch);

describe('looks', () => {
  it('says everything that uses one', () => {
    expect(usesOfLook(document, 'wet edge').map((use) => use.where)).toEqual([
      'basin · rim',
      'stone · edge',
      'only · it',
    ]);
    expect(usesOfLook(document, 'stone').map((use) => use.where)).toEqual(['basin', 'pebbles']);
  });
  it('renames one everywhere', () => {
    const made = after(renamedLook(document, 1, 'soaked'));
    expect(usesOfLook(made, 'soaked')).toHaveLength(3);
    expect(usesOfLook(made, 'wet edge')).toHaveLength(0);
    expect(after(renamedLook(document, 1, 'stone')).looks[1]?.name).toBe('stone 2');
    expect(after(renamedLook(document, 1, 'wet edge')).looks[1]?.name).toBe('wet edge');
  });
  it('takes one away: others are worn instead, layers that carried it go', () => {
    const made = after(removedLook(document, 1, 'stone'));
    expect(made.looks.map((look) => look.name)).toEqual(['stone', 'only']);
    expect(made.looks[0]?.layers.map((each) => each.name)).toEqual(['base']);
    expect(made.looks[1]?.layers[0]?.look).toBeNull();
    expect(made.objects[0]?.parts[0]?.look).toBe('stone');
  });
  it('makes new ones and copies under free names', () => {
    expect(newLook(document).name).toBe('look');
    const { name, patch } = duplicatedLook(document, 0);
    expect([name, after(patch).looks[1]?.name]).toEqual(['stone 2', 'stone 2']);
  });
  it('offers none that would lead back', () => {
    expect(carriable(document, 'wet edge')).toEqual([]);
    expect(carriable(document, 'stone')).toEqual(['wet edge', 'only']);
  });
  it('copies layers under names that are free', () => {
    const made = asNewLayers([layer('base'), layer('base')], ['base']) as { name: string; id?: string }[];
    expect(made.map((each) => each.name)).toEqual(['base 2', 'base 3']);
    expect(made.every((each) => each.id === undefined)).toBe(true);
  });
  it('knows what a volume fills, and follows it when it is renamed', () => {
    const patch = newVolume(document).patch;
    const made = applied(document, [
      ...patch,
      { op: 'add', path: '/objects/0/filled_with', value: 'volume' },
      { op: 'add', path: '/atmosphere', value: { look: 'volume' } },
    ]);
    const index = made.looks.length - 1;
    expect(made.looks[index]?.domain).toBe('volume');
    expect(usesOfLook(made, 'volume').map((use) => [use.where, use.how])).toEqual([
      ['basin', 'filled'],
      ['the atmosphere', 'filled'],
    ]);
    const renamed = applied(made, renamedLook(made, index, 'mist'));
    expect(renamed.objects[0]?.filled_with).toBe('mist');
    expect(renamed.atmosphere?.look).toBe('mist');
  });
});
