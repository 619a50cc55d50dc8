import { describe, expect, it } from 'vitest';
import { typed } from './typed';

describe('what a person types', () => {
  it.each([
    ['0.35', 'm', 0.35],
    ['0,35', 'm', 0.35],
    [' −2 m', 'm', -2],
    ['45°', '', 45],
    ['35 cm', 'm', 0.35],
    ['35 cm', '', 0.35],
    ['35cm', 'm', 0.35],
    ['1 inch', 'm', 0.0254],
    ['3 mm + 1 cm', 'm', 0.013],
    ['50/2', '', 25],
    ['50/2', '%', 25],
    ['40 %', '%', 40],
    ['2*pi', '', 2 * Math.PI],
    ['−1.5', '', -1.5],
    ['90°', '°', 90],
    ['pi rad', '°', 180],
    ['500 ms', 's', 0.5],
    ['1e-3', '', 0.001],
    ['2^10', '', 1024],
    ['2 ×', '×', 2],
    ['12 stops', 'stops', 12],
    ['3 /m', '/m', 3],
  ])('%s in %s is %f', (text, unit, value) => {
    const found = typed(text, unit);
    expect('value' in found ? found.value : found).toBeCloseTo(value, 9);
  });
  it.each([
    ['abc', ''],
    ['', ''],
    ['35 kg', 'm'],
    ['35 kg', ''],
    ['35 cm', '%'],
    ['1/0', ''],
    ['0/0', ''],
    ['[1, 2]', ''],
    ['i', ''],
    ['sqrt(-1)', ''],
    ['import({a: 1})', ''],
    ['createUnit("x")', ''],
    ['evaluate("1")', ''],
    ['f(x) = x', ''],
    ['"1"', ''],
    ['true', ''],
    ['1;2', ''],
    ['x'.repeat(300), ''],
    ['cos', ''],
  ])('“%s” is refused', (text, unit) => expect('wrong' in typed(text, unit)).toBe(true));
});
