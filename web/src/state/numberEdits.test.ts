import { describe, expect, it } from 'vitest';
import type { Shot } from '../api/client';
import { applied } from './addressing';
import { addedNumber, formulasWith, removedNumber, renamedNumber, usesOfNumber } from './numberEdits';

const params = { size: { number: 'grain', times: 2 }, scale: [{ number: 'grain' }, 1, 1], seed: 3 };
const document = {
  numbers: [
    { name: 'grain', value: 0.3 },
    { name: 'other', value: 1 },
  ],
  looks: [{ name: 'a', layers: [{ name: 'l', where: { steps: [{ op: 'noise', params }] }, channels: {} }] }],
  number_uses: [],
  signals: [{ name: 's', recipe: { steps: [{ op: 'noise', params: { size: { number: 'other' } } }] } }],
} as unknown as Shot;
const first = (made: Shot) => made.looks[0]?.layers[0]?.where?.steps[0]?.params as typeof params;

describe('named numbers', () => {
  it('are found wherever they are used', () => {
    expect(usesOfNumber(document, 'grain')).toHaveLength(2);
    expect(usesOfNumber(document, 'other')).toHaveLength(1);
  });
  it('are renamed there too', () => {
    const { name, patch } = renamedNumber(document, 0, 'other');
    expect(name).toBe('other 2');
    expect(usesOfNumber(applied(document, patch), 'other 2')).toHaveLength(2);
  });
  it('leave their value where they were used', () => {
    const made = applied(document, removedNumber(document, 0));
    expect(made.numbers).toHaveLength(1);
    expect(first(made)).toEqual({ size: 0.6, scale: [0.3, 1, 1], seed: 3 });
  });
  it('are followed into formulas', () => {
    const text = 'number("grain") * 2 + number(\'other\')';
    const steps = [{ op: 'formula', params: { expression: text } }];
    const made = { ...document, signals: [{ name: 's', recipe: { steps } }] } as unknown as Shot;
    const formula = (shot: Shot) =>
      (shot.signals[0]?.recipe.steps[0]?.params as { expression?: string } | undefined)?.expression;
    expect(formulasWith(made, 'grain')).toHaveLength(1);
    expect(formula(applied(made, renamedNumber(made, 0, 'size').patch))).toBe(
      'number("size") * 2 + number(\'other\')',
    );
    expect(formula(applied(made, removedNumber(made, 0)))).toBe("0.3 * 2 + number('other')");
  });
  it('get a free name', () => expect(addedNumber(document, 'a').name).toBe('number'));
});
