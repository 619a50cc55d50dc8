/** Rotations as 3×3 matrices, row by row, and as degrees about x, then y, then z (the world's axes), as documents hold them. */
export type Matrix = readonly number[];
export type Vector = readonly [number, number, number];

const at = (m: Matrix, row: number, column: number) => m[3 * row + column] ?? 0;
const rad = (degrees: number) => (degrees * Math.PI) / 180;

export function times(a: Matrix, b: Matrix): Matrix {
  return [0, 1, 2].flatMap((row) =>
    [0, 1, 2].map((column) => [0, 1, 2].reduce((sum, k) => sum + at(a, row, k) * at(b, k, column), 0)),
  );
}

export function applied(m: Matrix, v: Vector): Vector {
  const row = (r: number) => at(m, r, 0) * v[0] + at(m, r, 1) * v[1] + at(m, r, 2) * v[2];
  return [row(0), row(1), row(2)];
}

export function transposed(m: Matrix): Matrix {
  return [0, 1, 2].flatMap((row) => [0, 1, 2].map((column) => at(m, column, row)));
}

/** The inverse; the identity where there is none. */
export function inverse(m: Matrix): Matrix {
  const minor = (r: number, c: number) => {
    const [r1, r2] = [(r + 1) % 3, (r + 2) % 3];
    const [c1, c2] = [(c + 1) % 3, (c + 2) % 3];
    return at(m, r1, c1) * at(m, r2, c2) - at(m, r1, c2) * at(m, r2, c1);
  };
  const size = at(m, 0, 0) * minor(0, 0) + at(m, 0, 1) * minor(0, 1) + at(m, 0, 2) * minor(0, 2);
  if (Math.abs(size) < 1e-18) return [1, 0, 0, 0, 1, 0, 0, 0, 1];
  return [0, 1, 2].flatMap((row) => [0, 1, 2].map((column) => minor(column, row) / size));
}

/** Each column of length one. */
export function withoutScale(m: Matrix): Matrix {
  const length = [0, 1, 2].map((c) => Math.hypot(at(m, 0, c), at(m, 1, c), at(m, 2, c)) || 1);
  return m.map((value, index) => value / (length[index % 3] ?? 1));
}

/** A turn about an axis of length one, by degrees. */
export function about([x, y, z]: Vector, degrees: number): Matrix {
  const [c, s] = [Math.cos(rad(degrees)), Math.sin(rad(degrees))];
  const k = 1 - c;
  return [
    c + x * x * k, x * y * k - z * s, x * z * k + y * s,
    y * x * k + z * s, c + y * y * k, y * z * k - x * s,
    z * x * k - y * s, z * y * k + x * s, c + z * z * k,
  ]; // prettier-ignore
}

export function fromAngles([x, y, z]: Vector): Matrix {
  return times(about([0, 0, 1], z), times(about([0, 1, 0], y), about([1, 0, 0], x)));
}

/** Degrees about x, then y, then z, of a rotation. */
export function toAngles(m: Matrix): Vector {
  const deg = (radians: number) => Math.round((radians * 180 * 1e4) / Math.PI) / 1e4 + 0;
  const sine = Math.min(Math.max(-at(m, 2, 0), -1), 1);
  // Straight up or down x and z turn about one axis: all of it is given to x.
  if (Math.abs(sine) > 0.9999999)
    return [deg(Math.atan2(-at(m, 1, 2), at(m, 1, 1))), deg(Math.asin(sine)), 0];
  return [
    deg(Math.atan2(at(m, 2, 1), at(m, 2, 2))),
    deg(Math.asin(sine)),
    deg(Math.atan2(at(m, 1, 0), at(m, 0, 0))),
  ];
}
