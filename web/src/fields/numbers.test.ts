import { describe, expect, test } from 'vitest';
import { clamp, percent, shown, shownIn, tidy } from './numbers';
import { typed } from './typed';

describe('numbers as a person reads them', () => {
  test.each([
    [0, '0'],
    [0.5, '0.5'],
    [-0.25, '−0.25'],
    [12.3456, '12.35'],
    [123.456, '123.5'],
    [1e5, '1.0e+5'],
    [0.00001, '1.0e−5'],
    [NaN, 'NaN'],
    [Infinity, 'Infinity'],
    [0.00016, '0.00016'],
    [0.00523, '0.0052'],
  ])('%f is %s', (value, text) => expect(shown(value)).toBe(text));

  test.each([0, 1, -1, 0.001, 12.5, -99.9, 4321, 5e-7, 2e9])('%f comes back when it is typed', (value) => {
    const found = typed(shown(value, 3));
    const back = 'value' in found ? found.value : null;
    expect(Math.abs((back ?? NaN) - value)).toBeLessThanOrEqual(Math.abs(value) * 0.06 + 1e-12);
  });
});

test.each([
  [0.123456789, 0.1235],
  [1234.5678, 1234.6],
  [0, 0],
  [NaN, 0],
  [-3.00004, -3],
  [0.0001634, 0.000163],
])('dragging to %f gives %f', (value, tidied) => expect(tidy(value)).toBe(tidied));

test('what has no limit is not held', () => {
  expect(clamp(5, null, undefined)).toBe(5);
  expect(clamp(5, 6, 9)).toBe(6);
  expect(clamp(50, 6, 9)).toBe(9);
});

test.each([
  [0, '0 %'],
  [0.004, '<1 %'],
  [0.5, '50 %'],
  [1, '100 %'],
])('%f is %s', (share, text) => expect(percent(share)).toBe(text));

describe('numbers with a unit', () => {
  test('are millimetres where metres are few', () => {
    expect(shownIn(0.003, 'm', 2)).toBe('3 mm');
    expect(shownIn(-0.0004, 'm', 2)).toBe('−0.4 mm');
    expect(shownIn(0.25, 'm', 2)).toBe('0.25 m');
    expect(shownIn(0, 'm')).toBe('0 m');
    expect(shownIn(0.003, '', 3)).toBe('0.003');
  });
});
