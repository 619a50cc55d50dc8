/** Adding meshes that were brought in: where they stand, and what was done to them for that. */
import type { Json, MeshItem, Operation, Shot } from '../api/client';
import { freeName } from './setEdits';

/** As their files place them; moved together onto the ground; or also scaled together to a metre. */
export type Placing = 'keep' | 'ground' | 'metre';

type Brought = Pick<MeshItem, 'name' | 'geometry' | 'low' | 'high'> & Partial<Pick<MeshItem, 'particles'>>;

/** Whether names are one name with a number each: that name, and their order by number. */
export function numbered(names: string[]): { stem: string; order: { at: number; number: number }[] } | null {
  const found = names.map((name) => /^(.*?)[._-]?(\d+)$/.exec(name));
  const stem = found[0]?.[1] ?? '';
  if (names.length < 2 || found.some((each) => !each || each[1] !== stem)) return null;
  const order = found.map((each, at) => ({ at, number: Number(each?.[2]) }));
  order.sort((one, other) => one.number - other.number);
  return order.some((each, at) => at > 0 && each.number === order[at - 1]?.number) ? null : { stem, order };
}

/** One object of files that follow each other; a number that is missing shows the file before it. */
function inSequence(meshes: Brought[], notes: string[]): { first: Brought; sequence: Json } | null {
  const found = numbered(meshes.map((each) => each.name));
  const [start] = found?.order ?? [];
  const first = start && meshes[start.at];
  if (!found || !first) return null;
  const files: Json[] = [];
  let missing = 0;
  for (const { at, number } of found.order) {
    while (files.length < number - start.number) {
      files.push(files[files.length - 1] ?? null);
      missing++;
    }
    files.push((meshes[at]?.geometry ?? null) as unknown as Json);
  }
  if (missing) notes.push(`${missing} frames between have no file and show the one before`);
  const name = found.stem || first.name;
  return { first: { ...first, name }, sequence: { files, first: start.number, beyond: 'hold' } };
}

const USUAL = [0.02, 200] as const;

/** Objects for some meshes, placed alike so that they stay where they are relative to each other; and what is to be said of it. */
export function addedMeshes(
  document: Shot,
  meshes: Brought[],
  placing: Placing,
  look: string,
  follow: boolean = false,
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
  const one = follow ? inSequence(meshes, notes) : null;
  const patch = (one ? [one.first] : meshes).map((mesh): Operation => {
    const name = freeName(mesh.name, taken);
    taken.push(name);
    const { geometry, particles = null } = mesh;
    const sequence = one?.sequence ?? null;
    const value = { name, geometry, particles, sequence, look, position, scale } as unknown as Json;
    return { op: 'add', path: '/objects/-', value };
  });
  return { patch, notes };
}

/** To six places that count, as a document holds it. */
function tidy(value: number): number {
  return Number(value.toPrecision(6)) + 0;
}
