import { describe, expect, test } from 'vitest';
import type { Gizmo } from '../api/live';
import { draggedPart, partsOf, placeOf, reachOf } from './lampEdits';

const EVEN = [1, 0, 0, 0, 1, 0, 0, 0, 1] as Gizmo['turn'];
const spot: Gizmo = {
  thing: '/lights/a',
  at: [0.5, 0.5],
  position: [0, 3, 0],
  world: { x: [0.1, 0], y: [0, -0.2], z: [0, 0.1] },
  own: { x: [0.1, 0], y: [0, -0.2], z: [0, 0] },
  turn: EVEN,
  parent: EVEN,
  target: null,
  tube: null,
};
const SIZE = [1000, 500] as const;
const lamp = { shape: 'rectangle', width: 1, height: 0.5, cone: 90 };

describe('the handles of a lamp', () => {
  test('are those that its shape has', () => {
    expect(partsOf('rectangle')).toEqual(['width', 'height']);
    expect(partsOf('spot')).toEqual(['cone']);
    expect(partsOf('sun')).toEqual([]);
  });
  test('stand on its edge, and where its cone ends', () => {
    expect(placeOf(spot, 'width', reachOf('width', lamp, [], []), SIZE)).toEqual([550, 250]);
    expect(placeOf(spot, 'height', reachOf('height', lamp, [], []), SIZE)).toEqual([500, 225]);
    // Half of 90° over three metres.
    expect(reachOf('cone', lamp, [0, 3, 0], [0, 0, 0])).toBeCloseTo(3);
  });
  test('follow the hand', () => {
    expect(draggedPart(spot, 'width', lamp, [], [], SIZE, [100, 0])).toBeCloseTo(3);
    expect(draggedPart(spot, 'height', lamp, [], [], SIZE, [0, -50])).toBeCloseTo(1.5);
    expect(draggedPart(spot, 'width', lamp, [], [], SIZE, [-50, 0])).toBe(0.001);
    const wider = draggedPart(spot, 'cone', lamp, [0, 3, 0], [0, 0, 0], SIZE, [100, 0]);
    expect(wider).toBeCloseTo((2 * Math.atan2(4, 3) * 180) / Math.PI, 0);
    expect(draggedPart(spot, 'cone', lamp, [0, 3, 0], [0, 0, 0], SIZE, [-900, 0])).toBe(1);
  });
});
