/** Moves that are wanted again and again, each as a formula of time that can be changed afterwards. */
import type { Operation, Shot, Track } from '../api/client';
import { pointer } from './pointer';
import { pathById } from './addressing';

export type Move = {
  name: string;
  /** What a person reads where it is chosen. */
  text: string;
  formula: (value: string, angle: boolean) => string;
};

/** Amounts are told per second: metres, degrees or the number's own units. */
export const MOVES: readonly Move[] = [
  { name: 'drift', text: 'drifts along', formula: (value, angle) => `${value} + ${angle ? 20 : 0.1} * time` },
  { name: 'turn', text: 'turns round', formula: (value) => `${value} + 36 * time` },
  {
    name: 'swing',
    text: 'swings',
    formula: (value, angle) => `${value} + ${angle ? 20 : 0.1} * sin(2 * pi * 0.5 * time)`,
  },
  {
    name: 'pulse',
    text: 'pulses between',
    formula: (value, angle) => `mix(${value}, ${value} + ${angle ? 20 : 0.2}, wave(1 * time))`,
  },
  {
    name: 'sweep',
    text: 'sweeps once',
    formula: (value, angle) => `${value} + ${angle ? 90 : 0.5} * smoothstep(0, 1, share)`,
  },
  {
    name: 'wander',
    text: 'wanders',
    formula: (value, angle) => `${value} + ${angle ? 10 : 0.1} * wander(1 * time)`,
  },
  { name: 'count', text: 'counts from the start', formula: () => '1 * time' },
];

const isAngle = (at: string) => /\/(rotation|direction|tilt|angle|evolution)(\/|$)/.test(at);
const written = (value: number) => {
  const rounded = String(Number(value.toPrecision(6)));
  return value < 0 ? `(${rounded})` : rounded;
};

/** Let a number that has keys, or a formula, be moved by a formula in their place. */
export function moving(track: Track, index: number, move: Move, value: number): Operation[] {
  const formula = move.formula(written(value), isAngle(track.at));
  return [{ op: 'replace', path: pointer('tracks', index), value: { id: track.id, at: track.at, formula } }];
}

/** A formula of one's own in the place of what moves a number now. */
export const writing = (track: Track, index: number, formula: string): Operation[] => [
  { op: 'replace', path: pointer('tracks', index), value: { id: track.id, at: track.at, formula } },
];

/** A key at a frame in the place of a formula. */
export const keyed = (track: Track, index: number, frame: number, value: number): Operation[] => [
  {
    op: 'replace',
    path: pointer('tracks', index),
    value: { id: track.id, at: track.at, keys: [{ frame, value }] },
  },
];

/** Neither keys nor a formula any more: the number stays as it is now. */
export const stilling = (track: Track, index: number, value: number): Operation[] => [
  { op: 'replace', path: track.at, value },
  { op: 'remove', path: pointer('tracks', index) },
];

/** Let a locator go along its line once, from rest to rest. */
export function sweepAlong(document: Shot, path: string): Operation[] {
  const at = pathById(document, path);
  const index = document.tracks.findIndex((each) => each.at === at);
  const value = { at, formula: 'smoothstep(0, 1, share)' };
  return [
    index < 0
      ? { op: 'add', path: '/tracks/-', value }
      : {
          op: 'replace',
          path: pointer('tracks', index),
          value: { id: document.tracks[index]!.id, ...value },
        },
  ];
}

/** Let a thing turn round its upright axis, 36 degrees a second. */
export function turntable(document: Shot, path: string, value: number): Operation[] {
  const at = pathById(document, path);
  const index = document.tracks.findIndex((each) => each.at === at);
  const track = document.tracks[index];
  const turn = MOVES.find((each) => each.name === 'turn');
  if (!turn) return [];
  if (track) return moving(track, index, turn, value);
  return [{ op: 'add', path: '/tracks/-', value: { at, formula: turn.formula(written(value), true) } }];
}
