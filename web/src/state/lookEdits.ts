/** Edits of looks: each as operations on the document, with everything that names what is renamed or taken away. */
import type { Json, Layer, Operation, Shot } from '../api/client';
import { pointer } from './pointer';
import { freeName } from './setEdits';

/** The kind of what is dragged when a look is. */
export const LOOK = 'application/x-texallon-look';

export type Place = { path: (string | number)[]; where: string; how: 'worn' | 'part' | 'carried' | 'filled' };

/** Everything that wears a look, or carries it as a layer. */
export function usesOfLook(document: Shot, name: string): Place[] {
  const found: Place[] = [];
  document.objects.forEach((item, at) => {
    if (item.look === name) found.push({ path: ['objects', at, 'look'], where: item.name, how: 'worn' });
    if (item.filled_with === name)
      found.push({ path: ['objects', at, 'filled_with'], where: item.name, how: 'filled' });
    item.parts.forEach((part, number) => {
      if (part.look === name)
        found.push({
          path: ['objects', at, 'parts', number, 'look'],
          where: `${item.name} · ${part.name}`,
          how: 'part',
        });
    });
  });
  if (document.atmosphere?.look === name)
    found.push({ path: ['atmosphere', 'look'], where: 'the atmosphere', how: 'filled' });
  document.looks.forEach((look, at) =>
    look.layers.forEach((layer, number) => {
      if (layer.look?.look === name)
        found.push({
          path: ['looks', at, 'layers', number, 'look', 'look'],
          where: `${look.name} · ${layer.name}`,
          how: 'carried',
        });
    }),
  );
  return found;
}

const names = (document: Shot) => document.looks.map((look) => look.name);

/** A look with one empty layer. */
export function newLook(document: Shot): { name: string; patch: Operation[] } {
  const name = freeName('look', names(document));
  const even = (value: Json): Json => ({ recipe: { steps: [{ op: 'constant', params: { value } }] } });
  const channels = { base_color: even([0.4, 0.4, 0.4]), specular_roughness: even(0.4) };
  const value: Json = { name, layers: [{ name: 'base', channels }] };
  return { name, patch: [{ op: 'add', path: '/looks/-', value }] };
}

/** A look of the volume domain: thin mist. */
export function newVolume(document: Shot): { name: string; patch: Operation[] } {
  const name = freeName('volume', names(document));
  const even = (value: Json): Json => ({ recipe: { steps: [{ op: 'constant', params: { value } }] } });
  const channels = { density: even(0.2), scattering_color: even([0.8, 0.8, 0.8]) };
  const value: Json = { name, domain: 'volume', layers: [{ name: 'base', channels }] };
  return { name, patch: [{ op: 'add', path: '/looks/-', value }] };
}

/** A copy beside the first. */
export function duplicatedLook(document: Shot, index: number): { name: string; patch: Operation[] } {
  const first = JSON.parse(JSON.stringify(document.looks[index])) as Record<string, Json>;
  delete first['id'];
  const name = freeName(String(first['name']), names(document));
  return { name, patch: [{ op: 'add', path: pointer('looks', index + 1), value: { ...first, name } }] };
}

/** Another name, and all that wear or carry it following. */
export function renamedLook(document: Shot, index: number, wanted: string): Operation[] {
  const old = document.looks[index]?.name ?? '';
  const name = freeName(
    wanted,
    names(document).filter((each) => each !== old),
  );
  return [
    { op: 'replace', path: pointer('looks', index, 'name'), value: name },
    ...usesOfLook(document, old).map((use): Operation => ({
      op: 'replace',
      path: pointer(...use.path),
      value: name,
    })),
  ];
}

/** Taken away: what wore it wears another, and layers that carried it go. Nothing where it is the last. */
export function removedLook(document: Shot, index: number, instead: string): Operation[] {
  const name = document.looks[index]?.name ?? '';
  if (document.looks.length < 2) return [];
  const uses = usesOfLook(document, name);
  const worn = uses
    .filter((use) => use.how !== 'carried')
    .map((use): Operation => ({ op: 'replace', path: pointer(...use.path), value: instead }));
  // The last first, so that places before it stay what they are.
  const carried = uses
    .filter((use) => use.how === 'carried')
    .reverse()
    .map((use): Operation => {
      const layer = use.path.slice(0, 4);
      const only = document.looks[Number(use.path[1])]?.layers.length === 1;
      return only
        ? { op: 'replace', path: pointer(...layer, 'look'), value: null }
        : { op: 'remove', path: pointer(...layer) };
    });
  return [...worn, ...carried, { op: 'remove', path: pointer('looks', index) }];
}

/** Looks that a layer of a look may carry: none that leads back to it. */
export function carriable(document: Shot, name: string): string[] {
  const leads = (from: string, seen: Set<string>): boolean => {
    if (from === name) return true;
    if (seen.has(from)) return false;
    seen.add(from);
    const layers: Layer[] = document.looks.find((look) => look.name === from)?.layers ?? [];
    return layers.some((layer) => layer.look && leads(layer.look.look, seen));
  };
  const domain = document.looks.find((look) => look.name === name)?.domain;
  return document.looks
    .filter((look) => look.domain === domain && !leads(look.name, new Set()))
    .map((look) => look.name);
}

/** Layers for another look: without the ids of those that they are copies of, under names that are free there. */
export function asNewLayers(layers: Layer[], taken: string[]): Json[] {
  const known = [...taken];
  return layers.map((layer) => {
    const copy = JSON.parse(JSON.stringify(layer)) as Record<string, Json>;
    delete copy['id'];
    copy['name'] = freeName(layer.name, known);
    known.push(String(copy['name']));
    return copy;
  });
}
