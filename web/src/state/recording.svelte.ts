/** Movements by hand: while the shot plays a thing is dragged, and what the hand did becomes keys. */
import { client, type Operation, type Shot, type Track } from '../api/client';
import type { List } from './chosen.svelte';
import { curves } from './curves.svelte';
import { live } from './live.svelte';
import { notices } from './notices.svelte';
import { pointer } from './pointer';
import { recorded, type Recorded } from './recordedKeys';
import { shot } from './shot.svelte';
import { setKeyAt, trackAt } from './tracks';
import type { Vector } from './turns';

class Recorder {
  /** What is recorded by the next drag of it. */
  armed = $state.raw<{ list: List; id: string } | null>(null);
  running = $state(false);

  private base: Shot | null = null;
  private shot = 0;
  private path = '';
  private name = '';
  private start: Vector = [0, 0, 0];
  private from: Vector = [0, 0, 0];
  private hand: Vector = [0, 0, 0];
  private frames: number[] = [];
  private values: Vector[] = [];
  private timer: ReturnType<typeof setInterval> | undefined;

  arm(list: List, id: string): void {
    this.armed = this.isArmed(list, id) ? null : { list, id };
  }

  isArmed(list: List | '', id: string): boolean {
    return this.armed !== null && this.armed.list === list && this.armed.id === id;
  }

  /** The hand took hold: the shot plays from the frame that is shown, and from here on every frame counts. */
  begin(list: List, index: number, name: string, position: Vector): void {
    const document = shot.document;
    if (!document) return;
    const { first, last, rate } = document.frames;
    let frame = live.frame ?? first;
    if (frame >= last) frame = first;
    this.base = document;
    this.shot = shot.id;
    this.path = pointer(list, index, 'position');
    this.name = name;
    this.from = position;
    // Where it has keys it starts from what these give.
    this.start = position.map((own, axis) => {
      const track = trackAt(document, `${this.path}/${axis}`)?.track;
      return (track && curves.at(track.id, frame)?.value) ?? own;
    }) as unknown as Vector;
    this.hand = this.start;
    [this.frames, this.values] = [[frame], [this.start]];
    this.running = true;
    this.timer = setInterval(() => {
      if (shot.id !== this.shot) return this.forget(); // another one was opened meanwhile
      frame += 1;
      this.frames.push(frame);
      this.values.push(this.hand);
      live.setFrame(frame);
      this.show(frame);
      if (frame >= last) void this.end();
    }, 1000 / rate);
  }

  /** Where the hand is now, as the position that the thing would have been given. */
  follow(position: Vector): void {
    if (!this.running) return;
    this.hand = position.map((at, axis) => this.start[axis]! + at - this.from[axis]!) as unknown as Vector;
    this.show(this.frames.at(-1) ?? 0);
  }

  private show(frame: number): void {
    const base = this.base;
    if (!base) return;
    const keys = this.hand.flatMap((value, axis) => {
      const path = `${this.path}/${axis}`;
      return trackAt(base, path) ? setKeyAt(base, path, frame, value) : [];
    });
    shot.preview([{ op: 'replace', path: this.path, value: [...this.hand] }, ...keys]);
  }

  /** Let go of, or at the end of the shot. */
  async end(): Promise<void> {
    if (!this.running) return;
    const base = this.base;
    this.forget();
    shot.drop();
    if (!base || this.frames.length < 2) return;
    const { data } = await client.POST('/api/recordings', {
      body: { frames: this.frames, values: this.values.map((each) => [...each]), smooth: 2, tolerance: null },
    });
    if (!data) return notices.say('error', 'Nothing was recorded', 'The server could not make keys of it.');
    const patch = this.patch(base, data);
    const count = Math.max(...data.keys.map((each) => each.length));
    if (!patch.length) return notices.say('info', 'Nothing was recorded', 'It stayed where it was.');
    await shot.commit(patch, `${this.name} by hand, ${count} keys`);
    live.setFrame(this.frames[0]!);
  }

  private forget(): void {
    clearInterval(this.timer);
    this.running = false;
    this.armed = null;
    this.base = null;
  }

  private patch(base: Shot, data: Recorded): Operation[] {
    const tracks = [0, 1, 2].map(
      (axis): Track | null => trackAt(base, `${this.path}/${axis}`)?.track ?? null,
    );
    return recorded(base, this.path, tracks, data, this.frames, [...this.start]);
  }
}

export const recorder = new Recorder();
