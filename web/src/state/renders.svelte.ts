/** Orders for frames, of all shots: what they are and how far, asked for while anybody looks. */
import { client, type Estimate, type Farm, type Render, type RenderOrder } from '../api/client';
import { root } from '../api/root';
import { notices } from './notices.svelte';

const QUICK = 1000;
const SLOW = 5000;
/** Orders that are listed at first, and at most. */
const FEW = 20;
const MOST = 500;

class Renders {
  list = $state.raw<Render[]>([]);
  farm = $state.raw<Farm | null>(null);
  /** Whether the list was ever read. */
  known = $state(false);
  #count = $state(FEW);
  #listed = 0;
  #watchers = 0;
  #timer = 0;

  /** Look after the list for as long as the answer has not been called. */
  watch(): () => void {
    this.#watchers += 1;
    this.#listed = 0;
    window.clearTimeout(this.#timer);
    void this.#round();
    return () => {
      this.#watchers -= 1;
      if (!this.#watchers) window.clearTimeout(this.#timer);
    };
  }

  async #round(): Promise<void> {
    const now = Date.now();
    try {
      if (now - this.#listed >= SLOW) await this.load();
      else await this.#follow();
    } catch {
      // the server is away for a moment; the next round asks again
    }
    if (!this.#watchers) return;
    this.#timer = window.setTimeout(() => void this.#round(), this.#busy.length ? QUICK : SLOW);
  }

  get #busy(): Render[] {
    return this.list.filter((each) => !each.over && each.state === 'going');
  }

  /** Read the list of orders. */
  async load(): Promise<void> {
    this.#listed = Date.now();
    const [orders, farm] = await Promise.all([
      client.GET('/api/renders', { params: { query: { count: this.#count } } }),
      client.GET('/api/farm'),
    ]);
    if (orders.data) this.list = orders.data.renders;
    if (farm.data) this.farm = farm.data;
    this.known = true;
  }

  /** Read again only the orders that go on. */
  async #follow(): Promise<void> {
    const found = await Promise.all(
      this.#busy.map((each) =>
        client.GET('/api/renders/{render_id}', { params: { path: { render_id: each.id } } }),
      ),
    );
    for (const { data } of found) if (data) this.#keep(data);
  }

  /** Whether there may be older orders than those that are listed. */
  get more(): boolean {
    return this.list.length >= this.#count && this.#count < MOST;
  }

  showMore(): void {
    this.#count = Math.min(2 * this.#count, MOST);
    void this.load();
  }

  /** The newest order of a shot. */
  newest(shot: number): Render | null {
    return this.list.find((each) => each.shot_id === shot) ?? null;
  }

  async order(shot: number, order: RenderOrder): Promise<Render | null> {
    const { data, error } = await client.POST('/api/shots/{shot_id}/renders', {
      params: { path: { shot_id: shot } },
      body: order,
    });
    if (data) this.#keep(data);
    else notices.say('error', 'Nothing was ordered', words(error));
    this.#soon();
    return data ?? null;
  }

  /** What an order would take; waits until a worker has tried it. */
  async estimate(shot: number, order: RenderOrder): Promise<Estimate | null> {
    const { data, error } = await client.POST('/api/shots/{shot_id}/render-estimates', {
      params: { path: { shot_id: shot } },
      body: order,
    });
    if (!data) notices.say('error', 'No estimate', words(error));
    return data ?? null;
  }

  async change(render: Render, change: { state?: Render['state']; priority?: number }): Promise<void> {
    const { data, error } = await client.PATCH('/api/renders/{render_id}', {
      params: { path: { render_id: render.id } },
      body: { state: null, priority: null, ...change },
    });
    if (data) this.#keep(data);
    else notices.say('error', 'The order was not changed', words(error));
    this.#soon();
  }

  /** Frames again: those that are named, else those that failed or were stopped. */
  async again(render: Render, frames: number[] = []): Promise<void> {
    const { data, error } = await client.POST('/api/renders/{render_id}/again', {
      params: { path: { render_id: render.id } },
      body: { frames },
    });
    if (data) this.#keep(data);
    else notices.say('error', 'Nothing was begun again', words(error));
    this.#soon();
  }

  async remove(render: Render): Promise<void> {
    await client.DELETE('/api/renders/{render_id}', { params: { path: { render_id: render.id } } });
    this.list = this.list.filter((each) => each.id !== render.id);
  }

  /** Where something of an order is fetched. */
  at(render: Render, what: string): string {
    return `${root}/api/renders/${render.id}/${what}`;
  }

  #keep(render: Render): void {
    const known = this.list.some((each) => each.id === render.id);
    this.list = known
      ? this.list.map((each) => (each.id === render.id ? render : each))
      : [render, ...this.list];
  }

  /** Look again before long, at the list as well. */
  #soon(): void {
    if (!this.#watchers) return;
    this.#listed = 0;
    window.clearTimeout(this.#timer);
    this.#timer = window.setTimeout(() => void this.#round(), QUICK);
  }
}

function words(error: unknown): string {
  const problem = error as { detail?: string; problems?: { reason: string }[] } | undefined;
  return problem?.detail || problem?.problems?.[0]?.reason || '';
}

export const renders = new Renders();
