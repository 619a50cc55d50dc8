/** What the tracks of the shot give over time, as the server works it out: those that are saved, and those in hand. */
import { client, type Curve, type Shot, type Track } from '../api/client';

class Curves {
  list = $state.raw<Curve[]>([]);
  first = $state(1);
  step = $state(1);
  /** Curves of tracks that are being changed, until what was saved is known. */
  private inHand = $state.raw<Curve[]>([]);
  private wanted = '';
  private asking = false;
  private next: { frames: Shot['frames']; tracks: Track[] } | null = null;

  /** Learn the curves of a revision; an answer that comes too late is let go. */
  async load(shot: number, revision: number): Promise<void> {
    const wanted = `${shot} ${revision}`;
    if (wanted === this.wanted) return;
    this.wanted = wanted;
    const { data } = await client.GET('/api/shots/{shot_id}/curves', { params: { path: { shot_id: shot } } });
    if (this.wanted !== wanted) return;
    if (!data) {
      this.wanted = '';
      return;
    }
    this.list = data.curves;
    this.first = data.first;
    this.step = data.step;
    this.inHand = [];
  }

  /** Learn what changed tracks would give; while one answer is awaited, only the newest change waits. */
  async tryOut(frames: Shot['frames'], tracks: Track[]): Promise<void> {
    this.next = { frames, tracks };
    if (this.asking) return;
    this.asking = true;
    const wanted = this.wanted;
    while (this.next) {
      const body = this.next;
      this.next = null;
      const { data } = await client.POST('/api/curves', { body });
      if (data && this.wanted === wanted) this.inHand = data.curves;
    }
    this.asking = false;
  }

  /** Let go of what was tried. */
  drop(): void {
    this.next = null;
    this.inHand = [];
  }

  of(track: string): Curve | null {
    return (
      this.inHand.find((each) => each.id === track) ?? this.list.find((each) => each.id === track) ?? null
    );
  }

  /** A track's value and its change per second at a frame of the shot, and whether that is too fast to watch. */
  at(track: string, frame: number): { value: number; speed: number; fast: boolean } | null {
    const curve = this.of(track);
    if (!curve) return null;
    const index = Math.round((frame - this.first) / this.step);
    const value = curve.values[Math.min(Math.max(index, 0), curve.values.length - 1)];
    const speed = curve.speeds[Math.min(Math.max(index, 0), curve.speeds.length - 1)];
    if (value === undefined || speed === undefined) return null;
    return { value, speed, fast: Math.abs(speed) > curve.fastest };
  }
}

export const curves = new Curves();
