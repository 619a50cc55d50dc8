/** Named numbers: made, renamed and taken away with everything that uses them. */
import type { Json, Operation, Shot } from '../api/client';
import { pointer } from './pointer';
import { freeName } from './setEdits';

export type NumberRef = { number: string; times?: number; plus?: number };

export function isNumberRef(value: Json | undefined): value is NumberRef {
  return (
    value !== null &&
    typeof value === 'object' &&
    !Array.isArray(value) &&
    typeof value['number'] === 'string'
  );
}

/** Where parameters use a number: the place in the document, and what stands there. */
export function usesOfNumber(document: Shot, name: string): { path: (string | number)[]; ref: NumberRef }[] {
  const found: { path: (string | number)[]; ref: NumberRef }[] = [];
  const walk = (part: Json, path: (string | number)[]) => {
    if (Array.isArray(part)) part.forEach((each, index) => walk(each, [...path, index]));
    else if (isNumberRef(part)) {
      if (part.number === name) found.push({ path, ref: part });
    } else if (part !== null && typeof part === 'object')
      for (const key of Object.keys(part)) walk((part as Record<string, Json>)[key] ?? null, [...path, key]);
  };
  walk(document.looks as unknown as Json, ['looks']);
  walk(document.signals as unknown as Json, ['signals']);
  return found;
}

export function addedNumber(document: Shot, look: string): { name: string; patch: Operation[] } {
  const name = freeName(
    'number',
    document.numbers.map((each) => each.name),
  );
  return { name, patch: [{ op: 'add', path: '/numbers/-', value: { name, value: 1, look } }] };
}

export function renamedNumber(
  document: Shot,
  index: number,
  wanted: string,
): { name: string; patch: Operation[] } {
  const old = document.numbers[index]?.name ?? '';
  const name = freeName(
    wanted,
    document.numbers.map((each) => each.name).filter((each) => each !== old),
  );
  const uses = usesOfNumber(document, old).map((use): Operation => ({
    op: 'replace',
    path: pointer(...use.path, 'number'),
    value: name,
  }));
  return { name, patch: [{ op: 'replace', path: pointer('numbers', index, 'name'), value: name }, ...uses] };
}

/** Taken away: what used it keeps the value that it had. */
export function removedNumber(document: Shot, index: number): Operation[] {
  const number = document.numbers[index];
  if (!number) return [];
  const uses = usesOfNumber(document, number.name).map((use): Operation => ({
    op: 'replace',
    path: pointer(...use.path),
    value: number.value * (use.ref.times ?? 1) + (use.ref.plus ?? 0),
  }));
  return [...uses, { op: 'remove', path: pointer('numbers', index) }];
}
