/** Named numbers: made, renamed and taken away with everything that uses them. */
import type { Json, Operation, Shot } from '../api/client';
import { pathByPosition } from './addressing';
import { valueOf } from './numberUses';
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

const CALL = /\bnumber\(\s*(["'])((?:(?!\1).)*)\1\s*\)/g;

/** A formula with something else in the place of a number that it names. */
export const formulaWith = (text: string, name: string, written: string) =>
  text.replace(CALL, (found, _quote, own) => (own === name ? written : found));

/** Formulas that name a number: the place in the document, and the text. */
export function formulasWith(document: Shot, name: string): { path: (string | number)[]; text: string }[] {
  const found: { path: (string | number)[]; text: string }[] = [];
  const walk = (part: Json, path: (string | number)[]) => {
    if (part === null || typeof part !== 'object') return;
    for (const [key, each] of Object.entries(part)) {
      const here = [...path, Array.isArray(part) ? Number(key) : key];
      if (key === 'expression' && typeof each === 'string') {
        if (formulaWith(each, name, '') !== each) found.push({ path: here, text: each });
      } else walk(each as Json, here);
    }
  };
  walk(document.looks as unknown as Json, ['looks']);
  walk(document.signals as unknown as Json, ['signals']);
  return found;
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

export function addedNumber(document: Shot, look: string | null): { name: string; patch: Operation[] } {
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
  const formulas = formulasWith(document, old).map((use): Operation => ({
    op: 'replace',
    path: pointer(...use.path),
    value: formulaWith(use.text, old, `number("${name}")`),
  }));
  document.number_uses.forEach((use, at) => {
    if (use.number === old)
      uses.push({ op: 'replace', path: pointer('number_uses', at, 'number'), value: name });
  });
  return {
    name,
    patch: [{ op: 'replace', path: pointer('numbers', index, 'name'), value: name }, ...uses, ...formulas],
  };
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
  const formulas = formulasWith(document, number.name).map((use): Operation => ({
    op: 'replace',
    path: pointer(...use.path),
    value: formulaWith(use.text, number.name, String(number.value)),
  }));
  // Those outside of recipes go from the last to the first: positions of the others stay.
  const outside = document.number_uses
    .map((use, at) => ({ use, at }))
    .filter(({ use }) => use.number === number.name)
    .reverse()
    .flatMap(({ use, at }): Operation[] => {
      const path = pathByPosition(document, use.at);
      const kept: Operation[] = path ? [{ op: 'replace', path, value: valueOf(use, number) }] : [];
      return [...kept, { op: 'remove', path: pointer('number_uses', at) }];
    });
  return [...uses, ...formulas, ...outside, { op: 'remove', path: pointer('numbers', index) }];
}
