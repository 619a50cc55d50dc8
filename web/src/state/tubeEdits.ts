/** Edits of the points of a tube. */
import type { Json, Operation } from '../api/client';
import { tidy } from '../fields/numbers';
import { pointer } from './pointer';

export type Point = readonly [number, number, number];

const at = (object: number, ...more: (string | number)[]) => pointer('objects', object, 'geometry', ...more);

/** The tangent of each point by hand, or nothing where its neighbours say how the line bends. */
export type Tangents = readonly (Point | null)[];

/** All points anew, as one change; with their tangents, where these change places too. */
export function withPoints(object: number, points: readonly Point[], tangents?: Tangents): Operation[] {
  const moved: Operation = { op: 'replace', path: at(object, 'points'), value: points as unknown as Json };
  return tangents ? [moved, ...withTangents(object, tangents)] : [moved];
}

export function withTangents(object: number, tangents: Tangents): Operation[] {
  const value = tangents.some((each) => each) ? tangents : [];
  return [{ op: 'add', path: at(object, 'tangents'), value: value as unknown as Json }];
}

/** One point's tangent, or nothing, among those of some points. */
export function ledBy(tangents: Tangents, count: number, number: number, tangent: Point | null): Tangents {
  return Array.from({ length: count }, (_, k) => (k === number ? tangent : (tangents[k] ?? null)));
}

export function movedPoint(points: readonly Point[], number: number, by: readonly number[]): Point[] {
  return points.map((point, k) =>
    k === number
      ? [tidy(point[0] + (by[0] ?? 0)), tidy(point[1] + (by[1] ?? 0)), tidy(point[2] + (by[2] ?? 0))]
      : point,
  );
}

/** One more after a point: halfway to the next, or beyond the end as far again as the one before it. */
export function insertedAfter(points: readonly Point[], number: number): Point[] {
  const [here, next, last] = [points[number], points[number + 1], points[number - 1]];
  if (!here) return [...points];
  const mixed = (a: Point, b: Point, share: number): Point => [
    tidy(a[0] + (b[0] - a[0]) * share),
    tidy(a[1] + (b[1] - a[1]) * share),
    tidy(a[2] + (b[2] - a[2]) * share),
  ];
  const made = next ? mixed(here, next, 0.5) : last ? mixed(last, here, 2) : here;
  return [...points.slice(0, number + 1), made, ...points.slice(number + 1)];
}

/** What the radius is multiplied by at even steps of the length: straight between its points, and level beyond them. */
export function sampled(thickness: readonly (readonly [number, number])[], count = 49): number[] {
  return Array.from({ length: count }, (_, k) => {
    const share = k / (count - 1);
    const after = thickness.findIndex((each) => each[0] >= share);
    const [a, b] = [thickness[after - 1], thickness[after]];
    if (after < 0) return thickness.at(-1)?.[1] ?? 1;
    if (!a || !b || b[0] === a[0]) return b?.[1] ?? 1;
    return a[1] + ((b[1] - a[1]) * (share - a[0])) / (b[0] - a[0]);
  });
}

/** A place of the world in the tube's own space; rows of four numbers lead there. */
export function intoOwn(rows: readonly number[], [x, y, z]: Point): Point {
  const row = (k: number) =>
    tidy(
      (rows[4 * k] ?? 0) * x +
        (rows[4 * k + 1] ?? 0) * y +
        (rows[4 * k + 2] ?? 0) * z +
        (rows[4 * k + 3] ?? 0),
    );
  return [row(0), row(1), row(2)];
}
