/** Keys of numbers: found by where the number stands, set at a frame, moved and taken away. */
import type { Key, Operation, Shot, Track } from '../api/client';
import { pathById } from './addressing';
import { parts, pointer } from './pointer';

/** Members of a shot whose numbers may have keys. */
const MOVED = [
  'camera',
  'environment',
  'atmosphere',
  'backdrop',
  'bloom',
  'lights',
  'locators',
  'object_groups',
  'objects',
  'numbers',
  'signals',
  'looks',
];

export const canHaveKeys = (path: string) =>
  MOVED.includes(parts(path)[0] ?? '') &&
  !parts(path).some((each) => each === 'remembers' || each === 'floats');

export type FoundTrack = { track: Track; index: number };

/** The track of a number at a place that is given by positions. */
export function trackAt(document: Shot, path: string): FoundTrack | null {
  if (!document.tracks.length) return null;
  const at = pathById(document, path);
  const index = document.tracks.findIndex((each) => each.at === at);
  const track = document.tracks[index];
  return track ? { track, index } : null;
}

/** The key at a frame. */
export const keyAt = (track: Track, frame: number): number =>
  track.keys.findIndex((each) => Math.abs(each.frame - frame) < 1e-6);

const fresh = (
  frame: number,
  value: number,
  like?: Key,
): { frame: number; value: number; interpolation: Key['interpolation'] } => ({
  frame,
  value,
  interpolation: like?.interpolation ?? 'smooth',
});

/** Set a key: the first of a number begins its track. */
export function setKeyAt(document: Shot, path: string, frame: number, value: number): Operation[] {
  const found = trackAt(document, path);
  if (!found)
    return [
      { op: 'add', path: '/tracks/-', value: { at: pathById(document, path), keys: [fresh(frame, value)] } },
    ];
  const { track, index } = found;
  // What a formula moves is set by that alone, until it is given keys.
  if (track.formula) return [];
  const there = keyAt(track, frame);
  if (there >= 0) return [{ op: 'replace', path: pointer('tracks', index, 'keys', there, 'value'), value }];
  const later = track.keys.findIndex((each) => each.frame > frame);
  const at = later < 0 ? track.keys.length : later;
  const like = track.keys[Math.max(at - 1, 0)];
  return [{ op: 'add', path: pointer('tracks', index, 'keys', at), value: fresh(frame, value, like) }];
}

/** Take a key away; with the last one the track goes, and the number stays as it was there. */
export function takeKeyAway(document: Shot, path: string, index: number, key: number): Operation[] {
  const track = document.tracks[index];
  if (!track) return [];
  if (track.keys.length > 1) return [{ op: 'remove', path: pointer('tracks', index, 'keys', key) }];
  return [
    { op: 'replace', path, value: track.keys[0]?.value ?? 0 },
    { op: 'remove', path: pointer('tracks', index) },
  ];
}
