/** The projects, and the shots of the one that is looked into: what there is, and what can be done to them. */
import { client, type ListedProject, type ListedShot, type Problem } from '../api/client';
import { send } from '../api/send';
import { notices } from '../state/notices.svelte';
import { shot } from '../state/shot.svelte';

export type Start = 'empty' | 'starter' | 'copy';
type Answer = { data?: unknown; error?: unknown; response: Response };

class ShotListState {
  projects = $state.raw<ListedProject[]>([]);
  /** The project whose shots are listed. */
  project = $state(0);
  shots = $state.raw<ListedShot[]>([]);
  /** How far a pack is that is being brought in. */
  unpacking = $state('');

  readonly inProject = $derived(this.shots.filter((each) => each.binned === null));
  readonly binned = $derived(this.shots.filter((each) => each.binned !== null));
  readonly chosen = $derived(this.projects.find((each) => each.id === this.project) ?? null);

  /** Look into the open shot's project: at what is known of it at once, then at everything anew. */
  async begin(): Promise<void> {
    const own = this.own ?? 0;
    if (own !== this.project) this.shots = [];
    this.project = own;
    await this.load(own);
  }

  private get own(): number | undefined {
    return this.projects.find((each) => each.name === shot.project)?.id;
  }

  /** Look anew at everything, with the open shot's project unless another was chosen. */
  async load(project = this.project): Promise<void> {
    const { data } = await client.GET('/api/projects');
    if (!data) return notices.say('error', 'The server does not answer', 'The list is not there yet.');
    this.projects = data.projects;
    const known = this.projects.some((each) => each.id === project);
    await this.choose(known ? project : (this.own ?? this.projects[0]?.id ?? 0));
  }

  async choose(project: number): Promise<void> {
    this.project = project;
    const { data } = await client.GET('/api/shots', { params: { query: { project, binned: true } } });
    if (this.project === project) this.shots = data?.shots ?? [];
  }

  /** Do something on the server, then look anew; what was refused is said. Gives what was made. */
  private async act(request: Promise<Answer>, project = this.project): Promise<unknown> {
    const { data, error, response } = await request;
    if (!response.ok) {
      const problem = error as Problem | undefined;
      notices.say('error', problem?.title ?? 'The server refused', problem?.detail ?? '');
      return null;
    }
    await Promise.all([this.load(project), shot.refreshList()]);
    return data ?? true;
  }

  /** Gives the shot to open. */
  async newProject(name: string, start: 'empty' | 'starter'): Promise<number | null> {
    return this.made(client.POST('/api/projects', { body: { name, start } }));
  }

  async copyProject(project: ListedProject): Promise<number | null> {
    const name = `${project.name}, copy`.slice(0, 80);
    return this.made(
      client.POST('/api/projects/{project_id}/copy', {
        params: { path: { project_id: project.id } },
        body: { name },
      }),
    );
  }

  async beginDemo(): Promise<number | null> {
    return this.made(client.POST('/api/projects/demo', {}));
  }

  async newShot(name: string, title: string, start: Start): Promise<number | null> {
    return this.made(
      client.POST('/api/projects/{project_id}/shots', {
        params: { path: { project_id: this.project } },
        body: { name, title, start, of: start === 'copy' ? shot.id : null },
      }),
    );
  }

  async copyShot(each: ListedShot): Promise<number | null> {
    return this.made(
      client.POST('/api/projects/{project_id}/shots', {
        params: { path: { project_id: this.project } },
        body: { name: each.name, title: each.title, start: 'copy', of: each.id },
      }),
    );
  }

  private async made(request: Promise<Answer>): Promise<number | null> {
    const data = (await this.act(request)) as { shot: number | null } | null;
    return data?.shot ?? null;
  }

  /** Bring a pack in as a project of its own, telling how far it is; gives the shot to open. */
  async unpack(file: File): Promise<number | null> {
    this.unpacking = 'sending …';
    try {
      const answer = await send('/api/packs', 'pack', file, (share) => {
        this.unpacking = share < 1 ? `sent ${Math.round(share * 100)} %` : 'looking at everything in it …';
      });
      return await this.made(Promise.resolve(answer));
    } catch {
      notices.say('error', 'The pack did not arrive', 'The server did not answer. Nothing was changed.');
      return null;
    } finally {
      this.unpacking = '';
    }
  }

  renameProject(project: ListedProject, name: string): Promise<unknown> {
    return this.act(
      client.PATCH('/api/projects/{project_id}', {
        params: { path: { project_id: project.id } },
        body: { name, put_away: null },
      }),
    ).then((done) => {
      if (done && shot.project === project.name) shot.project = name;
    });
  }

  putAway(project: ListedProject, away: boolean): Promise<unknown> {
    return this.act(
      client.PATCH('/api/projects/{project_id}', {
        params: { path: { project_id: project.id } },
        body: { name: null, put_away: away },
      }),
    );
  }

  deleteProject(project: ListedProject, name: string): Promise<unknown> {
    return this.act(
      client.DELETE('/api/projects/{project_id}', {
        params: { path: { project_id: project.id }, query: { name } },
      }),
    );
  }

  /** Another name or title for a shot, whether it lies open or not. */
  renameShot(each: ListedShot, what: 'name' | 'title', text: string): Promise<unknown> {
    if (each.id === shot.id)
      return shot
        .commit([{ op: 'replace', path: `/${what}`, value: text }], `${what} ${text}`)
        .then(() => Promise.all([this.load(), shot.refreshList()]));
    return this.act(
      client.PATCH('/api/shots/{shot_id}', {
        params: { path: { shot_id: each.id } },
        headers: { 'If-Match': `"${each.revision}"` },
        body: {
          patch: [{ op: 'replace', path: `/${what}`, value: text }] as never,
          label: `${what} ${text}`,
        },
      }),
    );
  }

  move(each: ListedShot, before: number | null): Promise<unknown> {
    return this.act(
      client.POST('/api/shots/{shot_id}/place', {
        params: { path: { shot_id: each.id } },
        body: { before },
      }),
    );
  }

  /** One place earlier or later. */
  step(each: ListedShot, by: 1 | -1): Promise<unknown> {
    const list = this.inProject;
    const at = list.findIndex((other) => other.id === each.id) + by;
    if (at < 0 || at >= list.length) return Promise.resolve();
    const before = by < 0 ? list[at] : list[at + 1];
    return this.move(each, before?.id ?? null);
  }

  bin(each: ListedShot, into: boolean): Promise<unknown> {
    const params = { path: { shot_id: each.id } };
    return this.act(
      into
        ? client.POST('/api/shots/{shot_id}/bin', { params })
        : client.DELETE('/api/shots/{shot_id}/bin', { params }),
    );
  }

  deleteShot(each: ListedShot, name: string): Promise<unknown> {
    return this.act(
      client.DELETE('/api/shots/{shot_id}/for-good', {
        params: { path: { shot_id: each.id }, query: { name } },
      }),
    );
  }
}

export const shotList = new ShotListState();
