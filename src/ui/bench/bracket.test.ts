import { describe, expect, it } from 'vitest';
import { readValues, type TriedNumber } from './bracket.svelte';

const number: TriedNumber = {
  ...{
    name: 'Weight',
    unit: '%',
    now: () => 0,
    min: -200,
    max: 200,
    least: -1000,
    most: 1000,
    digits: 2,
    log: false
  },
  set: () => undefined
};

describe('values that a number is tried at', () => {
  it('are a list, with any spaces, signs and decimal points', () => {
    expect(readValues('10, 20, 35', number, 5, 9)).toEqual([10, 20, 35]);
    expect(readValues('−10  0 12,5', number, 5, 9)).toEqual([-10, 0, 12.5]);
    expect(readValues('1; 2;3;4.25', number, 5, 9)).toEqual([1, 2, 3, 4.25]);
  });

  it('are spread from one to another, as many as there were', () => {
    expect(readValues('0 … 60', number, 4, 9)).toEqual([0, 20, 40, 60]);
    expect(readValues('0..60', number, 3, 9)).toEqual([0, 30, 60]);
    expect(readValues('-10 to 10', number, 5, 9)).toEqual([-10, -5, 0, 5, 10]);
    // Radii go by ratio: (v + 1) is 1, 10, 100.
    expect(readValues('0 … 99', { ...number, log: true, least: 0 }, 3, 9)).toEqual([0, 9, 99]);
  });

  it('stay within what may be typed, and are 3 to 9', () => {
    expect(readValues('-5000, 0, 5000', number, 5, 9)).toEqual([-1000, 0, 1000]);
    expect(readValues('1 2', number, 5, 9)).toBe('3 to 9 values, please');
    expect(readValues('1 2 3 4 5 6', number, 5, 5)).toBe('3 to 5 values, please');
    expect(readValues('1, two, 3', number, 5, 9)).toBe('“two” is no number');
  });
});
