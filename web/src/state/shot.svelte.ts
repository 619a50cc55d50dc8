/** The shot that lies open: its document, what is being dragged, and saving against the right revision. */
import {
  client,
  type ListedShot,
  type Look,
  type Operation,
  type Picture,
  type Problem,
  type ShotBody,
  type Shot,
  type Vocabulary,
} from '../api/client';
import { live } from './live.svelte';
import { notices } from './notices.svelte';
import { applied, patchById } from './addressing';

/** What is being tried may name what another window has just taken away: then the saved document is shown until the server has said so. */
function drafted(saved: Shot, draft: Operation[]): Shot {
  try {
    return applied(saved, draft);
  } catch {
    return saved;
  }
}

class OpenShot {
  id = $state(0);
  project = $state('');
  revision = $state(0);
  saved = $state.raw<Shot | null>(null);
  draft = $state.raw<Operation[]>([]);
  canUndo = $state(false);
  canRedo = $state(false);
  undoLabel = $state('');
  redoLabel = $state('');
  saving = $state(false);
  shots = $state.raw<ListedShot[]>([]);
  vocabulary = $state.raw<Vocabulary>({ ops: [], channels: [], blends: [], views: [] });
  attributes = $state.raw<string[]>([]);
  pictures = $state.raw<Picture[]>([]);

  /** The document as the person sees it, with what is being dragged. */
  document = $derived(this.saved ? drafted(this.saved, this.draft) : null);

  private basedOn = 0;
  private line: Promise<void> = Promise.resolve();
  private frame = 0;

  async start(): Promise<void> {
    const [vocabulary, list] = await Promise.all([client.GET('/api/vocabulary'), client.GET('/api/shots')]);
    if (!vocabulary.data || !list.data) {
      notices.say('error', 'The server does not answer', 'Start it again with ./start and reload this page.');
      return;
    }
    this.vocabulary = vocabulary.data;
    this.shots = list.data.shots;
    const wanted = Number(new URLSearchParams(location.search).get('shot'));
    const first = this.shots.find((shot) => shot.id === wanted) ?? this.shots[0];
    if (first) await this.open(first.id);
  }

  async open(id: number): Promise<void> {
    const { data, error } = await client.GET('/api/shots/{shot_id}', { params: { path: { shot_id: id } } });
    if (!data) return this.refused(error);
    this.adopt(data as ShotBody);
    history.replaceState(null, '', `?shot=${id}`);
    live.frame = this.saved?.frames.first ?? null;
    live.onRevision = (revision) => void this.heard(revision);
    live.connect(id);
    // Not waited for: whoever opens a shot chooses what lies open in it now, before the person does.
    void this.refreshAttributes();
    void this.refreshPictures();
  }

  private async refreshAttributes(): Promise<void> {
    const id = this.id;
    const { data } = await client.GET('/api/shots/{shot_id}/attributes', {
      params: { path: { shot_id: id } },
    });
    if (this.id === id) this.attributes = Object.keys(data?.attributes ?? {});
  }

  async refreshPictures(): Promise<void> {
    const { data } = await client.GET('/api/pictures');
    if (data) this.pictures = data.pictures;
  }

  async refreshList(): Promise<void> {
    const { data } = await client.GET('/api/shots');
    if (data) this.shots = data.shots;
  }

  adopt(body: ShotBody): void {
    this.id = body.id;
    this.project = body.project;
    this.revision = body.revision;
    this.saved = body.document;
    this.draft = [];
    this.basedOn = 0;
    this.canUndo = body.can_undo;
    this.canRedo = body.can_redo;
    this.undoLabel = body.undo_label;
    this.redoLabel = body.redo_label;
  }

  /** Show a change without saving it. The first one of a drag remembers the revision it was made against. */
  preview(patch: Operation[]): void {
    if (!this.basedOn) this.basedOn = this.revision;
    this.draft = patch;
    if (this.frame) return;
    this.frame = requestAnimationFrame(() => {
      this.frame = 0;
      if (this.draft.length) live.preview(this.draft);
    });
  }

  /** Forget what was being tried. */
  drop(): void {
    this.draft = [];
    this.basedOn = 0;
    live.preview([]);
  }

  /** Save a change. Changes made one after the other wait for each other, each against what the last one gave. */
  commit(patch: Operation[], label: string): Promise<void> {
    const dragged = this.basedOn;
    // Whatever is saved before this one has its turn, what it names stays the same.
    const named = this.saved ? patchById(this.saved, patch) : patch;
    this.basedOn = 0;
    cancelAnimationFrame(this.frame);
    this.frame = 0;
    return this.inLine(async () => {
      await this.save(
        client.PATCH('/api/shots/{shot_id}', {
          params: { path: { shot_id: this.id } },
          headers: { 'If-Match': `"${dragged || this.revision}"` },
          body: { patch: named as never, label },
        }),
      );
    });
  }

  undo(): Promise<void> {
    return this.inLine(async () => {
      if (!this.canUndo) return;
      await this.save(client.POST('/api/shots/{shot_id}/undo', this.against()));
    });
  }

  redo(): Promise<void> {
    return this.inLine(async () => {
      if (!this.canRedo) return;
      await this.save(client.POST('/api/shots/{shot_id}/redo', this.against()));
    });
  }

  restore(snapshot: number): Promise<void> {
    return this.inLine(() =>
      this.save(
        client.POST('/api/shots/{shot_id}/snapshots/{snapshot_id}/restore', {
          params: { path: { shot_id: this.id, snapshot_id: snapshot } },
          headers: { 'If-Match': `"${this.revision}"` },
        }),
      ),
    );
  }

  /** Call a shared signal by another name, in every shot of the project. */
  renameSignal(name: string, to: string): Promise<void> {
    return this.inLine(() =>
      this.save(
        client.POST('/api/shots/{shot_id}/signals/rename', { ...this.against(), body: { name, to } }),
      ),
    );
  }

  /** Put a layer of coat and darkening in the place of a layer's wetness. */
  expandWetness(look: string, layer: string): Promise<void> {
    return this.inLine(() =>
      this.save(
        client.POST('/api/shots/{shot_id}/wetness/apart', { ...this.against(), body: { look, layer } }),
      ),
    );
  }

  /** Take a shared signal away, its steps written out where the project's shots use it. */
  inlineSignal(name: string): Promise<void> {
    return this.inLine(() =>
      this.save(client.POST('/api/shots/{shot_id}/signals/inline', { ...this.against(), body: { name } })),
    );
  }

  look(name: string): { look: Look; index: number } | null {
    const index = this.document?.looks.findIndex((look) => look.name === name) ?? -1;
    const look = this.document?.looks[index];
    return look ? { look, index } : null;
  }

  private against() {
    return { params: { path: { shot_id: this.id } }, headers: { 'If-Match': `"${this.revision}"` } };
  }

  private inLine(work: () => Promise<void>): Promise<void> {
    this.line = this.line.then(work, work);
    return this.line;
  }

  private async save(request: Promise<{ data?: unknown; error?: unknown }>): Promise<void> {
    this.saving = true;
    try {
      const { data, error } = await request;
      if (data) this.adopt(data as ShotBody);
      else await this.refused(error);
    } catch {
      notices.say('error', 'Not saved', 'The server does not answer; the change was not saved.');
      this.drop();
    } finally {
      this.saving = false;
    }
  }

  private async refused(error: unknown): Promise<void> {
    const problem = (error ?? { title: 'The server refused', detail: '', status: 0 }) as Problem;
    if (problem.status === 412) {
      await this.reload();
      notices.say(
        'warning',
        'Not saved: somebody changed the shot meanwhile',
        `Your last change was left out. What you see now is revision ${this.revision}.`,
      );
      return;
    }
    const first = problem.problems?.[0];
    const detail = first ? [first.reason, first.hint].filter(Boolean).join(' — ') : (problem.detail ?? '');
    notices.say('error', problem.title, detail);
    this.drop();
  }

  private async reload(): Promise<void> {
    const { data } = await client.GET('/api/shots/{shot_id}', { params: { path: { shot_id: this.id } } });
    if (data) this.adopt(data as ShotBody);
    live.preview([]);
  }

  /** Another window saved: take its state over, unless something is in hand here (then saving will tell). */
  private async heard(revision: number): Promise<void> {
    await this.line;
    if (revision <= this.revision || this.draft.length || this.saving) return;
    await this.reload();
  }
}

export const shot = new OpenShot();
