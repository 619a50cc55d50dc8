import { beforeAll, describe, expect, test, vi } from 'vitest';

type Chosen = typeof import('./window').chosen;
let chosen: Chosen;

beforeAll(async () => {
  const store = () => {
    const kept = new Map<string, string>();
    return {
      getItem: (key: string) => kept.get(key) ?? null,
      setItem: (key: string, value: string) => kept.set(key, value),
    };
  };
  vi.stubGlobal('sessionStorage', store());
  vi.stubGlobal('localStorage', store());
  ({ chosen } = await import('./window'));
});

describe('a window', () => {
  const fresh = () => 'fresh';

  test('stays the same through a reload', () => {
    expect(chosen('own', { id: 'last', seen: 0 }, 100_000, fresh)).toBe('own');
  });

  test('takes the place of one that was closed', () => {
    expect(chosen(null, { id: 'last', seen: 0 }, 100_000, fresh)).toBe('last');
  });

  test('is a new one beside one that is open', () => {
    expect(chosen(null, { id: 'last', seen: 99_000 }, 100_000, fresh)).toBe('fresh');
    expect(chosen(null, null, 100_000, fresh)).toBe('fresh');
  });
});
