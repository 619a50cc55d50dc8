/** The live connection: what the person does goes out, pictures and measurements come in. */
import type { Json, Operation } from '../api/client';
import { notices } from './notices.svelte';

export type Place = string[];
export type Show = {
  kind: 'picture' | 'mask' | 'channel' | 'step';
  look: string;
  place: Place;
  step: number | null;
  channel: string;
  style: Style;
};
export type Style = 'grey' | 'false colour' | 'lines';
export const STYLES: Style[] = ['grey', 'false colour', 'lines'];
export const PICTURE: Show = {
  kind: 'picture',
  look: '',
  place: [],
  step: null,
  channel: '',
  style: 'grey',
};

export type Handle = {
  name: string;
  at: [number, number];
  axes: Record<'x' | 'y' | 'z', [number, number]>;
  ring: [number, number][];
};

export type PictureHead = {
  kind: 'picture';
  stage: 'coarse' | 'half' | 'full';
  samples: number;
  seconds: number;
  /** Seconds until the picture is finished, at most. */
  left: number | null;
  finished: boolean;
  width: number;
  height: number;
  serial: number;
  revision: number;
  show: Show;
  range: { low: number; high: number; step: number } | null;
  /** A strip of the tones that stand for the range, as a data address. */
  scale: string;
  handles: Handle[];
};

export type Values = {
  count: number;
  low: number;
  mean: number;
  high: number;
  counts: number[];
  not_finite: number;
  inner_low: number;
  inner_high: number;
  negative: number;
  nan: number;
};

/** What a step does to values: what comes out for even steps of what goes in, from `low` to `high`. */
export type Response = { low: number; high: number; values: number[] };

export type StepMeasure = {
  picture: string;
  incoming: Values | null;
  values: Values | null;
  covered: number;
  colour: boolean;
  response: Response | null;
};

export type Cell = {
  picture: string;
  mean: number[];
  /** Where values go beyond the channel's range: what they are held at, and what was asked for. */
  held?: { at: number; asked: number };
};
export type DocumentProblem = { pointer: string; reason: string; hint: string; character: number | null };

/** A value along the way; what is not finite comes as a word. */
export type Value = (number | string)[];
export type StepReading = {
  op: string;
  on: boolean;
  space: boolean;
  value: Value;
  reason: string;
  decided: boolean;
};
export type LayerReading = {
  name: string;
  on: boolean;
  mask: StepReading[];
  weight: number | string;
  channels: {
    name: string;
    label: string;
    blend: string;
    value: Value;
    after: Value;
    steps: StepReading[];
  }[];
};
export type Reading = {
  object: string;
  look: string;
  position: number[];
  at: [number, number] | null;
  depth: number;
  /** Scene-linear light of the picture there. */
  light: number[] | null;
  layers: LayerReading[];
  channels: {
    name: string;
    label: string;
    unit: string;
    value: Value;
    layer: string;
    /** What the layers ask for, where it is beyond the channel's range. */
    asked: Value;
  }[];
};

export type Region = [left: number, top: number, right: number, bottom: number];
export type Viewing = {
  view: string;
  exposure: number;
  gamma: number;
  /** The part of the picture that is worked on, 0…1; nothing is the whole. */
  region: Region | null;
  paused: boolean;
};
export const AS_IT_IS: Viewing = { view: '', exposure: 0, gamma: 1, region: null, paused: false };

export type Advice = {
  rule: string;
  severity: 'error' | 'warning' | 'note';
  look: string;
  place: Place;
  step: number | null;
  reason: string;
  fix: { label: string; patch: Operation[] } | null;
};

type Incoming =
  | { kind: 'hello'; session: string; revision: number }
  | { kind: 'revision'; revision: number }
  | { kind: 'bench'; place: Place; look: string; steps: StepMeasure[]; serial: number }
  | { kind: 'sheet'; look: string; cells: Record<string, Cell>; gone: string[] }
  | { kind: 'camera'; camera: Json }
  | { kind: 'problem'; problems: DocumentProblem[]; serial: number }
  | { kind: 'reading'; reading: Reading | null; missed?: boolean }
  | { kind: 'advice'; items: Advice[] }
  | { kind: 'engine'; state: string }
  | { kind: 'error'; detail: string };

export type CameraMove = {
  move: 'orbit' | 'pan' | 'dolly' | 'fly';
  across: number;
  down: number;
  end: boolean;
};

class Live {
  connected = $state(false);
  restarting = $state(false);
  session = $state('');
  head = $state.raw<PictureHead | null>(null);
  bench = $state.raw<{ look: string; place: Place; steps: StepMeasure[] } | null>(null);
  cells = $state.raw<Record<string, Cell>>({});
  cellsOf = $state('');
  problems = $state.raw<DocumentProblem[]>([]);
  show = $state.raw<Show>(PICTURE);
  reading = $state.raw<Reading | null>(null);
  advice = $state.raw<Advice[]>([]);
  frame = $state<number | null>(null);
  /** How this window looks at the picture; nothing of it is saved. */
  viewing = $state.raw<Viewing>(AS_IT_IS);
  /** Whether a point is pinned, also while it is out of sight. */
  pinned = $state(false);

  /** Called with every new picture, already decoded. */
  onPicture: (picture: ImageBitmap, head: PictureHead) => void = () => {};
  onRevision: (revision: number) => void = () => {};
  onCamera: (camera: Json) => void = () => {};

  private socket: WebSocket | null = null;
  private serial = 0;
  private size: [number, number] = [640, 360];
  private open: { look: string; place: Place } = { look: '', place: [] };
  private shotId = 0;
  private decoding = 0;
  private retry = 0;

  connect(shotId: number): void {
    this.shotId = shotId;
    this.socket?.close();
    this.cells = {};
    this.bench = null;
    this.reading = null;
    this.pinned = false;
    this.advice = [];
    const scheme = location.protocol === 'https:' ? 'wss' : 'ws';
    const socket = new WebSocket(`${scheme}://${location.host}/api/live/${shotId}`);
    socket.binaryType = 'arraybuffer';
    socket.onopen = () => {
      this.connected = true;
      this.retry = 0;
      this.sendView();
    };
    socket.onmessage = (event: MessageEvent<string | ArrayBuffer>) => {
      if (typeof event.data === 'string') this.take(JSON.parse(event.data) as Incoming);
      else void this.takePicture(event.data);
    };
    socket.onclose = () => {
      if (this.socket !== socket) return;
      this.connected = false;
      this.retry = Math.min(this.retry + 1, 6);
      setTimeout(() => this.socket === socket && this.connect(this.shotId), 250 * 2 ** this.retry);
    };
    this.socket = socket;
  }

  /** The serial of the last thing sent: a picture that carries it has taken it in. */
  get lastSerial(): number {
    return this.serial;
  }

  setSize(width: number, height: number): void {
    if (width === this.size[0] && height === this.size[1]) return;
    this.size = [width, height];
    this.sendView();
  }

  setShow(show: Show): void {
    this.show = show;
    this.sendView();
  }

  setOpen(look: string, place: Place): void {
    if (this.open.look === look && this.open.place.join('/') === place.join('/')) return;
    if (this.open.look !== look) this.cells = {};
    this.open = { look, place };
    this.bench = null;
    this.sendView();
  }

  setFrame(frame: number): void {
    if (frame === this.frame) return;
    this.frame = frame;
    this.sendView();
  }

  setViewing(viewing: Viewing): void {
    this.viewing = viewing;
    this.sendView();
  }

  /** Read the point under a place of the stage, 0…1 from its top left. */
  read(across: number, down: number): void {
    this.send({ do: 'read', across, down });
  }

  stopReading(): void {
    this.pinned = false;
    this.reading = null;
    this.send({ do: 'read' });
  }

  preview(patch: Operation[]): void {
    this.send({ do: 'preview', patch: patch as unknown as Json });
  }

  moveCamera(move: CameraMove): void {
    this.send({ do: 'camera', ...move });
  }

  private sendView(): void {
    const [width, height] = this.size;
    this.send({
      do: 'view',
      width,
      height,
      show: this.show,
      bench: this.open,
      frame: this.frame,
      viewing: this.viewing,
    });
  }

  private send(message: Record<string, Json>): void {
    if (this.socket?.readyState !== WebSocket.OPEN) return;
    this.serial += 1;
    this.socket.send(JSON.stringify({ ...message, serial: this.serial }));
  }

  private take(message: Incoming): void {
    if (message.kind === 'hello') {
      this.session = message.session;
      this.restarting = false;
      this.onRevision(message.revision);
    } else if (message.kind === 'revision') this.onRevision(message.revision);
    else if (message.kind === 'bench') {
      if (message.look === this.open.look && message.place.join('/') === this.open.place.join('/')) {
        this.bench = message;
        this.problems = [];
      }
    } else if (message.kind === 'sheet') {
      const kept = this.cellsOf === message.look ? { ...this.cells } : {};
      for (const cell of message.gone) delete kept[cell];
      this.cells = { ...kept, ...message.cells };
      this.cellsOf = message.look;
    } else if (message.kind === 'camera') this.onCamera(message.camera);
    else if (message.kind === 'problem') this.problems = message.problems;
    else if (message.kind === 'advice') this.advice = message.items;
    else if (message.kind === 'reading') {
      this.reading = message.reading;
      if (message.reading) this.pinned = true;
      else if (message.missed && !this.pinned)
        notices.say('info', 'Nothing there to read', 'The picture shows only sky at that point.');
    } else if (message.kind === 'engine') {
      this.restarting = true;
      notices.say(
        'warning',
        'The renderer stopped',
        'It is being started again. Nothing of the document is lost.',
      );
    } else if (message.kind === 'error')
      notices.say('error', 'The server did not understand', message.detail);
  }

  private async takePicture(data: ArrayBuffer): Promise<void> {
    const size = new DataView(data).getUint32(0, true);
    const head = JSON.parse(new TextDecoder().decode(new Uint8Array(data, 4, size))) as PictureHead;
    const turn = ++this.decoding;
    const bitmap = await createImageBitmap(
      new Blob([new Uint8Array(data, 4 + size)], { type: 'image/jpeg' }),
    );
    if (turn < this.decoding - 2) return; // newer ones are already on their way
    this.restarting = false;
    this.problems = [];
    this.head = head;
    this.onPicture(bitmap, head);
    bitmap.close();
  }
}

export const live = new Live();
