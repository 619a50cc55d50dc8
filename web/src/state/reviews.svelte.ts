/** Review sheets that were asked for in this window, and how far they are. */
import { client, type Review } from '../api/client';

class Reviews {
  list = $state.raw<Review[]>([]);

  /** The newest of a shot's look. */
  of(shot: number, look: string): Review | null {
    return this.list.findLast((each) => each.shot === shot && each.look === look) ?? null;
  }

  keep(review: Review): void {
    const known = this.list.some((each) => each.id === review.id);
    this.list = known
      ? this.list.map((each) => (each.id === review.id ? review : each))
      : [...this.list, review];
  }

  /** Ask how far those are that are being made. */
  async watch(): Promise<void> {
    for (const each of this.list) {
      if (each.ready || each.failed) continue;
      const { data, response } = await client.GET('/api/reviews/{review_id}', {
        params: { path: { review_id: each.id } },
      });
      if (data) this.keep(data);
      else if (response.status === 404)
        this.keep({ ...each, failed: 'the server was started anew; make it again' });
    }
  }

  async stop(id: string): Promise<void> {
    await client.DELETE('/api/reviews/{review_id}', { params: { path: { review_id: id } } });
    await this.watch();
  }
}

export const reviews = new Reviews();
