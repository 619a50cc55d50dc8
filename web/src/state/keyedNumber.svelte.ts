/** A number of the document by its pointer, as keys or a formula have it: what it is now, and how keys are set and taken away. */
import type { Operation, Track } from '../api/client';
import { curves } from './curves.svelte';
import { byHand } from './handMoves';
import { live } from './live.svelte';
import { keyed as byKeys } from './moves';
import { valueAt } from './pointer';
import { shot } from './shot.svelte';
import { keyAt, setKeyAt, takeKeyAway, trackAt, type FoundTrack } from './tracks';

/** A patch that a hand made in the picture, with keys for what of it has some. */
export function withKeys(patch: Operation[]): Operation[] {
  const document = shot.document;
  if (!document?.tracks.length) return patch;
  const frame = live.frame ?? document.frames.first;
  const moment = (track: Track) =>
    track.keys[keyAt(track, frame)]?.value ?? curves.at(track.id, frame)?.value ?? 0;
  return byHand(document, frame, moment, patch);
}

export class KeyedNumber {
  /** Both are asked for when they are needed, as props of a field change. */
  constructor(
    private readonly path: () => string,
    private readonly own: () => number,
  ) {}

  get found(): FoundTrack | null {
    return shot.document && this.path() ? trackAt(shot.document, this.path()) : null;
  }

  get frame(): number {
    return live.frame ?? shot.document?.frames.first ?? 1;
  }

  get key(): number {
    return this.found ? keyAt(this.found.track, this.frame) : -1;
  }

  /** What the number is at the frame that is shown. */
  get now(): number {
    const found = this.found;
    if (!found) return this.own();
    return found.track.keys[this.key]?.value ?? curves.at(found.track.id, this.frame)?.value ?? this.own();
  }

  /** The patch that sets it at this frame; nothing where a formula alone does. */
  setting(value: number): Operation[] {
    return shot.document ? setKeyAt(shot.document, this.path(), this.frame, value) : [];
  }

  /** Try a value at this frame, or save it, where keys have the number; false where they do not. */
  set(value: number, label: string, done: boolean): boolean {
    if (!this.found) return false;
    // What is no number can't stand where keys are.
    const patch = Number.isFinite(value) ? this.setting(value) : [];
    if (patch.length && done) void shot.commit(patch, `${label}: key at frame ${this.frame}`);
    else if (patch.length) shot.preview(patch);
    return true;
  }

  /** Set a key at this frame, or take the one that stands here away. */
  pin(label: string): void {
    if (!shot.document) return;
    const found = this.found;
    if (found?.track.formula)
      void shot.commit(byKeys(found.track, found.index, this.frame, this.now), `${label}: by keys`);
    else if (found && this.key >= 0)
      void shot.commit(
        takeKeyAway(shot.document, this.path(), found.index, this.key),
        `${label}: no key at frame ${this.frame}`,
      );
    else {
      // A parameter that is not written out stands there first: keys are of what is there.
      const missing = valueAt(shot.document, this.path()) === undefined;
      const written: Operation[] = missing ? [{ op: 'add', path: this.path(), value: this.own() }] : [];
      void shot.commit([...written, ...this.setting(this.now)], `${label}: key at frame ${this.frame}`);
    }
  }
}
