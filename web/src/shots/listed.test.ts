import { describe, expect, it } from 'vitest';
import type { ListedShot } from '../api/client';
import { matching, nextName } from './listed';

const made = (name: string, title: string) => ({ name, title }) as ListedShot;

describe('finding shots by typing', () => {
  const shots = [made('GH010', 'basin at thaw'), made('GH020', 'petals'), made('GH110', 'burning packet')];
  it('looks into names and titles, for every word', () => {
    expect(matching(shots, 'BASIN').map((each) => each.name)).toEqual(['GH010']);
    expect(matching(shots, 'gh packet').map((each) => each.name)).toEqual(['GH110']);
    expect(matching(shots, '')).toHaveLength(3);
    expect(matching(shots, 'basin petals')).toEqual([]);
  });
});

describe('the name of the next shot', () => {
  it.each([
    [[], 'SH010'],
    [['SH010'], 'SH020'],
    [['A7'], 'A8'],
    [['GH090', 'GH100', 'GH095'], 'GH096'],
    [['S090'], 'S100'],
    [['opening'], 'opening 2'],
    [['X020', 'X010'], 'X030'],
  ])('%j → %s', (names, next) => expect(nextName(names)).toBe(next));
});
