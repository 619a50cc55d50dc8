import { describe, expect, it } from 'vitest';
import type { Operation, Shot } from '../api/client';
import { applied } from './addressing';
import { removedNumber, renamedNumber } from './numberEdits';
import { canNameNumber, choosing, useAt, withoutLost, wordsOf } from './numberUses';

const document = {
  numbers: [
    { id: 'n', name: 'warmth', value: 3, look: null },
    { id: 'm', name: 'chill', value: 2, look: null },
  ],
  number_uses: [
    { id: 'u', at: '/lights/lamp/power', number: 'warmth', times: 2, plus: 1 },
    { id: 'v', at: '/objects/ball/position/1', number: 'chill' },
    { id: 'w', at: '/camera/focal_length', number: 'warmth', times: 10, plus: 0 },
  ],
  lights: [{ id: 'lamp', name: 'lantern', power: 9 }],
  objects: [{ id: 'ball', name: 'ball', position: [0, 5, 0] }],
  camera: { focal_length: 35 },
  looks: [],
  signals: [],
} as unknown as Shot;

const after = (patch: Operation[]) => applied(document, patch);

describe('named numbers outside of recipes', () => {
  it('are found by where things stand now', () => {
    expect(useAt(document, '/objects/0/position/1')?.use.number).toBe('chill');
    expect(useAt(document, '/objects/0/position/0')).toBeNull();
  });

  it('stand where the document has numbers of things, not of itself', () => {
    expect(
      ['/lights/0/power', '/camera/focal_length', '/frames/rate', '/bounces'].map(canNameNumber),
    ).toEqual([true, true, false, false]);
  });

  it('are put at a place by its ids, and changed there', () => {
    expect(after(choosing(document, '/lights/0/power', 'chill')).number_uses[0]?.number).toBe('chill');
    expect(choosing(document, '/objects/0/position/0', 'chill')).toEqual([
      { op: 'add', path: '/number_uses/-', value: { at: '/objects/ball/position/0', number: 'chill' } },
    ]);
  });

  it('leave the value that they gave', () => {
    const made = after(choosing(document, '/lights/0/power', null));
    expect(made.lights[0]?.power).toBe(7);
    expect(made.number_uses.map((each) => each.id)).toEqual(['v', 'w']);
  });

  it('go with what they stood for', () => {
    const gone = after([
      { op: 'remove', path: '/lights/0' },
      { op: 'remove', path: '/objects/0' },
    ]);
    expect(applied(gone, withoutLost(gone)).number_uses.map((each) => each.id)).toEqual(['w']);
    expect(withoutLost(document)).toEqual([]);
  });

  it('take another name, and leave their values when the number goes', () => {
    expect(after(renamedNumber(document, 0, 'glow').patch).number_uses.map((each) => each.number)).toEqual([
      'glow',
      'chill',
      'glow',
    ]);
    const made = after(removedNumber(document, 0));
    expect(made.lights[0]?.power).toBe(7);
    expect(made.camera.focal_length).toBe(30);
    expect(made.number_uses.map((each) => each.id)).toEqual(['v']);
    expect(made.numbers.map((each) => each.name)).toEqual(['chill']);
  });

  it('are told by what they belong to', () => {
    expect(document.number_uses.map((each) => wordsOf(document, each.at))).toEqual([
      'lantern · power',
      'ball · position · y',
      'camera · focal length',
    ]);
  });
});
