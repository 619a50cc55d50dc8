import { describe, expect, test } from 'vitest';
import { applied, patchById, patchByPosition, pathById } from './addressing';
import { parts, pointer } from './pointer';

const document = {
  title: 'x',
  looks: [
    {
      id: 'ab',
      layers: [
        { id: 'one', name: 'stone', opacity: 1 },
        { id: 'two', name: 'wet', opacity: 1 },
        { id: 'tre', name: 'moss', opacity: 1 },
      ],
    },
  ],
};
const names = (made: typeof document) => made.looks[0]?.layers.map((layer) => layer.name);

describe('pointers', () => {
  // The examples of RFC 6901, section 5.
  test.each([
    [['a/b'], '/a~1b'],
    [['m~n'], '/m~0n'],
    [['foo', 0], '/foo/0'],
    [[''], '/'],
  ])('%j is %s', (path, text) => {
    expect(pointer(...path)).toBe(text);
    expect(parts(text)).toEqual(path.map(String));
  });
});

describe('paths by id', () => {
  test.each([
    ['/title', '/title'],
    ['/looks/0', '/looks/ab'],
    ['/looks/0/layers/1/opacity', '/looks/ab/layers/two/opacity'],
    ['/looks/0/layers/3', '/looks/ab/layers/-'],
    ['/looks/0/layers/-', '/looks/ab/layers/-'],
    ['/camera/position/1', '/camera/position/1'],
  ])('%s becomes %s', (path, named) => expect(pathById(document, path)).toBe(named));
});

describe('patches by id', () => {
  test('each operation is read after those before it', () => {
    const patch = patchById(document, [
      { op: 'remove', path: '/looks/0/layers/0' },
      { op: 'replace', path: '/looks/0/layers/0/opacity', value: 0.5 },
    ]);
    expect(patch.map((each) => each.path)).toEqual(['/looks/ab/layers/one', '/looks/ab/layers/two/opacity']);
  });
  test.each([
    [0, 2, '-'],
    [2, 0, 'one'],
    [0, 1, 'tre'],
    [1, 0, 'one'],
  ])('a layer moved from %i to %i goes before %s', (from, to, before) => {
    const operation = { op: 'move' as const, from: `/looks/0/layers/${from}`, path: `/looks/0/layers/${to}` };
    const [named] = patchById(document, [operation]);
    expect(named?.path).toBe(`/looks/ab/layers/${before}`);
    expect(named?.from).toBe(`/looks/ab/layers/${document.looks[0]?.layers[from]?.id}`);
  });
});

describe('applying', () => {
  test('nothing that a change does not touch is made anew', () => {
    const made = applied(document, [{ op: 'replace', path: '/looks/0/layers/1/opacity', value: 0.2 }]);
    expect(made.looks[0]?.layers[1]?.opacity).toBe(0.2);
    expect(made.looks[0]?.layers[0]).toBe(document.looks[0]?.layers[0]);
    expect(document.looks[0]?.layers[1]?.opacity).toBe(1);
  });
  test('a move takes away before it puts', () => {
    const operation = { op: 'move' as const, from: '/looks/0/layers/0', path: '/looks/0/layers/2' };
    expect(names(applied(document, [operation]))).toEqual(['wet', 'moss', 'stone']);
  });
});

describe('patches that wait', () => {
  const rename = [{ op: 'replace' as const, path: '/looks/ab/layers/two/name', value: 'damp' }];

  test('find what they name where it stands now', () => {
    const moved = applied(document, [
      { op: 'add', path: '/looks/0/layers/0', value: { id: 'new', name: 'frost' } },
    ]);
    expect(patchByPosition(moved, rename)).toEqual([
      { op: 'replace', path: '/looks/0/layers/2/name', value: 'damp' },
    ]);
  });

  test('are nothing where that is gone', () => {
    const without = applied(document, [{ op: 'remove', path: '/looks/0/layers/1' }]);
    expect(patchByPosition(without, rename)).toBeNull();
  });

  test('lead to the same document as those by positions', () => {
    const patch = [
      { op: 'move' as const, from: '/looks/0/layers/0', path: '/looks/0/layers/2' },
      { op: 'replace' as const, path: '/looks/0/layers/2/opacity', value: 0.5 },
    ];
    const byId = patchById(document, patch);
    expect(applied(document, patchByPosition(document, byId) ?? [])).toEqual(applied(document, patch));
  });
});
