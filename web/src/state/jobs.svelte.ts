/** What is rendered in the background for this window's shots, and how far it is. */
import { client, type Job } from '../api/client';
import { root } from '../api/root';

class Jobs {
  list = $state.raw<Job[]>([]);

  /** The newest of a kind of a shot: of a look, or of a frame. */
  of(kind: string, shot: number, what: string): Job | null {
    return (
      this.list.findLast((each) => each.kind === kind && each.shot === shot && each.what === what) ?? null
    );
  }

  /** Learn what was begun before, here or in another window. */
  async load(shot: number): Promise<void> {
    const { data } = await client.GET('/api/shots/{shot_id}/jobs', { params: { path: { shot_id: shot } } });
    for (const job of data?.jobs ?? []) this.keep(job);
  }

  keep(job: Job): void {
    const known = this.list.some((each) => each.id === job.id);
    this.list = known ? this.list.map((each) => (each.id === job.id ? job : each)) : [...this.list, job];
  }

  /** Ask how far those are that are being made. */
  async watch(): Promise<void> {
    for (const each of this.list) {
      if (each.ready || each.failed) continue;
      const { data, response } = await client.GET('/api/jobs/{job_id}', {
        params: { path: { job_id: each.id } },
      });
      if (data) this.keep(data);
      else if (response.status === 404)
        this.keep({ ...each, failed: 'the server was started anew; begin it again' });
    }
  }

  async stop(id: string): Promise<void> {
    await client.DELETE('/api/jobs/{job_id}', { params: { path: { job_id: id } } });
    await this.watch();
  }

  /** Where a file of a job is fetched. */
  file(job: Job, name: string): string {
    return `${root}/api/jobs/${job.id}/files/${name}`;
  }
}

export const jobs = new Jobs();
