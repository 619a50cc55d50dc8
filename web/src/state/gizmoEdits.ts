/** What dragging a handle does: from how far the hand has gone in the picture to the numbers of a placement. */
import type { Gizmo } from '../api/live';
import { about, applied, inverse, times, toAngles, transposed, withoutScale, type Vector } from './turns';

export type Axis = 'x' | 'y' | 'z';
export type Pixels = readonly [number, number];
export const AXES: readonly Axis[] = ['x', 'y', 'z'];

/** A gizmo whose own axes may be those of a surface: `frame` holds their ways in the world as columns. */
export type Framed = Gizmo & { frame?: number[] };

/** A gizmo with the axes of a surface in place of its own: y along the normal. */
export function leaning(gizmo: Gizmo, normal: Vector): Framed {
  const [x, y, z] = normal;
  const sine = Math.hypot(x, z);
  const degrees = (Math.atan2(sine, y) * 180) / Math.PI;
  const frame =
    sine < 1e-9 && y > 0
      ? about([1, 0, 0], 0)
      : about(sine < 1e-9 ? [1, 0, 0] : [z / sine, 0, -x / sine], degrees);
  const own = Object.fromEntries(
    AXES.map((axis, column) => {
      const part = (k: number) =>
        AXES.reduce(
          (sum, each, row) => sum + (frame[3 * row + column] ?? 0) * (gizmo.world[each][k] ?? 0),
          0,
        );
      return [axis, [part(0), part(1)]];
    }),
  ) as Gizmo['own'];
  return { ...gizmo, own, frame: [...frame] };
}

/** The way of an axis in the world. */
export function wayOf(gizmo: Framed, axis: Axis, own: boolean): Vector {
  const column = AXES.indexOf(axis);
  if (!own) return [0, 1, 2].map((row) => (row === column ? 1 : 0)) as unknown as Vector;
  const frame = gizmo.frame ?? gizmo.turn;
  return [0, 1, 2].map((row) => frame[3 * row + column] ?? 0) as unknown as Vector;
}

/** What a metre along an axis is in the picture, in pixels. */
export function metre(gizmo: Gizmo, axis: Axis, own: boolean, size: Pixels): Pixels {
  const [x, y] = (own ? gizmo.own : gizmo.world)[axis];
  return [x * size[0], y * size[1]];
}

/** How many metres along an axis the hand has gone. */
export function along(gizmo: Gizmo, axis: Axis, own: boolean, size: Pixels, moved: Pixels): number {
  const [ax, ay] = metre(gizmo, axis, own, size);
  return (moved[0] * ax + moved[1] * ay) / Math.max(ax * ax + ay * ay, 1e-6);
}

/** How far over the ground the hand has gone, in metres along the world's x and z; over a wall where the ground is seen from its side. */
export function freely(gizmo: Gizmo, size: Pixels, moved: Pixels): Vector {
  const solve = (a: Axis, b: Axis): [number, number] | null => {
    const [p, q] = [metre(gizmo, a, false, size), metre(gizmo, b, false, size)];
    const area = p[0] * q[1] - p[1] * q[0];
    if (Math.abs(area) < 0.12 * Math.hypot(...p) * Math.hypot(...q)) return null;
    return [(moved[0] * q[1] - moved[1] * q[0]) / area, (p[0] * moved[1] - p[1] * moved[0]) / area];
  };
  const ground = solve('x', 'z');
  if (ground) return [ground[0], 0, ground[1]];
  const front = solve('x', 'y');
  if (front) return [front[0], front[1], 0];
  const side = solve('z', 'y');
  return side ? [0, side[1], side[0]] : [0, 0, 0];
}

/** A place moved in the world, in the numbers of what it stands by. */
export function movedBy(gizmo: Gizmo, position: Vector, world: Vector, step: number): Vector {
  const [dx, dy, dz] = applied(inverse(gizmo.parent), world);
  const rounded = (value: number) => (step ? Math.round(value / step) * step : value);
  return [tidy(position[0] + rounded(dx)), tidy(position[1] + rounded(dy)), tidy(position[2] + rounded(dz))];
}

/** Degrees that the hand has gone about a place of the picture; turned the other way where the axis points away from the eye. */
export function swung(centre: Pixels, from: Pixels, to: Pixels, faces: boolean): number {
  const angle = (p: Pixels) => Math.atan2(-(p[1] - centre[1]), p[0] - centre[0]);
  let degrees = ((angle(to) - angle(from)) * 180) / Math.PI;
  if (degrees > 180) degrees -= 360;
  if (degrees < -180) degrees += 360;
  return faces ? degrees : -degrees;
}

/** A rotation turned about a way of the world, in the numbers of what it stands by. */
export function turnedBy(gizmo: Gizmo, way: Vector, degrees: number): Vector {
  const world = times(about(way, degrees), gizmo.turn);
  return toAngles(times(transposed(withoutScale(gizmo.parent)), world));
}

/** As a person would type it: to a tenth of a millimetre. */
export function tidy(value: number): number {
  return Math.round(value * 1e4) / 1e4 + 0;
}
