import { describe, expect, it } from 'vitest';
import {
  about,
  applied,
  fromAngles,
  inverse,
  times,
  toAngles,
  transposed,
  withoutScale,
  type Matrix,
  type Vector,
} from './turns';

const near = (a: readonly number[], b: readonly number[]) =>
  a.forEach((value, index) => expect(value).toBeCloseTo(b[index] ?? NaN, 5));
/** scipy.spatial.transform.Rotation.from_euler("xyz", angles, degrees=True).as_matrix(), SciPy 1.17. */
const SCIPY: [Vector, Matrix][] = [
  [
    [30, 40, 50],
    [
      0.49240388, -0.45682599, 0.74084306, 0.58682409, 0.80287234, 0.10504046, -0.64278761, 0.38302222,
      0.66341395,
    ],
  ],
  [
    [-75, 10, 120],
    [
      -0.49240388, -0.14027824, -0.85898803, 0.85286853, -0.27466905, -0.44404074, -0.17364818, -0.95125124,
      0.254887,
    ],
  ],
];

describe('turns', () => {
  it('are those of SciPy', () => SCIPY.forEach(([angles, matrix]) => near(fromAngles(angles), matrix)));
  it.each<[Vector]>([[[30, 40, 50]], [[-75, 10, 120]], [[0, 0, 0]], [[170, -80, -179]]])(
    '%j there and back',
    (angles) => near(toAngles(fromAngles(angles)), angles),
  );
  it('straight up are the same turn', () => {
    const m = fromAngles([20, 90, 35]);
    near(fromAngles(toAngles(m)), m);
    const other = fromAngles([20, -90, 35]);
    near(fromAngles(toAngles(other)), other);
  });
  it('about an axis keep it', () => {
    const axis: Vector = [0.6, 0, 0.8];
    near(applied(about(axis, 77), axis), axis);
    near(times(about(axis, 77), transposed(about(axis, 77))), [1, 0, 0, 0, 1, 0, 0, 0, 1]);
    near(applied(about([0, 0, 1], 90), [1, 0, 0]), [0, 1, 0]);
  });
  it('are taken back, and told apart from scale', () => {
    const m = times(fromAngles([10, 20, 30]), [2, 0, 0, 0, 3, 0, 0, 0, 0.5]);
    near(times(m, inverse(m)), [1, 0, 0, 0, 1, 0, 0, 0, 1]);
    near(withoutScale(m), fromAngles([10, 20, 30]));
    near(inverse([0, 0, 0, 0, 0, 0, 0, 0, 0]), [1, 0, 0, 0, 1, 0, 0, 0, 1]);
  });
});
