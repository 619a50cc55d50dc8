/** Several keys at once: shifted, stretched in time, copied, put in elsewhere, taken away, and their slopes. */
import type { Key, Operation, Shot, Track } from '../api/client';
import { pathByPosition } from './addressing';
import { pointer } from './pointer';

/** Ids of keys, by the id of their track. */
export type Picked = ReadonlyMap<string, ReadonlySet<string>>;

/** Keys that were copied: their frames count from the first of all of them. */
export type CopiedKeys = { at: string; keys: Key[] }[];

/** The least distance of two keys, in frames. */
const APART = 1;

/** Keys given by the ids of their tracks and their own. */
export function pickedFrom(pairs: [string, string][]): Picked {
  const made = new Map<string, Set<string>>();
  for (const [track, key] of pairs) made.set(track, (made.get(track) ?? new Set()).add(key));
  return made;
}
export const pairsOf = (picked: Picked): [string, string][] =>
  [...picked].flatMap(([track, keys]) => [...keys].map((key): [string, string] => [track, key]));

export const isPicked = (picked: Picked, track: Track, key: Key): boolean =>
  picked.get(track.id)?.has(key.id) ?? false;

export const countOf = (picked: Picked): number =>
  [...picked.values()].reduce((sum, each) => sum + each.size, 0);

/** The picked keys of each track that has any. */
function pickedOf(tracks: Track[], picked: Picked): { track: Track; index: number; keys: Key[] }[] {
  return tracks
    .map((track, index) => ({ track, index, keys: track.keys.filter((key) => isPicked(picked, track, key)) }))
    .filter((each) => each.keys.length > 0);
}

/** From the first to the last frame that the picked keys stand at. */
export function spanOf(tracks: Track[], picked: Picked): { first: number; last: number } | null {
  const frames = pickedOf(tracks, picked).flatMap((each) => each.keys.map((key) => key.frame));
  return frames.length ? { first: Math.min(...frames), last: Math.max(...frames) } : null;
}

/** The keys of tracks with new frames for those that are picked; nothing where one would come to stand on or pass another. */
function reframed(tracks: Track[], picked: Picked, to: (frame: number) => number): Operation[] | null {
  const patch: Operation[] = [];
  for (const { track, index } of pickedOf(tracks, picked)) {
    const keys = track.keys.map((key) =>
      isPicked(picked, track, key) ? { ...key, frame: to(key.frame) } : key,
    );
    if (keys.some((key, number) => number > 0 && key.frame - keys[number - 1]!.frame < Math.min(APART, 1e-3)))
      return null;
    if (keys.some((key, number) => key.frame !== track.keys[number]!.frame))
      patch.push({ op: 'replace', path: pointer('tracks', index, 'keys'), value: keys });
  }
  return patch;
}

/** By how many frames the picked keys may be shifted, so that they stay between those that are not. */
function room(tracks: Track[], picked: Picked): [number, number] {
  let [least, most] = [-Infinity, Infinity];
  for (const { track } of pickedOf(tracks, picked))
    track.keys.forEach((key, number) => {
      const next = track.keys[number + 1];
      if (!next || isPicked(picked, track, key) === isPicked(picked, track, next)) return;
      const gap = next.frame - key.frame - APART;
      if (isPicked(picked, track, key)) most = Math.min(most, gap);
      else least = Math.max(least, -gap);
    });
  return [Math.min(least, 0), Math.max(most, 0)];
}

/** Shift the picked keys by frames, as far as those beside them let. */
export function shifting(tracks: Track[], picked: Picked, by: number): Operation[] {
  const [least, most] = room(tracks, picked);
  const held = Math.min(Math.max(by, least), most);
  return reframed(tracks, picked, (frame) => frame + held) ?? [];
}

/** A change of keys, with another value for one of a track. */
export function valuing(
  patch: Operation[],
  track: Track,
  index: number,
  key: number,
  value: number,
): Operation[] {
  const path = pointer('tracks', index, 'keys');
  const changed = patch.find((each) => each.path === path);
  const keys = changed && 'value' in changed ? (changed.value as Key[]) : track.keys;
  const made = keys.map((each, at) => (at === key ? { ...each, value } : each));
  return [...patch.filter((each) => each.path !== path), { op: 'replace', path, value: made }];
}

/** Stretch the picked keys in time, from a frame that stays; onto whole frames if asked. Nothing where keys would meet. */
export function stretching(
  tracks: Track[],
  picked: Picked,
  about: number,
  by: number,
  whole: boolean,
): Operation[] {
  if (!(by > 0)) return [];
  const fit = (frame: number) => (whole ? Math.round(frame) : frame);
  return reframed(tracks, picked, (frame) => fit(about + (frame - about) * by)) ?? [];
}

export function copying(tracks: Track[], picked: Picked): CopiedKeys {
  const first = spanOf(tracks, picked)?.first ?? 0;
  return pickedOf(tracks, picked).map(({ track, keys }) => ({
    at: track.at,
    keys: keys.map((key) => ({ ...key, frame: key.frame - first })),
  }));
}

/** Put copied keys in from a frame on; those of one number go to a given track, others to where they are from. A key that stands where one comes makes way. */
export function pasting(document: Shot, copied: CopiedKeys, frame: number, onto: string): Operation[] {
  return copied.flatMap(({ at, keys }): Operation[] => {
    const target = copied.length === 1 && onto ? onto : at;
    const new_ = keys.map(({ frame: from, value, interpolation, slope_in, slope_out }) => ({
      frame: from + frame,
      value,
      interpolation,
      slope_in,
      slope_out,
    }));
    const index = document.tracks.findIndex((each) => each.at === target);
    const track = document.tracks[index];
    if (track?.formula) return [];
    if (!track)
      return pathByPosition(document, target) === null
        ? []
        : [{ op: 'add', path: '/tracks/-', value: { at: target, keys: new_ } }];
    const stay = track.keys.filter((key) => new_.every((each) => Math.abs(each.frame - key.frame) > 1e-6));
    const all = [...stay, ...new_].sort((a, b) => a.frame - b.frame);
    return [{ op: 'replace', path: pointer('tracks', index, 'keys'), value: all }];
  });
}

/** Take the picked keys away; with its last one a track goes, and its number stays as it was there. */
export function removing(document: Shot, picked: Picked): Operation[] {
  const found = pickedOf(document.tracks, picked);
  const gone = found.filter((each) => each.keys.length === each.track.keys.length);
  const places = gone.flatMap(({ track }): Operation[] => {
    const path = pathByPosition(document, track.at);
    return path === null ? [] : [{ op: 'replace', path, value: track.keys[0]!.value }];
  });
  const fewer = found
    .filter((each) => !gone.includes(each))
    .map(({ track, index }): Operation => ({
      op: 'replace',
      path: pointer('tracks', index, 'keys'),
      value: track.keys.filter((key) => !isPicked(picked, track, key)),
    }));
  const tracks = gone
    .map((each) => each.index)
    .sort((a, b) => b - a)
    .map((index): Operation => ({ op: 'remove', path: pointer('tracks', index) }));
  return [...places, ...fewer, ...tracks];
}

/** Lead a curve through a key by a slope per frame, on both sides unless they are parted; null: as its neighbours give it. */
export function sloping(
  track: Track,
  index: number,
  key: number,
  side: 'in' | 'out',
  slope: number | null,
  parted: boolean,
): Operation[] {
  const was = track.keys[key];
  if (!was) return [];
  const both = { ...was, slope_in: slope, slope_out: slope };
  const one = side === 'in' ? { ...was, slope_in: slope } : { ...was, slope_out: slope };
  return [{ op: 'replace', path: pointer('tracks', index, 'keys', key), value: parted ? one : both }];
}
