/** How a track's curve is drawn in its lane. */
import type { Curve } from '../api/client';

/** Shares of a lane's height that stay free above and below a curve. */
export const MARGIN = 0.08;

/** How far down a value lies in its lane, 0…1. */
export function place(value: number, low: number, high: number): number {
  return 1 - MARGIN - ((value - low) / (high - low || 1)) * (1 - 2 * MARGIN);
}

/** The curve in a box of 1000 × 100, in stretches that can be watched and such as are too fast for it. */
export function runs(curve: Curve | null, low: number, high: number): { points: string; fast: boolean }[] {
  if (!curve) return [];
  const last = Math.max(curve.values.length - 1, 1);
  const points = curve.values.map(
    (value, at) => `${((at / last) * 1000).toFixed(1)},${(place(value, low, high) * 100).toFixed(1)}`,
  );
  const found: { from: number; to: number; fast: boolean }[] = [];
  for (let at = 0; at < points.length - 1; at += 1) {
    const fast = Math.abs(curve.speeds[at] ?? 0) > curve.fastest;
    const run = found.at(-1);
    if (run?.fast === fast) run.to = at + 1;
    else found.push({ from: at, to: at + 1, fast });
  }
  return found.map(({ from, to, fast }) => ({ points: points.slice(from, to + 1).join(' '), fast }));
}
