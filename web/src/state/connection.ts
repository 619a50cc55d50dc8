/** One shot's live connection: opens, opens again, numbers what is said, and takes pictures apart. */
import { root } from '../api/root';
import type { FromPage, PictureHead, ToPage } from '../api/live';

type Unnumbered<T> = T extends { serial: number } ? Omit<T, 'serial'> : never;
export type Said = Unnumbered<FromPage>;

/** After this many tries in a row the pause between them grows no longer. */
const LONGEST = 6;

export class Connection {
  private socket: WebSocket | null = null;
  private serial = 0;
  private retry = 0;
  private decoding = 0;
  private closed = false;

  constructor(
    readonly shot: number,
    private readonly heard: {
      opened: () => void;
      lost: () => void;
      message: (message: ToPage) => void;
      picture: (picture: ImageBitmap, head: PictureHead) => void;
    },
  ) {
    this.open();
  }

  /** The number of the last thing said: a picture that carries it has taken it in. */
  get lastSerial(): number {
    return this.serial;
  }

  say(message: Said): void {
    if (this.socket?.readyState !== WebSocket.OPEN) return;
    this.serial += 1;
    this.socket.send(JSON.stringify({ ...message, serial: this.serial }));
  }

  /** Nothing is heard from here on, whatever is still on its way. */
  close(): void {
    this.closed = true;
    this.socket?.close();
  }

  private open(): void {
    const scheme = location.protocol === 'https:' ? 'wss' : 'ws';
    const socket = new WebSocket(`${scheme}://${location.host}${root}/api/live/${this.shot}`);
    socket.binaryType = 'arraybuffer';
    socket.onopen = () => {
      this.retry = 0;
      if (!this.closed) this.heard.opened();
    };
    socket.onmessage = (event: MessageEvent<string | ArrayBuffer>) => {
      if (this.closed) return;
      if (typeof event.data === 'string') this.take(JSON.parse(event.data) as ToPage);
      else void this.takePicture(event.data);
    };
    socket.onclose = () => {
      if (this.closed) return;
      this.heard.lost();
      this.retry = Math.min(this.retry + 1, LONGEST);
      setTimeout(() => this.closed || this.open(), 250 * 2 ** this.retry);
    };
    this.socket = socket;
  }

  /** What is about another shot came too late. */
  private take(message: ToPage): void {
    if (message.shot === this.shot || message.shot === 0) this.heard.message(message);
  }

  private async takePicture(data: ArrayBuffer): Promise<void> {
    const size = new DataView(data).getUint32(0, true);
    const head = JSON.parse(new TextDecoder().decode(new Uint8Array(data, 4, size))) as PictureHead;
    if (head.shot !== this.shot) return;
    const turn = ++this.decoding;
    const bitmap = await createImageBitmap(
      new Blob([new Uint8Array(data, 4 + size)], { type: 'image/jpeg' }),
    );
    const late = this.closed || turn < this.decoding - 2; // newer ones are already on their way
    if (!late) this.heard.picture(bitmap, head);
    bitmap.close();
  }
}
