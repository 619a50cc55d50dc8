/** What dragging a lamp's own handles does: its size, its cone, and what it faces. */
import type { Gizmo } from '../api/live';
import { along, tidy, type Pixels } from './gizmoEdits';

export type LampPart = 'width' | 'height' | 'cone';
export type LampShape = { shape: string; width: number; height: number; cone: number };
type Spot = Pick<Gizmo, 'at' | 'position' | 'world' | 'own'>;

/** Which handles a lamp of a shape has, beside its place and what it faces. */
export function partsOf(shape: string): LampPart[] {
  if (shape === 'rectangle') return ['width', 'height'];
  if (shape === 'disc' || shape === 'sphere') return ['width'];
  return shape === 'spot' ? ['cone'] : [];
}

const distance = (a: readonly number[], b: readonly number[]) =>
  Math.max(Math.hypot(...a.map((x, k) => x - (b[k] ?? 0))), 1e-6);

/** Metres across the light from its middle to where a handle stands: on the lamp's edge, or where the cone ends about what it faces. */
export function reachOf(
  part: LampPart,
  lamp: LampShape,
  from: readonly number[],
  to: readonly number[],
): number {
  if (part !== 'cone') return lamp[part] / 2;
  return distance(from, to) * Math.tan((Math.min(lamp.cone, 170) * Math.PI) / 360);
}

/** Where a handle is in the picture, in pixels. */
export function placeOf(spot: Spot, part: LampPart, reach: number, size: Pixels): Pixels {
  const [x, y] = spot.own[part === 'height' ? 'y' : 'x'];
  return [(spot.at[0] + x * reach) * size[0], (spot.at[1] + y * reach) * size[1]];
}

/** The number that a handle stands for, after the hand has gone some pixels. */
export function draggedPart(
  spot: Spot,
  part: LampPart,
  lamp: LampShape,
  from: readonly number[],
  to: readonly number[],
  size: Pixels,
  moved: Pixels,
): number {
  const axis = part === 'height' ? 'y' : 'x';
  const reach = reachOf(part, lamp, from, to) + along(spot as Gizmo, axis, true, size, moved);
  if (part !== 'cone') return Math.max(tidy(2 * Math.abs(reach)), 0.001);
  const degrees = (2 * Math.atan2(Math.max(reach, 0), distance(from, to)) * 180) / Math.PI;
  return Math.min(Math.max(Math.round(degrees * 10) / 10, 1), 170);
}
