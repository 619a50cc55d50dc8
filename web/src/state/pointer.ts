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
