/** Which look and which recipe lie open, and what of it the stage shows alone. */
import type { Json, Recipe } from '../api/client';
import { PICTURE, STYLES, type Place, type Show, type Style } from '../api/live';
import { live } from './live.svelte';
import { pointer } from './pointer';
import { shot } from './shot.svelte';

export type Opened = { recipe: Recipe | null; path: (string | number)[]; title: string };

class Bench {
  look = $state('');
  place = $state.raw<Place>([]);
  step = $state<number | null>(null);
  style = $state<Style>('grey');
  private alone: Show = PICTURE;

  /** The recipe that lies open, found by name so that it survives edits. */
  opened = $derived.by((): Opened | null => find(this.look, this.place));

  openLook(name: string): void {
    this.look = name;
    const found = shot.look(name);
    const masked = found?.look.layers.findLast((layer) => layer.where);
    const layer =
      found?.look.layers.find((each) => each.name === 'wet' && each.where) ?? masked ?? found?.look.layers[0];
    this.open(layer ? ['look', layer.name, 'where'] : []);
  }

  open(place: Place, look = this.look): void {
    this.look = look;
    this.place = place;
    this.step = null;
    live.setOpen(this.look, place);
    if (live.show.kind !== 'picture') this.showAlone();
  }

  /** Open the recipe of a step's second input. */
  openInput(step: number, parameter: string): void {
    this.open([...this.place, String(step), parameter]);
  }

  /** Show the open recipe (or one of its steps) alone. */
  showAlone(step: number | null = null): void {
    this.step = step;
    const kind = step === null && this.place[2] === 'where' && this.place.length === 3 ? 'mask' : 'step';
    this.alone = { kind, look: this.look, place: this.place, step, channel: '', style: this.style };
    live.setShow(this.alone);
  }

  showChannel(channel: string): void {
    this.alone = {
      kind: 'channel',
      look: this.look,
      place: this.place,
      step: null,
      channel,
      style: this.style,
    };
    live.setShow(this.alone);
  }

  showPicture(): void {
    live.setShow(PICTURE);
  }

  /** One key goes there and back. */
  toggle(): void {
    if (live.show.kind !== 'picture') this.showPicture();
    else this.showAlone(this.step);
  }

  setStyle(style: Style): void {
    this.style = style;
    if (live.show.kind !== 'picture') {
      this.alone = { ...live.show, style };
      live.setShow(this.alone);
    }
  }

  nextStyle(): void {
    this.setStyle(STYLES[(STYLES.indexOf(this.style) + 1) % STYLES.length] ?? 'grey');
  }
}

/** How long the part of a place is that names an outermost recipe. */
export function outerLength(place: Place): number {
  if (place[0] === 'signal') return 2;
  return place[2] === 'where' ? 3 : 4;
}

function find(lookName: string, place: Place): Opened | null {
  const depth = outerLength(place);
  let found = outer(lookName, place.slice(0, depth));
  for (let at = depth; found && at + 1 < place.length; at += 2) {
    const number = Number(place[at]);
    const name = place[at + 1] ?? '';
    const step = found.recipe?.steps[number];
    const inner = (step?.params as Record<string, Json> | undefined)?.[name] as unknown as Recipe | undefined;
    if (!step || !inner || typeof inner !== 'object' || !('steps' in inner)) return null;
    found = {
      recipe: { ...inner, steps: inner.steps.map((each) => ({ ...each, on: each.on ?? true })) },
      path: [...found.path, 'steps', number, 'params', name],
      title: `${found.title} › ${step.op} ${name.replaceAll('_', ' ')}`,
    };
  }
  return found;
}

function outer(lookName: string, place: Place): Opened | null {
  const document = shot.document;
  if (!document) return null;
  if (place[0] === 'signal') {
    const index = document.signals.findIndex((signal) => signal.name === place[1]);
    const signal = document.signals[index];
    return signal ? { recipe: signal.recipe, path: ['signals', index, 'recipe'], title: signal.name } : null;
  }
  const found = shot.look(lookName);
  const index = found?.look.layers.findIndex((layer) => layer.name === place[1]) ?? -1;
  const layer = found?.look.layers[index];
  if (!found || !layer) return null;
  const at = ['looks', found.index, 'layers', index];
  if (place[2] === 'where')
    return { recipe: layer.where, path: [...at, 'where'], title: `${layer.name} · where` };
  const name = place[3] ?? '';
  const entry = layer.channels[name];
  if (!entry) return null;
  const label = shot.vocabulary.channels.find((channel) => channel.name === name)?.label ?? name;
  return {
    recipe: entry.recipe,
    path: [...at, 'channels', name, 'recipe'],
    title: `${layer.name} · ${label}`,
  };
}

export function stepPointer(path: (string | number)[], step: number, ...more: (string | number)[]): string {
  return pointer(...path, 'steps', step, ...more);
}

export const bench = new Bench();
