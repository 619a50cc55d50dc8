/** How far a first visit is: kept by the browser, so that it is not told twice. */
const KEY = 'texallon first visit';
const DONE = 'done';

function kept(): string | null {
  try {
    return localStorage.getItem(KEY);
  } catch {
    return DONE;
  }
}

class FirstVisit {
  open = $state(kept() !== DONE);
  step = $state(Math.min(Math.max(Number(kept()) || 0, 0), 4));

  go(step: number): void {
    this.open = true;
    this.step = step;
    this.keep(String(step));
  }

  leave(): void {
    this.open = false;
    this.keep(DONE);
  }

  private keep(text: string): void {
    try {
      localStorage.setItem(KEY, text);
    } catch {
      // a browser that keeps nothing tells it again
    }
  }
}

export const firstVisit = new FirstVisit();
