/** What of the set is chosen: it has handles in the picture. And what the next click there is for. */
import { live } from './live.svelte';
import { pointer } from './pointer';

export type List = 'objects' | 'locators' | 'object_groups' | 'lights';
export type Way = 'move' | 'turn' | 'scale';
export type Axes = 'world' | 'own' | 'surface';

/** What a click in the picture is for, in place of reading a point: told, and done with where and on what it was. */
export type Click = {
  said: string;
  done: (point: { position: Vector; normal: Vector; object: string }) => void;
};
type Vector = [number, number, number];

class Chosen {
  list = $state<List | ''>('');
  id = $state('');
  way = $state<Way>('move');
  /** Along which axes handles go: the world's, the thing's own, or those of the surface below it. */
  axes = $state<Axes>('world');
  click = $state.raw<Click | null>(null);

  choose(list: List, id: string): void {
    this.list = list;
    this.id = id;
    live.setChosen(pointer(list, id));
  }

  nothing(): void {
    if (!this.list) return;
    this.list = '';
    this.id = '';
    live.setChosen('');
  }

  is(list: List, id: string): boolean {
    return this.list === list && this.id === id;
  }
}

export const chosen = new Chosen();
