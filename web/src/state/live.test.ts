import { beforeEach, expect, it, vi } from 'vitest';
import type { PictureHead } from '../api/live';
import type { Said } from './connection';

type Heard = {
  opened: () => void;
  picture: (picture: ImageBitmap, head: PictureHead) => void;
};

const said: Said[] = [];
let heard: Heard;
vi.mock('./connection', () => ({
  Connection: class {
    constructor(_shot: number, hears: Heard) {
      heard = hears;
    }
    get lastSerial(): number {
      return said.length;
    }
    say(message: Said): void {
      said.push(message);
    }
    close(): void {}
  },
}));
vi.mock('./window', () => ({ author: () => 'somebody', windowId: 'a' }));
vi.stubGlobal('createImageBitmap', async (picture: ImageBitmap) => picture);
const { live } = await import('./live.svelte');

const bitmap = { width: 2, height: 2, close: () => {} } as ImageBitmap;
const arrives = async (serial: number) => {
  heard.picture(bitmap, { serial } as PictureHead);
  await Promise.resolve();
};

beforeEach(() => {
  said.length = 0;
  live.connect(1);
  heard.opened(); // says what is seen and who is here
});

it('owes a picture until one comes that has taken in what was asked', async () => {
  expect(live.owed).toBe(true);
  await arrives(1);
  expect(live.owed).toBe(false);
  live.setFrame(2);
  expect(live.owed).toBe(true);
  await arrives(1); // was on its way
  expect(live.owed).toBe(true);
  await arrives(said.length);
  expect(live.owed).toBe(false);
});

it('owes no picture for saying who is here', async () => {
  await arrives(said.length);
  live.setPlace('a look');
  expect(live.owed).toBe(false);
});

it('hears what arrives while kept frames play, or playing would wait for ever', async () => {
  await arrives(said.length);
  live.setFrame(2);
  await arrives(said.length);
  live.setFrame(1); // its new picture is late …
  expect(live.replay(2)).toBe(true);
  await arrives(said.length); // … and comes while frame 2 is shown from what is kept
  expect(live.owed).toBe(false);
});

it('owes a picture while the connection is lost', () => {
  live.connected = false;
  expect(live.owed).toBe(true);
});
