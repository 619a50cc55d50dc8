/** Pictures of frames that have been seen, so that they play again in real time; gone as soon as anything but the frame changes. */
import type { PictureHead } from '../api/live';

/** Pixels of all that is kept: half a gigabyte. */
const MOST_PIXELS = 128 * 1024 * 1024;

type Kept = { picture: ImageBitmap; head: PictureHead };

export class CachedFrames {
  /** The frames that are kept, in the order in which they were last seen. */
  frames = $state.raw<readonly number[]>([]);
  // Not reactive: `frames` tells what it holds.
  // eslint-disable-next-line svelte/prefer-svelte-reactivity
  private kept = new Map<number, Kept>();
  private era = 0;

  /** Keep a copy of a frame's picture; a better one takes the place of what was there. */
  async keep(frame: number, picture: ImageBitmap, head: PictureHead): Promise<void> {
    const era = this.era;
    const copy = await createImageBitmap(picture);
    if (era !== this.era) return copy.close();
    this.kept.get(frame)?.picture.close();
    this.kept.delete(frame);
    this.kept.set(frame, { picture: copy, head });
    const most = Math.max(Math.floor(MOST_PIXELS / Math.max(copy.width * copy.height, 1)), 1);
    for (const oldest of this.kept.keys()) {
      if (this.kept.size <= most) break;
      this.kept.get(oldest)?.picture.close();
      this.kept.delete(oldest);
    }
    this.frames = [...this.kept.keys()];
  }

  get(frame: number): Kept | undefined {
    return this.kept.get(frame);
  }

  clear(): void {
    this.era += 1;
    if (!this.kept.size) return;
    for (const each of this.kept.values()) each.picture.close();
    this.kept.clear();
    this.frames = [];
  }
}
