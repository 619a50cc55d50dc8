/** Which row of a list of the set lies open, is being named or asked about, and what can be done to its members. */
import type { Operation } from '../api/client';
import { LISTS, duplicated, freeName, removed, renamed, usesOf, type Kind, type Use } from './setEdits';
import { chosen } from './chosen.svelte';
import { shot } from './shot.svelte';

export class SetRows {
  opened = $state('');
  naming = $state('');
  /** What is to be deleted though others use it. */
  asking = $state('');

  constructor(private readonly kind: Kind) {}

  private get names(): string[] {
    return (shot.document?.[LISTS[this.kind]] ?? []).map((each) => each.name);
  }

  get uses(): Use[] {
    return shot.document && this.asking ? usesOf(shot.document, this.kind, this.asking) : [];
  }

  toggle(name: string): void {
    this.opened = this.opened === name ? '' : name;
    this.handle();
  }

  /** What lies open has handles in the picture. */
  private handle(): void {
    const list = LISTS[this.kind];
    const id = shot.document?.[list].find((each) => each.name === this.opened)?.id;
    if (id) chosen.choose(list, id);
    else chosen.nothing();
  }

  /** Save what was made, and open it. */
  take(made: { name: string; patch: Operation[] }, what: string): void {
    this.opened = made.name;
    void shot.commit(made.patch, `${what} ${made.name}`).then(() => this.handle());
  }

  duplicate(index: number): void {
    if (shot.document) this.take(duplicated(shot.document, this.kind, index), 'add');
  }

  rename(index: number, wanted: string): void {
    if (!shot.document) return;
    const old = this.names[index] ?? '';
    const name = freeName(wanted, this.names);
    void shot.commit(renamed(shot.document, this.kind, index, name), `rename ${old} to ${name}`);
    if (this.opened === old) this.opened = name;
  }

  askToRemove(name: string): void {
    this.asking = name;
    if (!this.uses.length) this.answer(true);
  }

  answer(yes: boolean): void {
    const name = this.asking;
    const index = this.names.indexOf(name);
    this.asking = '';
    if (yes && shot.document && index >= 0)
      void shot.commit(removed(shot.document, this.kind, index), `delete ${name}`);
  }
}
