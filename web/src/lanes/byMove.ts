/** Moves that the job needs again and again, in place of what a lane holds. */
import type { Track } from '../api/client';
import { moving, MOVES } from '../state/moves';
import { shot } from '../state/shot.svelte';

export const BY = [
  { value: '', text: 'by …' },
  ...MOVES.map((each) => ({ value: each.name, text: each.text })),
];

export function byMove(track: Track, index: number, words: string, name: string, value: number): void {
  const found = MOVES.find((each) => each.name === name);
  if (found) void shot.commit(moving(track, index, found, value), `${words}: ${found.text}`);
}
