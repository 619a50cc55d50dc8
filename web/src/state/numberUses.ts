/** Named numbers in members outside of recipes: a lamp's power, a placement, the lens. Each use says its place by ids. */
import type { NamedNumber, NumberUse, Operation, Shot } from '../api/client';
import { pathById } from './addressing';
import { parts, pointer } from './pointer';

/** Members of a shot in which numbers may be named. */
const PLACES = ['camera', 'environment', 'bloom', 'lights', 'locators', 'object_groups', 'objects'];

export const canNameNumber = (path: string) => PLACES.includes(parts(path)[0] ?? '');

/** The use of a number at a place that is given by positions, and where it stands in the list. */
export function useAt(document: Shot, path: string): { use: NumberUse; index: number } | null {
  if (!document.number_uses.length) return null;
  const at = pathById(document, path);
  const index = document.number_uses.findIndex((each) => each.at === at);
  const use = document.number_uses[index];
  return use ? { use, index } : null;
}

/** What a number's use makes of it. */
export function valueOf(use: { times?: number; plus?: number }, number: NamedNumber | undefined): number {
  return (number?.value ?? 0) * (use.times ?? 1) + (use.plus ?? 0);
}

/** Have a place take a named number; or, where none is chosen, the number that it had through one. */
export function choosing(document: Shot, path: string, name: string | null): Operation[] {
  const found = useAt(document, path);
  if (name !== null && found)
    return [{ op: 'replace', path: pointer('number_uses', found.index, 'number'), value: name }];
  if (name !== null)
    return [{ op: 'add', path: '/number_uses/-', value: { at: pathById(document, path), number: name } }];
  if (!found) return [];
  const number = document.numbers.find((each) => each.name === found.use.number);
  return [
    { op: 'replace', path, value: valueOf(found.use, number) },
    { op: 'remove', path: pointer('number_uses', found.index) },
  ];
}

/** Uses and tracks whose place is gone, taken away: the last one first, so that positions stay. */
export function withoutLost(document: Shot): Operation[] {
  const made: Operation[] = [];
  document.tracks?.forEach((track, index) => {
    if (!leadsSomewhere(document, track.at)) made.unshift({ op: 'remove', path: pointer('tracks', index) });
  });
  document.number_uses.forEach((use, index) => {
    if (!leadsSomewhere(document, use.at))
      made.unshift({ op: 'remove', path: pointer('number_uses', index) });
  });
  return made;
}

function leadsSomewhere(document: Shot, path: string): boolean {
  let here: unknown = document;
  for (const token of parts(path)) {
    if (Array.isArray(here))
      here = here.find((each, at) => (each as { id?: string } | null)?.id === token || String(at) === token);
    else if (here !== null && typeof here === 'object') here = (here as Record<string, unknown>)[token];
    else return false;
    if (here === undefined) return false;
  }
  return true;
}

/** The place of a use in words: what it belongs to, and the member. */
export function wordsOf(document: Shot, at: string): string {
  let here: unknown = document;
  const words: string[] = [];
  for (const token of parts(at)) {
    const listed = Array.isArray(here);
    if (Array.isArray(here))
      here = here.find((each, index) => (each as { id?: string })?.id === token || String(index) === token);
    else here = (here as Record<string, unknown> | undefined)?.[token];
    const name = (here as { name?: string } | undefined)?.name;
    if (listed && name) words.push(name);
    else if (listed) words.push('xyz'[Number(token)] ?? token);
    else if (!Array.isArray(here) || words.length) words.push(token.replace('_', ' '));
  }
  return words.join(' · ');
}
