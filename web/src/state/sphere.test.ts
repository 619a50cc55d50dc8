import { describe, expect, test } from 'vitest';
import { camera, sphereLines } from './sphere';
import { fromAngles } from './turns';

describe('the sphere of the surroundings', () => {
  const eye = camera([0, 0, 5], [0, 0, 0]);
  test('is seen from the camera', () => {
    expect(eye.map((axis) => axis.map((x) => Math.round(x) + 0))).toEqual([
      [1, 0, 0],
      [0, 1, 0],
      [0, 0, 1],
    ]);
    expect(camera([0, 9, 0], [0, 0, 0])[0].every(Number.isFinite)).toBe(true);
  });
  test('has its pole above while it is upright, and before it once it leans here', () => {
    expect(sphereLines(fromAngles([0, 0, 0]), eye, 10).pole).toEqual([0, -10]);
    const [x, y] = sphereLines(fromAngles([90, 0, 0]), eye, 10).pole ?? [9, 9];
    expect([x, y].map((each) => Math.round(each) + 0)).toEqual([0, 0]);
    expect(sphereLines(fromAngles([-90, 0, 0]), eye, 10).pole).toBe(null);
  });
  test('shows every line before or behind', () => {
    const { front, back } = sphereLines(fromAngles([20, 30, 40]), eye, 10);
    expect(front.length).toBeGreaterThan(2);
    expect(back.length).toBeGreaterThan(2);
  });
});
