/** Adding meshes that were brought in: where they stand, and what was done to them for that. */
import type { Json, MeshItem, Operation, Shot } from '../api/client';
import { freeName } from './setEdits';

/** As their files place them; moved together onto the ground; or also scaled together to a metre. */
export type Placing = 'keep' | 'ground' | 'metre';

const USUAL = [0.02, 200] as const;

/** Objects for some meshes, placed alike so that they stay where they are relative to each other; and what is to be said of it. */
export function addedMeshes(
  document: Shot,
  meshes: Pick<MeshItem, 'name' | 'geometry' | 'low' | 'high'>[],
  placing: Placing,
  look: string,
): { patch: Operation[]; notes: string[] } {
  const low = [0, 1, 2].map((axis) => Math.min(...meshes.map((each) => each.low[axis] ?? 0)));
  const high = [0, 1, 2].map((axis) => Math.max(...meshes.map((each) => each.high[axis] ?? 0)));
  const size = Math.max(...high.map((end, axis) => end - (low[axis] ?? 0)));
  const notes: string[] = [];
  const scale = placing === 'metre' && size > 0 ? tidy(1 / size) : 1;
  const middle = (axis: number) => ((low[axis] ?? 0) + (high[axis] ?? 0)) / 2;
  const position =
    placing === 'keep' ? [0, 0, 0] : [-middle(0), -(low[1] ?? 0), -middle(2)].map((x) => tidy(x * scale));
  if (position.some((x) => x !== 0)) notes.push(`moved by ${position.join(', ')} m, all alike`);
  if (scale !== 1) notes.push(`scaled by ${scale}, all alike`);
  if (placing !== 'metre' && (size < USUAL[0] || size > USUAL[1]))
    notes.push(`${tidy(size)} m across: its units are perhaps not metres; see “scale” of the object`);
  const taken = document.objects.map((each) => each.name);
  const patch = meshes.map((mesh): Operation => {
    const name = freeName(mesh.name, taken);
    taken.push(name);
    const value = { name, geometry: mesh.geometry, look, position, scale } as unknown as Json;
    return { op: 'add', path: '/objects/-', value };
  });
  return { patch, notes };
}

/** To six places that count, as a document holds it. */
function tidy(value: number): number {
  return Number(value.toPrecision(6)) + 0;
}
