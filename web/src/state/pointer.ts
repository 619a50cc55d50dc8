/** JSON Pointers (RFC 6901), and replacing a value in a document without touching the original. */
import type { Json, Operation } from '../api/client';

export function pointer(...path: (string | number)[]): string {
  return path.map((part) => '/' + String(part).replaceAll('~', '~0').replaceAll('/', '~1')).join('');
}

function parts(path: string): string[] {
  return path
    .split('/')
    .slice(1)
    .map((part) => part.replaceAll('~1', '/').replaceAll('~0', '~'));
}

function replaced(value: Json, path: string[], next: Json): Json {
  const [first, ...rest] = path;
  if (first === undefined) return next;
  if (Array.isArray(value)) {
    return value.map((item, index) => (String(index) === first ? replaced(item, rest, next) : item));
  }
  if (value !== null && typeof value === 'object') {
    return { ...value, [first]: replaced(value[first] ?? null, rest, next) };
  }
  return value;
}

/** The document as it will be; what is being dragged only ever sets values. */
export function withDraft<T>(document: T, draft: Operation[]): T {
  return draft.reduce<Json>(
    (result, operation) => replaced(result, parts(operation.path), operation.value ?? null),
    document as Json,
  ) as T;
}
