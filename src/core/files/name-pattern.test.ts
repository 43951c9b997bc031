import { describe, expect, it } from 'vitest';
import { nameBy, namePattern, stemOf } from './name-pattern';

const parts = { name: 'jug 012', look: 'Faded print', n: 7, count: 40, date: new Date(2026, 2, 5, 23, 59) };

describe('names of files that are made', () => {
  it.each([
    ['{name}', 'jug 012'],
    ['{name}-{look}', 'jug 012-Faded print'],
    ['{date} {n}', '2026-03-05 07'],
    ['plain', 'plain'],
    ['a/b:{name}?', 'a-b-jug 012-'],
    ['..{name}. ', 'jug 012'],
    ['..', 'picture-7'],
    ['CON', 'CON-']
  ])('%s becomes %s', (pattern, name) => {
    expect(namePattern.safeParse(pattern).success).toBe(true);
    expect(nameBy(pattern, parts)).toBe(name);
  });

  it('are cut where they are long, between whole characters', () => {
    const long = nameBy('{name}', { ...parts, name: '🏺'.repeat(300) });
    expect(Array.from(long)).toHaveLength(80);
    expect(long.endsWith('🏺')).toBe(true);
  });

  it.each([
    ['', 'must not be empty'],
    ['{title}', '“{title}” is not known: use {name}, {look}, {n} or {date}'],
    ['{}', '“{}” is not known'],
    ['{name', 'has a brace that is not closed'],
    ['name}', 'has a brace that is not closed or not opened'],
    ['{constructor}', '“{constructor}” is not known'],
    ['x'.repeat(201), 'must be at most 200']
  ])('“%s” is refused: %s', (pattern, why) => {
    const { error } = namePattern.safeParse(pattern);
    expect(error?.issues[0].message).toContain(why);
  });

  it.each([
    ['a/b/jug.tile.png', 'jug.tile'],
    ['C:\\pictures\\jug.png', 'jug'],
    ['jug', 'jug'],
    ['.hidden', '.hidden']
  ])('%s is called %s', (file, stem) => expect(stemOf(file)).toBe(stem));
});
