import { describe, expect, it } from 'vitest';
import type { Gizmo } from '../api/live';
import { along, freely, leaning, movedBy, swung, turnedBy, wayOf } from './gizmoEdits';
import { fromAngles, times, type Vector } from './turns';

const EVEN = [1, 0, 0, 0, 1, 0, 0, 0, 1] as Gizmo['turn'];
const gizmo = (more: Partial<Gizmo> = {}): Gizmo => ({
  thing: '/objects/a',
  at: [0.5, 0.5],
  position: [0, 0, 0],
  world: { x: [0.1, 0], y: [0, -0.2], z: [-0.05, 0.1] },
  own: { x: [0, -0.2], y: [-0.1, 0], z: [-0.05, 0.1] },
  turn: EVEN,
  parent: EVEN,
  target: null,
  tube: null,
  ...more,
});
const SIZE = [1000, 500] as const;

describe('handles', () => {
  it('measure along an axis in metres', () => {
    expect(along(gizmo(), 'x', false, SIZE, [200, 0])).toBeCloseTo(2);
    expect(along(gizmo(), 'y', false, SIZE, [0, -50])).toBeCloseTo(0.5);
    expect(along(gizmo(), 'x', true, SIZE, [0, -100])).toBeCloseTo(1);
  });
  it('move over the ground to where the hand is', () => {
    const [x, y, z] = freely(gizmo(), SIZE, [50, 50]);
    expect(y).toBe(0);
    expect(x * 100 - z * 50).toBeCloseTo(50);
    expect(z * 50).toBeCloseTo(50);
    const flat = gizmo({ world: { x: [0.1, 0], y: [0, -0.2], z: [-0.05, 0] } });
    expect(freely(flat, SIZE, [100, -100])).toEqual([1, 1, 0]);
  });
  it('keep to the numbers of what it stands by', () => {
    const parent = times(fromAngles([0, 90, 0]), [2, 0, 0, 0, 2, 0, 0, 0, 2]) as Gizmo['parent'];
    // A metre along the world's x is half a metre along the parent's z (by hand).
    const moved = movedBy(gizmo({ parent }), [0, 1, 0], [1, 0, 0], 0);
    expect(moved.map((value) => Math.abs(value))).toEqual([0, 1, 0.5]);
    expect(movedBy(gizmo(), [0, 0, 0], [0.26, 0, 0], 0.1)).toEqual([0.3, 0, 0]);
  });
  it('go along the axes of a surface', () => {
    const level = leaning(gizmo(), [0, 1, 0]);
    for (const axis of ['x', 'y', 'z'] as const)
      level.own[axis].forEach((value, k) => expect(value).toBeCloseTo(gizmo().world[axis][k] ?? 0));
    const wall = leaning(gizmo(), [1, 0, 0]);
    wayOf(wall, 'y', true).forEach((value, k) => expect(value).toBeCloseTo([1, 0, 0][k] ?? 0));
    wall.own.y.forEach((value, k) => expect(value).toBeCloseTo(gizmo().world.x[k] ?? 0));
    const slope = leaning(gizmo(), [0, Math.SQRT1_2, Math.SQRT1_2]);
    wayOf(slope, 'y', true).forEach((value, k) =>
      expect(value).toBeCloseTo([0, Math.SQRT1_2, Math.SQRT1_2][k] ?? 0),
    );
    wayOf(slope, 'x', true).forEach((value, k) => expect(value).toBeCloseTo([1, 0, 0][k] ?? 0));
    expect(turnedBy(leaning(gizmo(), [1, 0, 0]), [0, 1, 0], 90)[1]).toBeCloseTo(90);
  });
  it('turn about an axis', () => {
    expect(turnedBy(gizmo(), [0, 1, 0], 30)).toEqual([0, 30, 0]);
    const turn = fromAngles([0, 90, 0]) as Gizmo['turn'];
    const own: Vector = wayOf(gizmo({ turn }), 'x', true);
    expect(own.map((value) => Math.round(value))).toEqual([0, 0, -1]);
    const parent = fromAngles([0, 90, 0]) as Gizmo['parent'];
    expect(turnedBy(gizmo({ turn, parent }), [0, 1, 0], 15)).toEqual([0, 15, 0]);
  });
  it('swing the way the hand goes', () => {
    expect(swung([0, 0], [10, 0], [0, -10], true)).toBeCloseTo(90);
    expect(swung([0, 0], [10, 0], [0, -10], false)).toBeCloseTo(-90);
    expect(swung([0, 0], [-10, 1], [-10, -1], true)).toBeCloseTo(-11.42, 1);
  });
});
