/** Edits of the set: each as operations on the document, with everything that names what is renamed or taken away. */
import type { Json, Operation, Shot } from '../api/client';
import { pointer } from './pointer';

type Path = (string | number)[];

/** A name that is still free: itself, or with a number after it. */
export function freeName(wanted: string, taken: Iterable<string>): string {
  const names = new Set(taken);
  const stem = wanted.replace(/ \d+$/, '').slice(0, 72);
  let name = wanted.slice(0, 80);
  for (let number = 2; names.has(name); number++) name = `${stem} ${number}`;
  return name;
}

/** What the set is made of, and the lists that these stand in. Recipes can measure from objects and locators. */
export type Kind = 'object' | 'locator' | 'group';
export const LISTS = { object: 'objects', locator: 'locators', group: 'object_groups' } as const;

/** Where the set names others of its own: the list, the member, what that names, and what is said of it. */
const LINKS = [
  ['objects', 'follows', 'locator', 'follows it'],
  ['locators', 'follows', 'object', 'stands by it'],
  ['locators', 'along', 'object', 'stands along it'],
  ['locators', 'aims_at', 'locator', 'aims at it'],
  ['objects', 'belongs_to', 'group', 'belongs to it'],
  ['locators', 'belongs_to', 'group', 'belongs to it'],
  ['object_groups', 'belongs_to', 'group', 'belongs to it'],
] as const;

/** Where something is measured from, or followed: the place in the document, and how it is used there. */
export type Use = {
  path: Path;
  where: string;
  how: 'measured' | 'stands in' | 'followed' | 'laid along' | 'a body';
};

export function usesOf(document: Shot, kind: Kind, name: string): Use[] {
  const found: Use[] = [];
  const walk = (part: Json, path: Path, where: string) => {
    if (Array.isArray(part)) part.forEach((each, index) => walk(each, [...path, index], where));
    else if (part !== null && typeof part === 'object') {
      const keys = Object.keys(part);
      if (kind !== 'group' && keys.length === 1 && part[kind] === name)
        found.push({ path, where, how: path[path.length - 2] === 'stand_ins' ? 'stands in' : 'measured' });
      else for (const key of keys) walk(part[key] ?? null, [...path, key], where);
    }
  };
  document.looks.forEach((look, at) => {
    look.layers.forEach((layer, number) =>
      walk(layer as unknown as Json, ['looks', at, 'layers', number], `${look.name} · ${layer.name}`),
    );
  });
  document.signals.forEach((signal, at) =>
    walk(signal as unknown as Json, ['signals', at], `signal ${signal.name}`),
  );
  for (const [list, member, of, said] of LINKS) {
    if (of !== kind) continue;
    document[list].forEach((item, at) => {
      if ((item as unknown as Record<string, Json>)[member] === name)
        found.push({ path: [list, at, member], where: `${item.name} ${said}`, how: 'followed' });
    });
  }
  if (kind === 'object')
    document.objects.forEach((item, at) => {
      if (item.array && 'object' in item.array && item.array.object === name)
        found.push({
          path: ['objects', at, 'array', 'object'],
          where: `copies of ${item.name} stand along it`,
          how: 'laid along',
        });
      item.bodies.forEach((each, number) => {
        if (each === name)
          found.push({
            path: ['objects', at, 'bodies', number],
            where: `copies of ${item.name} may have its body`,
            how: 'a body',
          });
      });
    });
  return found;
}

/** An object or locator under another name, and all that measures from it or follows it. */
export function renamed(document: Shot, kind: Kind, index: number, name: string): Operation[] {
  const old = document[LISTS[kind]][index]?.name ?? '';
  return [
    { op: 'replace', path: pointer(LISTS[kind], index, 'name'), value: name },
    ...usesOf(document, kind, old).map((use): Operation => ({
      op: 'replace',
      path: pointer(...use.path),
      value: use.how === 'measured' || use.how === 'stands in' ? { [kind]: name } : name,
    })),
  ];
}

/** A copy, beside the first, without the id that names that. */
export function duplicated(document: Shot, kind: Kind, index: number): { name: string; patch: Operation[] } {
  const first = plain(document[LISTS[kind]][index]);
  delete first['id'];
  const name = freeName(
    String(first['name']),
    document[LISTS[kind]].map((each) => each.name),
  );
  const [x, y, z] = first['position'] as [number, number, number];
  const made = { ...first, name, position: [x + 0.5, y, z] };
  return { name, patch: [{ op: 'add', path: pointer(LISTS[kind], index + 1), value: made as Json }] };
}

function plain(value: unknown): Record<string, Json> {
  return JSON.parse(JSON.stringify(value)) as Record<string, Json>;
}

/** Taken away: looks that measure from it measure from the world's origin then, as shared signals do by themselves; what follows it stands by its own numbers. */
export function removed(document: Shot, kind: Kind, index: number): Operation[] {
  const name = document[LISTS[kind]][index]?.name ?? '';
  const mended = usesOf(document, kind, name)
    .filter((use) => use.path[0] !== 'signals')
    .map((use): Operation =>
      use.how === 'stands in' || use.how === 'a body'
        ? { op: 'remove', path: pointer(...use.path) }
        : use.how === 'laid along'
          ? { op: 'replace', path: pointer(...use.path.slice(0, -1)), value: null }
          : { op: 'replace', path: pointer(...use.path), value: use.how === 'followed' ? null : 'world' },
    );
  return [...mended, { op: 'remove', path: pointer(LISTS[kind], index) }];
}

/** A new, empty group. */
export function addedGroup(document: Shot): { name: string; patch: Operation[] } {
  const name = freeName(
    'group',
    document.object_groups.map((each) => each.name),
  );
  return { name, patch: [{ op: 'add', path: '/object_groups/-', value: { name } }] };
}

/** A new locator: on the ground, in view, unless a place is given. */
export function addedLocator(
  document: Shot,
  position: readonly number[] = besideTarget(document.camera),
  rotation: readonly number[] = [0, 0, 0],
): { name: string; patch: Operation[] } {
  const name = freeName(
    'locator',
    document.locators.map((each) => each.name),
  );
  const value: Json = { name, position: [...position], rotation: [...rotation] };
  return { name, patch: [{ op: 'add', path: '/locators/-', value }] };
}

export const SHAPES = [
  ...(['plane', 'box', 'sphere', 'cylinder', 'cone', 'torus', 'capsule', 'tube'] as const),
  ...(['rain', 'spores', 'footsteps', 'flow', 'cells'] as const),
] as const;
export type ShapeName = (typeof SHAPES)[number];

/** A place on the ground beside what the camera looks at, a metre to the right. */
export function besideTarget({ position, target }: Shot['camera']): [number, number, number] {
  const [x, z] = [target[0] - position[0], target[2] - position[2]];
  const length = Math.hypot(x, z) || 1;
  const rounded = (value: number) => Math.round(value * 100) / 100;
  return [rounded(target[0] - z / length), 0, rounded(target[2] + x / length)];
}

/** A new body on the ground, in view, wearing a look. */
export function added(document: Shot, shape: ShapeName, look: string): { name: string; patch: Operation[] } {
  const name = freeName(
    shape,
    document.objects.map((each) => each.name),
  );
  return {
    name,
    patch: [
      {
        op: 'add',
        path: '/objects/-',
        value: { name, geometry: { shape }, look, position: besideTarget(document.camera) },
      },
    ],
  };
}

/** The measures of each shape: name, label, unit, least and most. */
export const MEASURES: Record<
  ShapeName,
  readonly (readonly [name: string, label: string, unit: string, low: number, high: number])[]
> = {
  plane: [
    ['width', 'width', 'm', 0.01, 100],
    ['depth', 'depth', 'm', 0.01, 100],
    ['segments', 'cells along a side', '', 1, 512],
  ],
  box: [
    ['width', 'width', 'm', 0.01, 20],
    ['height', 'height', 'm', 0.01, 20],
    ['depth', 'depth', 'm', 0.01, 20],
    ['rounding', 'rounded edges', 'm', 0, 5],
    ['segments', 'cells along a side', '', 1, 512],
  ],
  tube: [
    ['radius', 'radius', 'm', 0.001, 20],
    ['twist', 'twist', '° a metre', -10000, 10000],
    ['segments', 'sides', '', 3, 512],
    ['spans', 'pieces between points', '', 1, 512],
  ],
  sphere: [
    ['radius', 'radius', 'm', 0.01, 20],
    ['segments', 'sides', '', 3, 512],
  ],
  cylinder: [
    ['radius', 'radius', 'm', 0.01, 20],
    ['height', 'height', 'm', 0.01, 20],
    ['rounding', 'rounded edges', 'm', 0, 5],
    ['segments', 'sides', '', 3, 512],
  ],
  cone: [
    ['radius', 'radius', 'm', 0.01, 20],
    ['top', 'radius at the top', 'm', 0, 20],
    ['height', 'height', 'm', 0.01, 20],
    ['segments', 'sides', '', 3, 512],
  ],
  torus: [
    ['radius', 'radius', 'm', 0.01, 20],
    ['thickness', 'thickness of the ring', 'm', 0.01, 20],
    ['segments', 'sides', '', 3, 512],
  ],
  rain: [
    ['width', 'width', 'm', 0.01, 100],
    ['depth', 'depth', 'm', 0.01, 100],
    ['height', 'falls from', 'm', 0.01, 20],
    ['rate', 'drops a second', '', 0, 2000],
    ['speed', 'falls at', 'm/s', 0.1, 12],
    ['radius', 'radius of drops', 'm', 0.0005, 0.1],
    ['rests', 'rests for', 's', 0, 2],
    ['seed', 'seed', '', 0, 1000],
  ],
  spores: [
    ['width', 'width', 'm', 0.01, 20],
    ['height', 'height', 'm', 0.01, 20],
    ['depth', 'depth', 'm', 0.01, 20],
    ['count', 'how many', '', 1, 100000],
    ['wavering', 'strays by', 'm', 0, 2],
    ['restless', 'strays a second', '', 0, 10],
    ['radius', 'radius of spores', 'm', 0.0005, 0.2],
    ['seed', 'seed', '', 0, 1000],
  ],
  footsteps: [
    ['stride', 'stride', 'm', 0.05, 3],
    ['apart', 'feet apart', 'm', 0, 2],
    ['pace', 'steps a second', '', 0, 8],
    ['lift', 'lifted by', 'm', 0, 1],
    ['radius', 'radius of a sole', 'm', 0.01, 1],
  ],
  flow: [
    ['volume', 'volume', 'm³', 0.00001, 10],
    ['pours', 'poured within', 's', 0, 60],
    ['viscosity', 'viscosity', 'm²/s', 0.0001, 10],
    ['hot', 'as hot as', 'K', 0, 4000],
    ['cold', 'all around', 'K', 0, 2000],
    ['cools', 'a centimetre cools in', 's', 0.05, 600],
    ['stiffens', 'stiffer, 100 K colder', '×', 1, 1000],
    ['lobes', 'uneven edge', '', 0, 0.5],
    ['segments', 'sides', '', 12, 1024],
    ['seed', 'seed', '', 0, 1000],
  ],
  cells: [
    ['radius', 'radius of cells', 'm', 0.0005, 1],
    ['divides', 'divide after', 's', 0.02, 60],
    ['uneven', 'unevenly by', '', 0, 0.9],
    ['divisions', 'divisions', '', 0, 13],
    ['strays', 'strains stray by', '', 0, 1],
    ['seed', 'seed', '', 0, 1000],
  ],
  capsule: [
    ['radius', 'radius', 'm', 0.01, 20],
    ['height', 'height', 'm', 0.01, 20],
    ['segments', 'sides', '', 3, 512],
  ],
};

/** The objects of a group, and of the groups within it. */
export function membersOf(document: Shot, group: string, seen: string[] = []): string[] {
  if (seen.includes(group)) return [];
  const own = document.objects.filter((each) => each.belongs_to === group).map((each) => each.name);
  const inner = document.object_groups.filter((each) => each.belongs_to === group);
  return [...own, ...inner.flatMap((each) => membersOf(document, each.name, [...seen, group]))];
}
