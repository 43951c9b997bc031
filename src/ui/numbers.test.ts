import { expect, it } from 'vitest';
import { readings, told, typed } from './numbers';

it('tells numbers with a true minus and no minus zero', () => {
  expect([told(-3.26, 1), told(-0.01, 1), told(4, 1, true), told(0, 1, true), told(Number.NaN, 1)]).toEqual([
    '−3.3',
    '0.0',
    '+4.0',
    '0.0',
    '–'
  ]);
});

it('takes typed numbers as people type them', () => {
  expect(['−30', '-30', '12,5', ' 40 %', '.5', '+7'].map(typed)).toEqual([-30, -30, 12.5, 40, 0.5, 7]);
  expect(['', 'abc', '1-2', '--3', '1e3'].map(typed)).toEqual([null, null, null, null, null]);
});

it('reads a colour in the units of the trade', () => {
  // sRGB 255, 128, 0 is L* 67.82, a* 45.49, b* 74.84, magenta 49.8 %, yellow 100 %.
  const text = readings([1, 128 / 255, 0], ['rgb.g', 'lab.l', 'lab.a', 'cmyk.m', 'cmyk.y']).map(
    (r) => r.text
  );
  expect(text).toEqual(['50.2', '67.8', '+45.5', '49.8', '100.0']);
});
