/** Which row of a list of the set lies open, is being named or asked about, and what can be done to its members. */
import type { Operation } from '../api/client';
import { duplicated, freeName, removed, renamed, usesOf, type Kind, type Use } from './setEdits';
import { shot } from './shot.svelte';

export class SetRows {
  opened = $state('');
  naming = $state('');
  /** What is to be deleted though others use it. */
  asking = $state('');

  constructor(private readonly kind: Kind) {}

  private get names(): string[] {
    const members = this.kind === 'object' ? shot.document?.objects : shot.document?.locators;
    return (members ?? []).map((each) => each.name);
  }

  get uses(): Use[] {
    return shot.document && this.asking ? usesOf(shot.document, this.kind, this.asking) : [];
  }

  toggle(name: string): void {
    this.opened = this.opened === name ? '' : name;
  }

  /** Save what was made, and open it. */
  take(made: { name: string; patch: Operation[] }, what: string): void {
    void shot.commit(made.patch, `${what} ${made.name}`);
    this.opened = made.name;
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
