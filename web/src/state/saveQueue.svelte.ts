/**
 * Changes on their way to the server, one after the other. While the server or its database does not answer they wait and are sent again:
 * nothing that was done is thrown away.
 */

export type Answer = { data?: unknown; error?: unknown; response?: Response };

/** Longest pause between tries, ms. */
const LONGEST = 8000;

export class SaveQueue {
  /** How many changes have not been answered yet. */
  length = $state(0);
  /** Why the first one waits; empty while it does not. */
  waiting = $state('');

  private line: Promise<void> = Promise.resolve();

  constructor(
    private readonly pause: (ms: number) => Promise<void> = (ms) =>
      new Promise((done) => setTimeout(done, ms)),
  ) {}

  /** Do something when all before it is done. */
  run(work: () => Promise<void>): Promise<void> {
    this.length += 1;
    this.line = this.line.then(work, work).finally(() => (this.length -= 1));
    return this.line;
  }

  /** When all that is in line now is done. */
  settled(): Promise<void> {
    return this.line.catch(() => undefined);
  }

  /** Ask until there is an answer. */
  async answer(ask: () => Promise<Answer>): Promise<Answer> {
    for (let tries = 0; ; tries += 1) {
      let wait = Math.min(500 * 2 ** tries, LONGEST);
      try {
        const answer = await ask();
        if (answer.response?.status !== 503) {
          this.waiting = '';
          return answer;
        }
        wait = Math.min((Number(answer.response.headers.get('Retry-After')) || 1) * 1000, LONGEST);
        this.waiting = 'the database is being started again';
      } catch {
        this.waiting = 'the server does not answer';
      }
      await this.pause(wait);
    }
  }
}
