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
  const numbers = ['−30', '-30', '12,5', ' 40 %', '.5', '+7'].map((text) => typed(text));
  expect(numbers).toEqual([-30, -30, 12.5, 40, 0.5, 7]);
  const none = ['', 'abc', '1-', '--3', '1e3', '1/0', '(2', '2)', '3 4x'].map((text) => typed(text));
  expect(none).toEqual(none.map(() => null));
});

it('takes simple sums, and adds what begins with a plus', () => {
  const sums = ['10/4', '1-2', '2+3*4', '3*(2+1)', '-(1+1)', '10 − 2,5', '100/3/2'].map((text) =>
    typed(text)
  );
  expect(sums).toEqual([2.5, -1, 14, 9, -2, 7.5, 100 / 6]);
  expect([typed('+5', 20), typed('+10/4', 1), typed('-5', 20)]).toEqual([25, 3.5, -5]);
});

it('reads a colour in the units of the trade', () => {
  // sRGB 255, 128, 0 is L* 67.82, a* 45.49, b* 74.84, magenta 49.8 %, yellow 100 %.
  const text = readings([1, 128 / 255, 0], 'coded', ['rgb.g', 'lab.l', 'lab.a', 'cmyk.m', 'cmyk.y']).map(
    (r) => r.text
  );
  expect(text).toEqual(['50.2', '67.8', '+45.5', '49.8', '100.0']);
});
