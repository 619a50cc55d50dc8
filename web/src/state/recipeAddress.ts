/** Recipes by address: JSON Pointers by ids, which mean the same recipe whatever is put before it or renamed. */
import type { Json, Layer, Recipe, Shot } from '../api/client';
import { parts, pointer } from './pointer';

type Named = { id: string };
export type Path = (string | number)[];

export type Opened = {
  recipe: Recipe | null;
  /** By positions, as patches are made of it. */
  path: Path;
  title: string;
  /** What the outermost recipe belongs to: a look's layer and, where it is a channel's, that; or a signal, whose look is empty. */
  look: string;
  layer: Layer | null;
  channel: string;
  signal: string;
  /** The address of the recipe that this one is an input of; empty for an outermost one. */
  within: string;
};

export const whereOf = (look: Named, layer: Named) => pointer('looks', look.id, 'layers', layer.id, 'where');
export const channelOf = (look: Named, layer: Named, name: string) =>
  pointer('looks', look.id, 'layers', layer.id, 'channels', name, 'recipe');
export const signalOf = (signal: Named) => pointer('signals', signal.id, 'recipe');

/** The address of a step's own recipe for an input; a `/` leads into a list, as to a ramp's stop. */
export const inputOf = (address: string, recipe: Recipe, step: number, parameter: string) =>
  address + pointer('steps', recipe.steps[step]?.id || step, 'params', ...parameter.split('/'));

/** An id for what the page itself puts into a list. */
export function newId(): string {
  return 'n' + crypto.getRandomValues(new Uint32Array(1))[0]?.toString(16);
}

function positionOf(list: readonly { id?: string }[], token: string): number {
  const found = list.findIndex((each) => each.id === token);
  return found >= 0 || !/^\d+$/.test(token) ? found : Number(token);
}

/** The recipe at an address; nothing where there is none any more. */
export function findRecipe(
  document: Shot,
  address: string,
  label: (channel: string) => string,
): Opened | null {
  const tokens = parts(address);
  const outermost = tokens[0] === 'signals' ? 3 : tokens[4] === 'where' ? 5 : 7;
  let found = outer(document, tokens.slice(0, outermost), label);
  for (let at = outermost, next = at; found && at < tokens.length; at = next) {
    const number = positionOf(found.recipe?.steps ?? [], tokens[at + 1] ?? '');
    const step = found.recipe?.steps[number];
    if (!step) return null;
    const way: Path = [];
    let value: Json | undefined = step.params as Json;
    for (next = at + 3; next < tokens.length && !isRecipe(value); next += 1) {
      const token: string = tokens[next] ?? '';
      way.push(Array.isArray(value) ? Number(token) : token);
      value = (value as Record<string, Json> | null | undefined)?.[token];
    }
    if (!isRecipe(value)) return null;
    const inner = value as unknown as Recipe;
    found = {
      ...found,
      recipe: { ...inner, steps: inner.steps.map((each) => ({ ...each, on: each.on ?? true })) },
      path: [...found.path, 'steps', number, 'params', ...way],
      title: `${found.title} › ${step.op} ${nameOf(way)}`,
      within: pointer(...tokens.slice(0, at)),
    };
  }
  return found;
}

const isRecipe = (value: Json | undefined) =>
  value !== null && typeof value === 'object' && !Array.isArray(value) && 'steps' in value;

/** What people call a parameter, or a place within it: `from end`, `stop 2`. */
const nameOf = (way: Path) =>
  way[0] === 'stops' && typeof way[1] === 'number'
    ? `stop ${way[1] + 1}`
    : String(way[0] ?? '').replaceAll('_', ' ');

function outer(document: Shot, tokens: string[], label: (channel: string) => string): Opened | null {
  const [root, first = '', , second = '', part, name = ''] = tokens;
  const none = { look: '', layer: null, channel: '', signal: '', within: '' };
  if (root === 'signals') {
    const index = positionOf(document.signals, first);
    const signal = document.signals[index];
    if (!signal) return null;
    const path = ['signals', index, 'recipe'];
    return { ...none, recipe: signal.recipe, path, title: signal.name, signal: signal.name };
  }
  if (root !== 'looks') return null;
  const lookIndex = positionOf(document.looks, first);
  const look = document.looks[lookIndex];
  const layerIndex = positionOf(look?.layers ?? [], second);
  const layer = look?.layers[layerIndex];
  if (!look || !layer) return null;
  const made = { ...none, look: look.name, layer };
  const at = ['looks', lookIndex, 'layers', layerIndex];
  if (part === 'where')
    return { ...made, recipe: layer.where, path: [...at, 'where'], title: `${layer.name} · where` };
  const entry = layer.channels[name];
  if (part !== 'channels' || !entry) return null;
  const path = [...at, 'channels', name, 'recipe'];
  return { ...made, recipe: entry.recipe, path, title: `${layer.name} · ${label(name)}`, channel: name };
}
