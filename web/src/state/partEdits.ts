/** What a part of an object wears: a look of its own, or what the whole does. */
import type { Operation, Shot } from '../api/client';
import { pointer } from './pointer';

type Item = Shot['objects'][number];

export function wornBy(item: Item, part: string): string {
  return item.parts.find((each) => each.name === part)?.look ?? '';
}

/** The operations by which a part wears a look; with none it wears what the whole does. */
export function dressed(item: Item, index: number, part: string, look: string): Operation[] {
  const at = item.parts.findIndex((each) => each.name === part);
  const path = pointer('objects', index, 'parts', at);
  if (at < 0)
    return look
      ? [{ op: 'add', path: pointer('objects', index, 'parts', '-'), value: { name: part, look } }]
      : [];
  return look ? [{ op: 'replace', path: `${path}/look`, value: look }] : [{ op: 'remove', path }];
}

/** How the history tells of it. */
export const dressedWords = (item: Item, part: string, look: string) =>
  `${part} of ${item.name} wears ${look || 'what the whole does'}`;
