/**
 * Which window this is. It stays through a reload, so that undo goes on; a new window takes the place of the last one that was closed, so that
 * whoever comes back tomorrow can still take back what was done today.
 */

const OWN = 'texallon-window';
const LAST = 'texallon-last-window';
const AUTHOR = 'texallon-author';

/** A window that has not been heard of for so long (ms) is closed. */
const GONE = 15_000;

type Last = { id: string; seen: number };

/** The id of a window that opens, given what is remembered of the last one. */
export function chosen(own: string | null, last: Last | null, now: number, fresh: () => string): string {
  if (own) return own;
  return last && now - last.seen > GONE ? last.id : fresh();
}

function remembered(): Last | null {
  try {
    const found = JSON.parse(localStorage.getItem(LAST) ?? 'null') as Partial<Last> | null;
    return found && typeof found.id === 'string' && /^[a-z0-9]{8,64}$/i.test(found.id)
      ? { id: found.id, seen: Number(found.seen) || 0 }
      : null;
  } catch {
    return null;
  }
}

function fresh(): string {
  return Array.from(crypto.getRandomValues(new Uint8Array(12)), (each) =>
    each.toString(16).padStart(2, '0'),
  ).join('');
}

export const windowId = chosen(sessionStorage.getItem(OWN), remembered(), Date.now(), fresh);
sessionStorage.setItem(OWN, windowId);

function heartbeat(): void {
  localStorage.setItem(LAST, JSON.stringify({ id: windowId, seen: Date.now() } satisfies Last));
}
heartbeat();
setInterval(heartbeat, 5000);

/** The name of the person, asked once for each browser. */
export function author(): string {
  return localStorage.getItem(AUTHOR) ?? '';
}

export function setAuthor(name: string): void {
  localStorage.setItem(AUTHOR, name.trim().slice(0, 80));
}
