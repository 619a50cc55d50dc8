import { describe, expect, test } from 'vitest';
import type { ShelfLook } from '../api/client';
import { matchingLooks, newerThan, tagsOf } from './listing';

const look = (name: string, tags: string[], version = 1): ShelfLook => ({
  name,
  version,
  tags,
  note: `about ${name}`,
  author: '',
  ships: true,
  picture: '',
  changed: '',
});

describe('the shelf', () => {
  const looks = [look('cast iron', ['metal', 'rust']), look('ice', ['winter'], 3)];
  test('finds by every word in name, tags and note', () => {
    expect(matchingLooks(looks, '').length).toBe(2);
    expect(matchingLooks(looks, 'Metal rus').map((each) => each.name)).toEqual(['cast iron']);
    expect(matchingLooks(looks, 'about ice').map((each) => each.name)).toEqual(['ice']);
    expect(matchingLooks(looks, 'metal winter')).toEqual([]);
  });
  test('takes tags apart by commas, each once', () => {
    expect(tagsOf(' wood,  worn ,, wood')).toEqual(['wood', 'worn']);
  });
  test('says when a newer one is there', () => {
    expect(newerThan(looks, { name: 'ice', version: 2 })?.version).toBe(3);
    expect(newerThan(looks, { name: 'ice', version: 3 })).toBe(null);
    expect(newerThan(looks, { name: 'gone', version: 1 })).toBe(null);
    expect(newerThan(looks, null)).toBe(null);
  });
});
