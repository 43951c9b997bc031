import { expect, it } from 'vitest';
import { leftOut, someOf } from './some-of';

it.each([
  [[], ''],
  [['a'], 'a'],
  [['a', 'b', 'c'], 'a, b, c'],
  [['a', 'b', 'c', 'd', 'e'], 'a, b, c and 2 more']
])('%j is told as “%s”', (names, told) => expect(someOf(names)).toBe(told));

it('tells each reason once, in the order in which they were met', () => {
  const ones = [
    ['kiln', 'No worker.'],
    ['jug', 'Cut off.'],
    ['cloth', 'No worker.'],
    ['rope', 'No worker.'],
    ['lid', 'No worker.']
  ].map(([name, why]) => ({ name, why }));
  expect(leftOut(ones, ['is not there.', 'are not there.'])).toEqual([
    '“kiln”, “cloth”, “rope” and 1 more are not there. No worker.',
    '“jug” is not there. Cut off.'
  ]);
  expect(leftOut([], ['', ''])).toEqual([]);
});
