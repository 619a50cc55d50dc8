/** How the screen is divided, and which parts of the set lie open: kept by the browser. */
const KEY = 'texallon layout';

type Kept = { set: boolean; setWidth: number; sheetWidth: number; dock: number | null; closed: string[] };

const USUAL: Kept = {
  set: false,
  setWidth: 270,
  sheetWidth: 500,
  dock: null,
  closed: ['bring in meshes', 'groups', 'light groups', 'sampling', 'this shot'],
};

/** What was kept, where it is of the right kinds; anything else is as usual. */
export function readLayout(text: string | null): Kept {
  try {
    const found = JSON.parse(text ?? '{}') as Partial<Kept>;
    const number = (value: unknown, usual: number, low: number, high: number) =>
      typeof value === 'number' && Number.isFinite(value) ? Math.min(Math.max(value, low), high) : usual;
    return {
      set: typeof found.set === 'boolean' ? found.set : USUAL.set,
      setWidth: number(found.setWidth, USUAL.setWidth, LIMITS.set[0], LIMITS.set[1]),
      sheetWidth: number(found.sheetWidth, USUAL.sheetWidth, LIMITS.sheet[0], LIMITS.sheet[1]),
      dock: typeof found.dock === 'number' ? number(found.dock, 0.4, LIMITS.dock[0], LIMITS.dock[1]) : null,
      closed: Array.isArray(found.closed)
        ? found.closed.filter((each) => typeof each === 'string')
        : USUAL.closed,
    };
  } catch {
    return USUAL;
  }
}

/** Least and most of what can be dragged: pixels, and the dock's share of the height. */
export const LIMITS = { set: [200, 520], sheet: [320, 900], dock: [0.08, 0.75] } as const;

class Layout {
  kept = $state<Kept>(readLayout(typeof localStorage === 'undefined' ? null : localStorage.getItem(KEY)));

  change(part: Partial<Kept>): void {
    this.kept = { ...this.kept, ...part };
    try {
      localStorage.setItem(KEY, JSON.stringify(this.kept));
    } catch {
      // a browser that keeps nothing
    }
  }

  isOpen(part: string): boolean {
    return !this.kept.closed.includes(part);
  }

  setOpen(part: string, open: boolean): void {
    if (this.isOpen(part) === open) return;
    const others = this.kept.closed.filter((each) => each !== part);
    this.change({ closed: open ? others : [...others, part] });
  }
}

export const layout = new Layout();
