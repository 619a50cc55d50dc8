/** The shot that lies open: its document, what is being dragged, and saving against the right revision. */
import {
  type AttributeInfo,
  client,
  type Conflict,
  type ListedShot,
  type Look,
  type Operation,
  type Picture,
  type VoxelFile,
  type Problem,
  type ShotBody,
  type Shot,
  type Touch,
  type Vocabulary,
} from '../api/client';
import { live } from './live.svelte';
import { withoutLost } from './numberUses';
import { notices } from './notices.svelte';
import { applied, patchById, patchByPosition } from './addressing';
import { shown } from '../fields/numbers';
import { type Answer, SaveQueue } from './saveQueue.svelte';

/** What is asked before something is done that touches more than one's own work. */
export /** One place of what is wrong. */
type Place = NonNullable<Problem['problems']>[number];

type Question = { what: string; conflicts: Conflict[]; touches: Touch[]; run: () => void };

/** A document with changes that are not saved yet, by ids; one that names what is gone is left out, as the server will tell. */
function withPending(saved: Shot, pending: Operation[][]): Shot {
  let now = saved;
  for (const patch of pending) {
    const placed = patchByPosition(now, patch);
    if (placed) now = drafted(now, placed);
  }
  return now;
}

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
  /** Changes that were made and are not saved yet, by ids, oldest first. */
  pending = $state.raw<Operation[][]>([]);
  question = $state.raw<Question | null>(null);
  /** The change that was refused last, by positions, and why; nothing after the next one that is taken. */
  refusal = $state.raw<{ patch: Operation[]; label: string; problem: Place } | null>(null);
  shots = $state.raw<ListedShot[]>([]);
  vocabulary = $state.raw<Vocabulary>({ ops: [], channels: [], blends: [], views: [], rules: [] });
  attributes = $state.raw<string[]>([]);
  /** What each object carries. */
  tables = $state.raw<Record<string, AttributeInfo[]>>({});
  /** The parts of each object, as its file names them. */
  parts = $state.raw<Record<string, string[]>>({});
  pictures = $state.raw<Picture[]>([]);
  voxelFiles = $state.raw<VoxelFile[]>([]);

  /** The document as the person sees it, with what is being dragged. */
  document = $derived(this.saved ? drafted(withPending(this.saved, this.pending), this.draft) : null);

  private basedOn = 0;
  /** The newest revision of another window that was not taken over because something was in hand. */
  private missed = 0;
  private queue = new SaveQueue();
  private frame = 0;
  /** Counts shots that were opened: what was asked for an earlier one comes too late. */
  private turn = 0;

  get saving(): boolean {
    return this.queue.length > 0;
  }

  get waiting(): string {
    return this.queue.waiting;
  }

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

  /** Open a shot; tells whether it did, and not another that was asked for since. */
  async open(id: number): Promise<boolean> {
    const turn = ++this.turn;
    const { data, error } = await client.GET('/api/shots/{shot_id}', { params: { path: { shot_id: id } } });
    if (turn !== this.turn) return false;
    if (!data) {
      this.refused(error);
      return false;
    }
    this.pending = [];
    this.draft = [];
    this.basedOn = 0;
    this.question = null;
    this.refusal = null;
    this.missed = 0;
    this.id = id;
    this.adopt(data as ShotBody);
    history.replaceState(null, '', `?shot=${id}`);
    live.frame = this.saved?.frames.first ?? null;
    live.onRevision = (revision) => void this.heard(id, revision);
    live.onRestored = () => void this.restored(id);
    live.connect(id);
    // Not waited for: whoever opens a shot chooses what lies open in it now, before the person does.
    void this.refreshAttributes();
    void this.refreshPictures();
    void this.refreshVoxelFiles();
    return true;
  }

  async refreshAttributes(): Promise<void> {
    const id = this.id;
    const { data } = await client.GET('/api/shots/{shot_id}/attributes', {
      params: { path: { shot_id: id } },
    });
    if (this.id !== id) return;
    this.attributes = Object.keys(data?.attributes ?? {});
    this.parts = data?.parts ?? {};
    this.tables = data?.tables ?? {};
  }

  async refreshPictures(): Promise<void> {
    const { data } = await client.GET('/api/pictures');
    if (data) this.pictures = data.pictures;
  }

  async refreshVoxelFiles(): Promise<void> {
    const { data } = await client.GET('/api/voxels');
    if (data) this.voxelFiles = data.files;
  }

  async refreshList(): Promise<void> {
    const { data } = await client.GET('/api/shots');
    if (data) this.shots = data.shots;
  }

  /** Take over what the server says about the shot that lies open; about another it comes too late. */
  private adopt(body: ShotBody): boolean {
    if (body.id !== this.id) return false;
    // What was refused says its places by positions in what lay open then.
    if (body.revision !== this.revision) this.refusal = null;
    this.project = body.project;
    this.revision = body.revision;
    this.saved = body.document;
    this.canUndo = body.can_undo;
    this.canRedo = body.can_redo;
    this.undoLabel = body.undo_label;
    this.redoLabel = body.redo_label;
    return true;
  }

  /** Show a change without saving it. The first one of a drag remembers the revision it was made against. */
  preview(patch: Operation[]): void {
    if (!this.basedOn) this.basedOn = this.revision;
    this.draft = patch;
    if (this.frame) return;
    this.frame = requestAnimationFrame(() => {
      this.frame = 0;
      if (this.draft.length) this.tryOut();
    });
  }

  /** Forget what was being tried. */
  drop(): void {
    this.draft = [];
    this.basedOn = 0;
    this.tryOut();
    if (this.missed > this.revision) void this.heard(this.id, this.missed);
  }

  /** Have the picture made with what is not saved yet. */
  private tryOut(): void {
    const waiting = this.saved ? withPendingOperations(this.saved, this.pending) : [];
    live.preview([...waiting, ...this.draft]);
  }

  /** When everything that was changed is saved or refused. */
  settled(): Promise<void> {
    return this.queue.settled();
  }

  /** Save a change. Changes made one after the other wait for each other, each against what the last one gave. */
  commit(wanted: Operation[], label: string): Promise<void> {
    const patch = this.withoutLostUses(wanted);
    const dragged = this.basedOn;
    // Whatever is saved before this one has its turn, what it names stays the same.
    const named = this.saved ? patchById(withPending(this.saved, this.pending), patch) : patch;
    this.basedOn = 0;
    cancelAnimationFrame(this.frame);
    this.frame = 0;
    // What was tried out is shown until it is saved; else only what needs nothing that the server fills in.
    const shown = this.draft.length > 0 || patch.every(isPlain);
    this.draft = [];
    if (shown) this.pending = [...this.pending, named];
    this.refusal = null;
    return this.send(named, label, dragged, patch);
  }

  /** Make the change that was refused, with a mend that was offered. */
  mend(patch: Operation[]): void {
    if (this.refusal) void this.commit([...this.refusal.patch, ...patch], this.refusal.label);
  }

  /** Forget the change that was refused. */
  forgo(): void {
    this.refusal = null;
  }

  /** A change, and the uses of numbers taken away whose places it takes away. */
  private withoutLostUses(patch: Operation[]): Operation[] {
    // What replaces an object or an array may leave places out, as what removes them does.
    const takes = (each: Operation) =>
      each.op === 'remove' ||
      (each.op === 'replace' && each.value !== null && typeof each.value === 'object');
    if (!(this.saved?.number_uses.length || this.saved?.tracks.length) || !patch.some(takes)) return patch;
    const after = drafted(withPending(this.saved, this.pending), patch);
    return [...patch, ...withoutLost(after)];
  }

  private send(
    named: Operation[],
    label: string,
    dragged: number,
    wanted: Operation[] | null = null,
  ): Promise<void> {
    const id = this.id;
    return this.queue.run(async () => {
      // While nothing else was saved here since it was begun, it is against what the person saw then; else against what the last one gave.
      const based = id === this.id ? dragged || this.revision : dragged;
      const answer = await this.queue.answer(() =>
        client.PATCH('/api/shots/{shot_id}', {
          params: { path: { shot_id: id } },
          headers: { 'If-Match': `"${based}"` },
          body: { patch: named as never, label },
        }),
      );
      if (id !== this.id) return this.lateAnswer(answer, label);
      this.pending = this.pending.filter((each) => each !== named);
      const problem = this.taken(answer);
      if (problem?.status === 409 && !problem.asks) await this.conflicted(problem, named, label);
      else if (problem) this.refused(problem, wanted && { patch: wanted, label });
    });
  }

  /** The shot was changed by another at the same places: what that one made is shown, and one click puts one's own back. */
  private async conflicted(problem: Problem, named: Operation[], label: string): Promise<void> {
    const id = this.id;
    await this.reload();
    const first = problem.conflicts?.[0];
    const values = first
      ? `${first.where}: yours ${inShort(first.mine)}, theirs ${inShort(first.theirs)}. `
      : '';
    const reason = problem.problems?.[0]?.reason ?? '';
    notices.say(
      'warning',
      'Somebody has changed the same meanwhile',
      `${values}${reason}${first ? 'Theirs stands.' : ''}`,
      {
        label: 'put mine back',
        run: () => {
          if (id !== this.id) return;
          this.pending = [...this.pending, named];
          void this.send(named, label, 0);
        },
      },
    );
  }

  undo(anyway = false): Promise<void> {
    return this.travel('undo', anyway);
  }

  redo(anyway = false): Promise<void> {
    return this.travel('redo', anyway);
  }

  private travel(way: 'undo' | 'redo', anyway: boolean): Promise<void> {
    const id = this.id;
    return this.queue.run(async () => {
      if (id !== this.id || !(way === 'undo' ? this.canUndo : this.canRedo)) return;
      const what = way === 'undo' ? this.undoLabel : this.redoLabel;
      const params = { path: { shot_id: id }, query: { anyway } };
      const answer = await this.queue.answer(() =>
        way === 'undo'
          ? client.POST('/api/shots/{shot_id}/undo', { params })
          : client.POST('/api/shots/{shot_id}/redo', { params }),
      );
      const problem = this.taken(answer);
      if (problem?.asks)
        this.question = {
          what: `${way} “${what}”`,
          conflicts: problem.conflicts ?? [],
          touches: problem.touches ?? [],
          run: () => void this.travel(way, true),
        };
      else if (problem) this.refused(problem);
    });
  }

  restore(snapshot: number): Promise<void> {
    return this.act((id) =>
      client.POST('/api/shots/{shot_id}/snapshots/{snapshot_id}/restore', {
        params: { path: { shot_id: id, snapshot_id: snapshot } },
        headers: { 'If-Match': `"${this.revision}"` },
      }),
    );
  }

  /** Make an older revision's document the current one. */
  goBack(number: number): Promise<void> {
    return this.act((id) =>
      client.POST('/api/shots/{shot_id}/revisions/{number}/restore', {
        params: { path: { shot_id: id, number } },
        headers: { 'If-Match': `"${this.revision}"` },
      }),
    );
  }

  /** Call a shared signal by another name, in every shot of the project. */
  renameSignal(name: string, to: string): Promise<void> {
    return this.act((id) =>
      client.POST('/api/shots/{shot_id}/signals/rename', {
        params: { path: { shot_id: id } },
        body: { name, to },
      }),
    );
  }

  /** Put a layer of coat and darkening in the place of a layer's wetness. */
  expandWetness(look: string, layer: string): Promise<void> {
    return this.act((id) =>
      client.POST('/api/shots/{shot_id}/wetness/apart', {
        params: { path: { shot_id: id } },
        body: { look, layer },
      }),
    );
  }

  /** Take a shared signal away, its steps written out where the project's shots use it. */
  inlineSignal(name: string): Promise<void> {
    return this.act((id) =>
      client.POST('/api/shots/{shot_id}/signals/inline', {
        params: { path: { shot_id: id } },
        body: { name },
      }),
    );
  }

  look(name: string): { look: Look; index: number } | null {
    const index = this.document?.looks.findIndex((look) => look.name === name) ?? -1;
    const look = this.document?.looks[index];
    return look ? { look, index } : null;
  }

  private act(request: (id: number) => Promise<Answer>): Promise<void> {
    const id = this.id;
    return this.queue.run(async () => {
      const problem = this.taken(await this.queue.answer(() => request(id)));
      if (problem?.status === 412) {
        await this.reload();
        notices.say(
          'warning',
          'Not done: somebody changed the shot meanwhile',
          `What you see now is revision ${this.revision}; do it again if it is still what you want.`,
        );
      } else if (problem) this.refused(problem);
    });
  }

  /** Take over what was saved; gives the problem where it was not. */
  private taken(answer: Answer): Problem | null {
    if (answer.data) {
      this.adopt(answer.data as ShotBody);
      if (!this.draft.length && this.pending.length) this.tryOut();
      return null;
    }
    return (answer.error ?? { title: 'The server refused', detail: '', status: 0 }) as Problem;
  }

  /** An answer about a shot that does not lie open any more. */
  private lateAnswer(answer: Answer, label: string): void {
    if (answer.data) return;
    const problem = answer.error as Problem | undefined;
    notices.say('error', `Not saved in the other shot: ${label}`, problem?.detail ?? '');
  }

  /** Say that something was refused: beside what it is about, where that can offer to mend it. */
  private refused(error: unknown, wanted: { patch: Operation[]; label: string } | null = null): void {
    const problem = (error ?? { title: 'The server refused', detail: '', status: 0 }) as Problem;
    const first = problem.problems?.[0];
    const detail = first ? [first.reason, first.hint].filter(Boolean).join(' — ') : (problem.detail ?? '');
    if (wanted && first?.mends?.length) this.refusal = { ...wanted, problem: first };
    else notices.say('error', problem.title, detail);
    this.drop();
  }

  private async reload(): Promise<void> {
    const id = this.id;
    const { data } = await this.queue.answer(() =>
      client.GET('/api/shots/{shot_id}', { params: { path: { shot_id: id } } }),
    );
    if (data) this.adopt(data as ShotBody);
    if (id === this.id) this.tryOut();
  }

  /** A backup was brought back on the server: show the shot as it is there now. What is in hand is saved against that, or refused with both. */
  private async restored(id: number): Promise<void> {
    await this.queue.settled();
    if (id !== this.id) return;
    this.missed = 0;
    await Promise.all([this.reload(), this.refreshList()]);
    notices.say(
      'warning',
      'A backup was brought back',
      `The shot is now as it was then: revision ${this.revision}.`,
    );
  }

  /** Another window saved: take its state over, unless something is in hand here (then saving will merge). */
  private async heard(id: number, revision: number): Promise<void> {
    await this.queue.settled();
    if (id !== this.id || revision <= this.revision) return;
    this.missed = Math.max(this.missed, revision);
    if (this.draft.length || this.saving) return;
    await this.reload();
  }
}

/** Whether a change is whole as it stands: a number, a text, something taken away or moved. */
function isPlain(operation: Operation): boolean {
  const { value } = operation;
  return value === undefined || value === null || typeof value !== 'object' || isNumbers(value);
}

function isNumbers(value: unknown): boolean {
  return Array.isArray(value) && value.every((each) => typeof each === 'number');
}

/** The changes that wait, as one patch by positions. */
function withPendingOperations(saved: Shot, pending: Operation[][]): Operation[] {
  let now = saved;
  const made: Operation[] = [];
  for (const patch of pending) {
    const placed = patchByPosition(now, patch);
    if (!placed) continue;
    made.push(...placed);
    now = drafted(now, placed);
  }
  return made;
}

/** A value of a conflict in a few words. */
export function inShort(value: unknown): string {
  if (value === null || value === undefined) return 'nothing';
  if (typeof value === 'number') return shown(value);
  if (typeof value === 'boolean') return value ? 'on' : 'off';
  if (typeof value === 'string') return `“${value.slice(0, 40)}”`;
  if (Array.isArray(value) && value.every((each) => typeof each === 'number'))
    return value.map((each) => shown(each)).join(' ');
  return 'another';
}

export const shot = new OpenShot();
