/** Keys of a recorded movement, put into a shot in place of those that stood in its frames. */
import type { Key, Operation, Shot, Track } from '../api/client';
import { pathById } from './addressing';
import { pointer } from './pointer';

type NewKey = Pick<Key, 'frame' | 'value' | 'interpolation'>;
export type Recorded = { keys: NewKey[][] };

const plain = ({ frame, value, interpolation }: NewKey): NewKey => ({ frame, value, interpolation });

export function recorded(
  document: Shot,
  path: string,
  tracks: (Track | null)[],
  { keys }: Recorded,
  frames: number[],
  start: number[],
): Operation[] {
  const [first, last] = [frames[0]!, frames.at(-1)!];
  return keys.flatMap((made, axis): Operation[] => {
    const track = tracks[axis];
    // What a formula moves stays with that.
    if (track?.formula) return [];
    if (!track)
      return made.length
        ? [
            {
              op: 'add',
              path: '/tracks/-',
              value: { at: pathById(document, `${path}/${axis}`), keys: made.map(plain) },
            },
          ]
        : [];
    // What did not move stands still where it was.
    const held = made.length
      ? made
      : [{ frame: first, value: start[axis]!, interpolation: 'smooth' as const }];
    const outside = track.keys.filter((key) => key.frame < first || key.frame > last);
    const all = [...outside, ...held.map(plain)].sort((a, b) => a.frame - b.frame);
    const index = document.tracks.findIndex((each) => each.id === track.id);
    return [{ op: 'replace', path: pointer('tracks', index, 'keys'), value: all }];
  });
}
