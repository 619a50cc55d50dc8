/** What the live connection has brought, and what this window shows: the only place that speaks to it. */
import { author, windowId } from './window';
import type { Json, Operation } from '../api/client';
import {
  AS_IT_IS,
  PICTURE,
  type Advice,
  type CameraMove,
  type Cell,
  type DocumentProblem,
  type Loading,
  type Fault,
  type OtherWindow,
  type Memory,
  type PictureHead,
  type Reading,
  type Show,
  type StepMeasure,
  type ToPage,
  type Viewing,
  type Working,
} from '../api/live';
import { CachedFrames } from './cachedFrames.svelte';
import { Connection } from './connection';
import { notices } from './notices.svelte';

class Live {
  connected = $state(false);
  restarting = $state(false);
  session = $state('');
  head = $state.raw<PictureHead | null>(null);
  bench = $state.raw<{ look: string; recipe: string; steps: StepMeasure[] } | null>(null);
  cells = $state.raw<Record<string, Cell>>({});
  cellsOf = $state('');
  problems = $state.raw<DocumentProblem[]>([]);
  show = $state.raw<Show>(PICTURE);
  reading = $state.raw<Reading | null>(null);
  advice = $state.raw<Advice[]>([]);
  frame = $state<number | null>(null);
  /** What of the shot is being read, until its first picture is there. */
  loading = $state.raw<Loading | null>(null);
  /** What is made over the frames of the shot, until a picture comes. */
  working = $state.raw<Working | null>(null);
  /** What went wrong unforeseen, until a picture comes again. */
  fault = $state.raw<Fault | null>(null);
  /** Whether the picture of this window is not worked on until something is changed. */
  setAside = $state(false);
  /** Who else has the shot open. */
  others = $state.raw<OtherWindow[]>([]);
  /** What the renderer's memory holds. */
  memory = $state.raw<Memory | null>(null);
  /** How this window looks at the picture; nothing of it is saved. */
  viewing = $state.raw<Viewing>(AS_IT_IS);
  /** Whether a point is pinned, also while it is out of sight. */
  pinned = $state(false);

  /** Called with every new picture, already decoded. */
  onPicture: (picture: ImageBitmap, head: PictureHead) => void = () => {};
  /** Called when another shot is opened: nothing of the last one may stay in sight. */
  onEmpty: () => void = () => {};
  onRevision: (revision: number) => void = () => {};
  onRestored: () => void = () => {};
  onCamera: (camera: Json) => void = () => {};

  /** Pictures of frames that were seen since anything else changed. */
  readonly cached = new CachedFrames();
  /** The frame that the renderer was last asked for, and by what serial. */
  private asked: { frame: number | null; serial: number } = { frame: null, serial: 0 };
  /** The serial that the last picture carried, whether it was shown or not. */
  private arrived = 0;
  /** Whether frames are shown from what is kept: what the renderer still sends is not. */
  private replaying = false;
  private connection: Connection | null = null;
  private size: [number, number] = [640, 360];
  private open = { look: '', recipe: '' };
  private place = '';
  private chosen = '';
  /** Where volumes are cut across the view when what fills them is looked at, from near (0) to far (1); null: as deep as the camera sees. */
  cut: number | null = $state(0.5);
  private looking: ((reading: Reading | null) => void) | null = null;

  connect(shot: number): void {
    this.connection?.close();
    this.head = null;
    this.arrived = 0;
    this.asked = { frame: null, serial: 0 };
    this.cells = {};
    this.cellsOf = '';
    this.bench = null;
    this.reading = null;
    this.pinned = false;
    this.advice = [];
    this.problems = [];
    this.connected = false;
    this.loading = null;
    this.working = null;
    this.others = [];
    this.fault = null;
    this.setAside = false;
    this.replaying = false;
    this.cached.clear();
    this.onEmpty();
    this.connection = new Connection(shot, {
      opened: () => {
        this.connected = true;
        this.sendView();
        this.sendHere();
      },
      lost: () => (this.connected = false),
      message: (message) => this.take(message),
      picture: (picture, head) => {
        this.restarting = false;
        this.setAside = false;
        this.fault = null;
        this.loading = null;
        this.working = null;
        this.problems = [];
        this.arrived = head.serial;
        const { frame, serial } = this.asked;
        if (frame !== null && head.serial >= serial) void this.cached.keep(frame, picture, head);
        if (this.replaying) return;
        this.head = head;
        this.onPicture(picture, head);
      },
    });
  }

  /** Whether the renderer still owes the picture it was last asked for; what was said since (who is here, what is read) asks for none. */
  get owed(): boolean {
    return !this.connected || this.arrived < this.asked.serial;
  }

  setSize(width: number, height: number): void {
    if (width === this.size[0] && height === this.size[1]) return;
    this.size = [width, height];
    this.cached.clear();
    this.sendView();
  }

  setShow(show: Show): void {
    this.show = show;
    this.cached.clear();
    this.sendView();
  }

  setOpen(look: string, recipe: string): void {
    if (this.open.look === look && this.open.recipe === recipe) return;
    if (this.open.look !== look) this.cells = {};
    this.open = { look, recipe };
    this.bench = null;
    this.sendView();
  }

  /** Where volumes are cut across the view. */
  setCut(share: number | null): void {
    this.cut = share;
    this.cached.clear();
    this.sendView();
  }

  /** What has handles in the picture, by JSON Pointer by id. */
  setChosen(chosen: string): void {
    if (chosen === this.chosen) return;
    this.chosen = chosen;
    this.sendView();
  }

  setFrame(frame: number): void {
    if (frame === this.frame && !this.replaying) return;
    this.frame = frame;
    const seen = this.cached.get(frame);
    if (seen) this.onPicture(seen.picture, seen.head); // until the renderer sends it anew
    this.sendView();
  }

  /** Show a frame from what is kept, at once and without the renderer; nothing is done where it is not kept. */
  replay(frame: number): boolean {
    const found = this.cached.get(frame);
    if (!found) return false;
    this.replaying = true;
    this.frame = frame;
    this.onPicture(found.picture, found.head);
    return true;
  }

  /** After frames were replayed: go on with the one that is shown. */
  stopReplaying(): void {
    if (this.replaying) this.sendView();
  }

  setViewing(viewing: Viewing): void {
    this.viewing = viewing;
    this.cached.clear();
    this.sendView();
  }

  /** Read the point under a place of the stage, 0…1 from its top left. */
  read(across: number, down: number): void {
    this.connection?.say({ do: 'read', across, down });
  }

  /** What lies under a place of the stage, without opening a reading of it; nothing where there is only sky. */
  look(across: number, down: number): Promise<Reading | null> {
    this.looking?.(null);
    return new Promise((resolve) => {
      this.looking = resolve;
      this.read(across, down);
    });
  }

  stopReading(): void {
    this.pinned = false;
    this.reading = null;
    this.connection?.say({ do: 'read', across: null, down: null });
  }

  preview(patch: Operation[]): void {
    this.cached.clear();
    this.connection?.say({ do: 'preview', patch });
  }

  moveCamera(move: CameraMove): void {
    this.cached.clear();
    this.connection?.say({ do: 'camera', ...move });
  }

  /** How much memory computed values may take, in bytes. */
  setBudget(bytes: number): void {
    this.connection?.say({ do: 'budget', bytes });
  }

  /** Say who is here and what lies open, for others who have the shot open. */
  setPlace(place: string): void {
    if (place === this.place) return;
    this.place = place;
    this.sendHere();
  }

  sendHere(): void {
    this.connection?.say({ do: 'here', author: author(), window: windowId, place: this.place.slice(0, 200) });
  }

  private sendView(): void {
    this.replaying = false;
    const [width, height] = this.size;
    this.connection?.say({
      do: 'view',
      width,
      height,
      show: this.show,
      bench: this.open,
      frame: this.frame,
      viewing: this.viewing,
      chosen: this.chosen,
      cut: this.cut,
      fresh: false,
    });
    this.asked = { frame: this.frame, serial: this.connection?.lastSerial ?? 0 };
  }

  private take(message: ToPage): void {
    switch (message.kind) {
      case 'hello':
        this.session = message.session;
        this.restarting = false;
        return this.onRevision(message.revision);
      case 'revision':
        this.cached.clear();
        return message.restored ? this.onRestored() : this.onRevision(message.revision);
      case 'fault':
        this.fault = message;
        return;
      case 'presence':
        this.others = message.others;
        return;
      case 'bench':
        if (message.look === this.open.look && message.recipe === this.open.recipe) {
          this.bench = message;
          this.problems = [];
        }
        return;
      case 'sheet': {
        const kept = this.cellsOf === message.look ? { ...this.cells } : {};
        for (const cell of message.gone) delete kept[cell];
        this.cells = { ...kept, ...message.cells };
        this.cellsOf = message.look;
        return;
      }
      case 'camera':
        return this.onCamera(message.camera as Json);
      case 'problem':
        this.problems = message.problems;
        this.loading = null;
        this.working = null;
        return;
      case 'advice':
        this.advice = message.items as Advice[];
        return;
      case 'loading':
        if (!this.head) this.loading = message;
        return;
      case 'working':
        this.working = message;
        return;
      case 'memory':
        this.memory = message;
        return;
      case 'reading':
        if (this.looking) {
          const done = this.looking;
          this.looking = null;
          done(message.reading);
          this.connection?.say({ do: 'read', across: null, down: null });
          return;
        }
        this.reading = message.reading;
        if (message.reading) this.pinned = true;
        else if (message.missed && !this.pinned)
          notices.say('info', 'Nothing there to read', 'The picture shows only sky at that point.');
        return;
      case 'engine':
        this.setAside = message.state === 'set aside';
        this.restarting = !this.setAside;
        return notices.say(
          'warning',
          'The renderer stopped',
          'It is being started again. Nothing of the document is lost.',
        );
      case 'error':
        return notices.say('error', 'The server did not understand', message.detail);
    }
  }
}

export const live = new Live();
