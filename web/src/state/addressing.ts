/** Patches that mean what they name: positions in lists are exchanged for the ids of what stands there. */
import { immutableJSONPatch, type JSONPatchDocument } from 'immutable-json-patch';
import type { Operation } from '../api/client';
import { parts, pointer } from './pointer';

type Member = { id?: string };

/** The value that leads on from a place; nothing where there is none. */
function inner(value: unknown, token: string): unknown {
  if (Array.isArray(value)) return value[Number(token)];
  if (value !== null && typeof value === 'object') return (value as Record<string, unknown>)[token];
  return undefined;
}

/** A pointer by ids. At a list's end, or where something has no id yet, a position stays. */
export function pathById(document: unknown, path: string): string {
  let here: unknown = document;
  const tokens = parts(path).map((token) => {
    const next = inner(here, token);
    const id = Array.isArray(here) ? (next as Member | undefined)?.id : undefined;
    const atEnd = Array.isArray(here) && Number(token) === here.length;
    here = next;
    return atEnd ? '-' : id || token;
  });
  return pointer(...tokens);
}

/** The same patch by ids: each operation is read against what those before it have made of the document. */
export function patchById(document: unknown, patch: Operation[]): Operation[] {
  let now: unknown = document;
  return patch.map((operation) => {
    // What a move takes away first counts no more where it is put.
    const target =
      operation.op === 'move' && operation.from
        ? immutableJSONPatch<unknown>(now, [{ op: 'remove', path: operation.from }])
        : now;
    const made: Operation = { ...operation, path: pathById(target, operation.path) };
    if (operation.from !== undefined) made.from = pathById(now, operation.from);
    now = applied(now, [operation]);
    return made;
  });
}

/** A document after a patch, sharing with the one before whatever did not change. */
export function applied<T>(document: T, patch: Operation[]): T {
  return immutableJSONPatch<T, T>(document, patch as JSONPatchDocument);
}

/** The same patch by positions, for where its list members stand now; `null` where something it names is gone. */
export function patchByPosition(document: unknown, patch: Operation[]): Operation[] | null {
  let now: unknown = document;
  const made: Operation[] = [];
  for (const operation of patch) {
    const path = pathByPosition(now, operation.path);
    const from = operation.from === undefined ? undefined : pathByPosition(now, operation.from);
    if (path === null || from === null) return null;
    const next: Operation = { ...operation, path, ...(from === undefined ? {} : { from }) };
    made.push(next);
    now = applied(now, [next]);
  }
  return made;
}

/** The same pointer by positions, for where things stand now; `null` where something it names is gone. */
export function pathByPosition(document: unknown, path: string): string | null {
  let here: unknown = document;
  const tokens: string[] = [];
  for (const token of parts(path)) {
    let at = token;
    if (Array.isArray(here) && /^[a-z]/i.test(token)) {
      const found = here.findIndex((each: Member | undefined) => each?.id === token);
      if (found < 0) return null;
      at = String(found);
    }
    tokens.push(at);
    here = inner(here, at);
  }
  return pointer(...tokens);
}
