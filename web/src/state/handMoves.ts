/** What a hand moves in the picture while it has keys: they take the place up, at the frame that is shown. */
import type { Operation, Shot, Track } from '../api/client';
import { pathById } from './addressing';
import { valueAt } from './pointer';
import { setKeyAt } from './tracks';

/** Less than this is no move. */
const STILL = 1e-9;

/** Numbers that a hand sets as they are at the moment; of all others it says how far they are moved. */
const isOfTheMoment = (path: string) => path.endsWith('/rotation') || path.startsWith('/camera');

/** A patch, with keys for what of it has some; `moment` gives what a track is at the frame. What a formula moves stays with that. */
export function byHand(
  document: Shot,
  frame: number,
  moment: (track: Track) => number,
  patch: Operation[],
): Operation[] {
  const keys = patch.flatMap((operation) => {
    if (operation.op !== 'replace') return [];
    const at = pathById(document, operation.path);
    return document.tracks.flatMap((track) => {
      if (track.formula || (track.at !== at && !track.at.startsWith(`${at}/`))) return [];
      const within = track.at.slice(at.length);
      const [next, own] = [valueAt(operation.value, within), valueAt(document, operation.path + within)];
      if (typeof next !== 'number' || typeof own !== 'number') return [];
      const now = moment(track);
      const value = isOfTheMoment(operation.path) ? next : now + (next - own);
      return Math.abs(value - now) < STILL ? [] : setKeyAt(document, track.at, frame, value);
    });
  });
  return [...patch, ...keys];
}
