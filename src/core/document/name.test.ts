import { describe, expect, it } from 'vitest';
import { freeName, freeNames, LONGEST_NAME } from './name';

const called = (...names: string[]): { name: string }[] => names.map((name) => ({ name }));

describe('names that nothing else has', () => {
  it('count on from what is called the same, and stay as they are where nothing is', () => {
    expect(freeName(called('Kiln', 'Kiln, 2'), 'Kiln')).toBe('Kiln, 3');
    expect(freeName(called('Kiln', 'Kiln, 3'), 'Kiln, 3')).toBe('Kiln, 2');
    expect(freeName(called('Kiln'), 'kiln')).toBe('kiln');
  });

  it('are known to each other where several come', () => {
    const free = freeNames(called('Kiln'));
    expect(['Kiln', 'Kiln', 'Jug', 'Jug', 'Jug, 2'].map(free)).toEqual([
      ...['Kiln, 2', 'Kiln, 3', 'Jug', 'Jug, 2', 'Jug, 3']
    ]);
  });

  it('stay as short as a document takes them', () => {
    const long = 'k'.repeat(LONGEST_NAME);
    expect(freeName(called(long), long)).toBe(`${'k'.repeat(LONGEST_NAME - 3)}, 2`);
  });
});
