/** A sphere drawn by its equator and two meridians, as a camera sees it that stands straight before it. */
import { applied, type Matrix, type Vector } from './turns';

type Axes = readonly [right: Vector, up: Vector, back: Vector];

const unit = (v: Vector): Vector => {
  const length = Math.hypot(...v) || 1;
  return [v[0] / length, v[1] / length, v[2] / length];
};
const cross = (a: Vector, b: Vector): Vector => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
const dot = (a: Vector, b: Vector) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];

/** A camera's right, up and back in the world. */
export function camera(position: readonly number[], target: readonly number[]): Axes {
  const back = unit([0, 1, 2].map((k) => (position[k] ?? 0) - (target[k] ?? 0)) as unknown as Vector);
  const level = Math.hypot(back[0], back[2]) < 1e-6 ? ([1, 0, 0] as const) : cross([0, 1, 0], back);
  const right = unit(level);
  return [right, cross(back, right), back];
}

/** Lines of a turned sphere as points of polylines, before and behind, and its upper pole where that faces the camera. */
export function sphereLines(turn: Matrix, [right, up, back]: Axes, radius: number) {
  const seen = (v: Vector) => {
    const world = applied(turn, v);
    return [dot(world, right) * radius, -dot(world, up) * radius, dot(world, back)] as const;
  };
  const circles: ((angle: number) => Vector)[] = [
    (a) => [Math.cos(a), 0, Math.sin(a)],
    (a) => [Math.cos(a), Math.sin(a), 0],
    (a) => [0, Math.sin(a), Math.cos(a)],
  ];
  const front: string[] = [];
  const behind: string[] = [];
  for (const circle of circles) {
    let line: string[] = [];
    let before: boolean | null = null;
    for (let k = 0; k <= 48; k += 1) {
      const [x, y, depth] = seen(circle((k / 48) * 2 * Math.PI));
      const text = `${x.toFixed(1)},${y.toFixed(1)}`;
      const facing = depth >= 0;
      line.push(text);
      if (before !== null && facing !== before) {
        (before ? front : behind).push(line.join(' '));
        line = [text];
      }
      before = facing;
    }
    (before ? front : behind).push(line.join(' '));
  }
  const [x, y, depth] = seen([0, 1, 0]);
  return { front, back: behind, pole: depth >= 0 ? ([x, y] as const) : null };
}
