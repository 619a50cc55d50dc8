/** Ops that a person uses: those picked last, and favourites; kept by the browser. */
const KEPT = 'texallon-picked-ops';
const MOST = 6;

type Kept = { last: string[]; favourites: string[] };

function read(): Kept {
  try {
    const found = JSON.parse(localStorage.getItem(KEPT) ?? '{}') as Partial<Kept>;
    const names = (value: unknown) =>
      Array.isArray(value) ? value.filter((each): each is string => typeof each === 'string') : [];
    return { last: names(found.last), favourites: names(found.favourites) };
  } catch {
    return { last: [], favourites: [] };
  }
}

/** A name put first in a list of some length. */
export function putFirst(names: readonly string[], name: string, most: number): string[] {
  return [name, ...names.filter((each) => each !== name)].slice(0, most);
}

class PickedOps {
  private kept = $state.raw<Kept>(read());

  get last(): string[] {
    return this.kept.last;
  }

  get favourites(): string[] {
    return this.kept.favourites;
  }

  /** Remember that an op was picked. */
  picked(name: string): void {
    this.keep({ ...this.kept, last: putFirst(this.kept.last, name, MOST) });
  }

  /** Make an op a favourite, or no longer. */
  toggle(name: string): void {
    const { favourites } = this.kept;
    const without = favourites.filter((each) => each !== name);
    this.keep({
      ...this.kept,
      favourites: without.length < favourites.length ? without : [...favourites, name],
    });
  }

  private keep(next: Kept): void {
    this.kept = next;
    try {
      localStorage.setItem(KEPT, JSON.stringify(next));
    } catch {
      // A browser that keeps nothing still shows them until the page is left.
    }
  }
}

export const pickedOps = new PickedOps();
