/** JSON Pointers (RFC 6901). */

export function pointer(...path: (string | number)[]): string {
  return path.map((part) => '/' + String(part).replaceAll('~', '~0').replaceAll('/', '~1')).join('');
}

export function parts(path: string): string[] {
  return path
    .split('/')
    .slice(1)
    .map((part) => part.replaceAll('~1', '/').replaceAll('~0', '~'));
}

/** What stands at a place that is given by positions; nothing where there is nothing. */
export function valueAt(document: unknown, path: string): unknown {
  let here = document;
  for (const token of parts(path)) {
    if (here === null || typeof here !== 'object') return undefined;
    here = Array.isArray(here) ? here[Number(token)] : (here as Record<string, unknown>)[token];
  }
  return here;
}
