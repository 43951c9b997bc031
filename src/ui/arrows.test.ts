import { expect, it } from 'vitest';
import { arrowStep, listStep } from './arrows';

it('leads right and down on the screen', () => {
  expect(arrowStep({ key: 'ArrowUp' })).toEqual([0, -1]);
  expect(arrowStep({ key: 'a' })).toEqual([0, 0]);
});

it('goes through a list, moves with Alt, and stops at its ends', () => {
  const step = (key: string, at: number, altKey = false): ReturnType<typeof listStep> =>
    listStep({ key, altKey }, at, 3);
  expect(step('ArrowDown', 0)).toEqual({ order: null, at: 1 });
  expect(step('ArrowDown', 2)).toEqual({ order: null, at: 2 });
  expect(step('ArrowUp', 2, true)).toEqual({ order: [0, 2, 1], at: 1 });
  expect(step('ArrowUp', 0, true)).toEqual({ order: null, at: 0 });
  expect(step('Enter', 0)).toBeNull();
});
