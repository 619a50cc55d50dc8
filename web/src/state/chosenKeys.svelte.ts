/** Which keys are chosen in the lanes, the one that was touched last, and those that were copied. */
import type { Key, Track } from '../api/client';
import { pairsOf, pickedFrom, type CopiedKeys, type Picked } from './keyEdits';

class ChosenKeys {
  picked = $state.raw<Picked>(pickedFrom([]));
  last = $state.raw<{ track: string; key: string } | null>(null);
  copied = $state.raw<CopiedKeys>([]);

  /** Choose keys by the ids of their tracks, in place of those chosen so far or beside them. */
  choose(pairs: [string, string][], beside = false): void {
    const before = beside ? pairsOf(this.picked) : [];
    this.picked = pickedFrom([...before, ...pairs]);
    const end = pairs.at(-1);
    if (end) this.last = { track: end[0], key: end[1] };
    else if (!beside) this.last = null;
  }

  all(track: Track): void {
    this.choose(track.keys.map((key) => [track.id, key.id]));
  }

  has(track: Track, key: Key): boolean {
    return this.picked.get(track.id)?.has(key.id) ?? false;
  }
}

export const chosenKeys = new ChosenKeys();
