import { describe, expect, it } from 'vitest';
import { spread } from './labels';

const label = (text: string, at: number) => ({ text, tip: text, at });

describe('labels under an axis', () => {
  it('stand under their places where there is room', () => {
    const [low, high] = spread([label('0.17', 60), label('0.70', 140)], 200);
    expect([low?.text, Math.round((low?.left ?? 0) + 2 * 7.3)]).toEqual(['0.17', 60]);
    expect(Math.round((high?.left ?? 0) + 2 * 7.3)).toBe(140);
  });

  it('never lie over each other nor outside', () => {
    for (let low = -20; low < 220; low += 7)
      for (let wide = 0; wide < 100; wide += 9) {
        const made = spread(
          [label('0.1', low), label('mean 0.2', low + wide / 2), label('0.33', low + wide)],
          200,
        );
        made.forEach((each, k) => {
          expect(each.left).toBeGreaterThanOrEqual(-1e-9);
          expect(each.left + each.text.length * 7.3).toBeLessThanOrEqual(200 + 1e-9);
          const before = made[k - 1];
          if (before) expect(each.left).toBeGreaterThanOrEqual(before.left + before.text.length * 7.3);
        });
      }
  });

  it('become one where there is no room for all', () => {
    const made = spread([label('-1234.5', 10), label('mean 1000.25', 50), label('123456', 90)], 120);
    expect(made.map((each) => each.text)).toEqual(['-1234.5 … 123456']);
  });
});
