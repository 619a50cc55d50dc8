import { describe, expect, it } from 'vitest';
import { recipeAbout, stepsIn } from './varying';

describe('a recipe in the place of a number', () => {
  it('begins with values about the number, within its limits', () => {
    const made = recipeAbout(0.8, 0, 1) as { steps: { params: { low: number; high: number } }[] };
    expect(made.steps[0]?.params.low).toBeCloseTo(0.4);
    expect(made.steps[0]?.params.high).toBe(1);
    const zero = recipeAbout(0, null, null) as { steps: { params: { low: number; high: number } }[] };
    expect(zero.steps[0]?.params).toMatchObject({ low: -0.5, high: 0.5 });
  });
  it('costs its steps, and those of what it uses, whatever goes round', () => {
    const noise = { op: 'noise', params: {} };
    const round = {
      name: 'round',
      recipe: { steps: [{ op: 'noise', params: { size: { signal: 'round' } } }] },
    };
    const signals = [{ name: 's', recipe: { steps: [noise, noise] } }, round];
    expect(stepsIn({ steps: [noise] }, signals)).toBe(1);
    expect(stepsIn({ signal: 's' }, signals)).toBe(2);
    expect(stepsIn({ steps: [{ op: 'add', params: { by: { signal: 's' } } }] }, signals)).toBe(3);
    const stops = [{ at: 0, value: { steps: [noise] } }];
    expect(stepsIn({ steps: [{ op: 'ramp', params: { stops } }] }, signals)).toBe(2);
    expect(stepsIn({ signal: 'round' }, signals)).toBe(1);
    expect(stepsIn({ signal: 'gone' }, signals)).toBe(0);
  });
});
