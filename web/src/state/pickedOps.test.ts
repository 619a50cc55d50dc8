import { beforeEach, describe, expect, it, vi } from 'vitest';

const kept = new Map<string, string>();
vi.stubGlobal('localStorage', {
  getItem: (name: string) => kept.get(name) ?? null,
  setItem: (name: string, value: string) => kept.set(name, value),
});

const fresh = async () => {
  vi.resetModules();
  return (await import('./pickedOps.svelte')).pickedOps;
};

describe('ops that a person uses', () => {
  beforeEach(() => kept.clear());

  it('have the last ones first, each once, and not more than a few', async () => {
    const ops = await fresh();
    for (const name of ['a', 'b', 'c', 'd', 'e', 'f', 'g', 'c']) ops.picked(name);
    expect(ops.last).toEqual(['c', 'g', 'f', 'e', 'd', 'b']);
  });

  it('are remembered', async () => {
    const ops = await fresh();
    ops.toggle('noise');
    ops.toggle('slope');
    ops.toggle('noise');
    expect((await fresh()).favourites).toEqual(['slope']);
  });

  it('are none where what was kept is nonsense', async () => {
    for (const text of ['{', '{"last": 3, "favourites": [1, null]}', '[]']) {
      kept.set('texallon-picked-ops', text);
      const ops = await fresh();
      expect([ops.last, ops.favourites]).toEqual([[], []]);
    }
  });
});
