import { describe, expect, it } from 'vitest';
import { randomStream } from '../random';
import { throughTable, type Cube, type Interpolation, type Table } from './table';

/** A cube whose nodes hold what `of` makes of their colours. */
function cubeOf(size: number, of: (rgb: number[]) => number[], low = [0, 0, 0], high = [1, 1, 1]): Cube {
  const values = new Float32Array(3 * size ** 3);
  const place = (i: number, c: number): number => low[c] + ((high[c] - low[c]) * i) / (size - 1);
  for (let b = 0; b < size; b++)
    for (let g = 0; g < size; g++)
      for (let r = 0; r < size; r++)
        values.set(of([place(r, 0), place(g, 1), place(b, 2)]), 3 * (r + size * (g + size * b)));
  return { size, low, high, values };
}
const tableOf = (cube: Cube | null, curves: Table['curves'] = null): Table => ({ title: '', curves, cube });

function through(table: Table, colour: readonly number[], by: Interpolation = 'tetrahedral'): number[] {
  const planes = colour.map((v) => Float32Array.of(v));
  throughTable(table, planes, planes, 1, by);
  return planes.map(([v]) => v);
}
const near = (found: readonly number[], expected: readonly number[], digits = 6): void =>
  found.forEach((v, c) => expect(v).toBeCloseTo(expected[c], digits));

const random = randomStream(5);
const colours = Array.from({ length: 300 }, () => [random(), random(), random()]);
const ways = ['tetrahedral', 'trilinear'] as const;

describe('a cube', () => {
  it.each(ways)('gives back what it holds at its nodes, and straight between them, by %s', (by) => {
    const mixed = ([r, g, b]: number[]): number[] => [0.2 * r + 0.8 * g, b - 0.5 * r, 0.1 + 0.9 * b];
    for (const size of [2, 5, 17]) {
      const table = tableOf(cubeOf(size, mixed));
      for (const colour of colours) near(through(table, colour, by), mixed(colour), 5);
      near(through(table, [1, 1, 1], by), mixed([1, 1, 1]));
      near(through(table, [0, 0, 0], by), mixed([0, 0, 0]));
    }
  });

  it('is cut into tetrahedra about its grey diagonal, by hand', () => {
    // All 0 but the corner of pure red: of a colour r ≥ g ≥ b it has the part r − g, of others none.
    const corner = tableOf(cubeOf(2, ([r, g, b]) => [r * (1 - g) * (1 - b), 0, 0]));
    near(through(corner, [0.75, 0.5, 0.25]), [0.25, 0, 0]);
    near(through(corner, [0.75, 0.25, 0.5]), [0.25, 0, 0]);
    near(through(corner, [0.5, 0.75, 0.25]), [0, 0, 0]);
    near(through(corner, [0.25, 0.5, 0.75]), [0, 0, 0]);
    // Trilinear takes r (1 − g)(1 − b) of it: 0.75 · 0.5 · 0.75.
    near(through(corner, [0.75, 0.5, 0.25], 'trilinear'), [0.28125, 0, 0]);
    // Yellow, r and g: of r ≥ g ≥ b the part g − b.
    const yellow = tableOf(cubeOf(2, ([r, g, b]) => [r * g * (1 - b), 0, 0]));
    near(through(yellow, [0.75, 0.5, 0.25]), [0.25, 0, 0]);
    near(through(yellow, [0.5, 0.75, 0.25]), [0.25, 0, 0]);
    near(through(yellow, [0.25, 0.75, 0.5]), [0, 0, 0]);
  });

  it.each(ways)('has a domain, and holds what lies beyond at its edge, by %s', (by) => {
    const double = cubeOf(9, (rgb) => rgb.map((v) => v / 2), [0, -1, 0], [2, 1, 4]);
    near(through(tableOf(double), [1.5, -0.5, 3], by), [0.75, -0.25, 1.5]);
    near(through(tableOf(double), [3, -2, -1], by), [1, -0.5, 0]);
  });

  it.each(ways)('leaves missing what is missing, by %s', (by) => {
    const same = tableOf(cubeOf(3, (rgb) => rgb));
    expect(through(same, [Number.NaN, Number.NaN, Number.NaN], by)).toEqual([NaN, NaN, NaN]);
    expect(through(same, [Number.NaN, 0.5, 0.5], by)[0]).toBeNaN();
  });
});

describe('curves', () => {
  const values = Float32Array.of(0, 0, 1, 0.5, 0.1, 0.6, 0.6, 0.9, 0.2, 1, 1, 0);
  const curves = { size: 4, low: [0, 0, 0], high: [1, 1, 1], values };

  it('are straight between their values, each channel by its own', () => {
    // A third of the way from the first to the second value of red, and so on, by hand.
    near(through(tableOf(null, curves), [1 / 9, 1 / 2, 5 / 6]), [0.5 / 3, 0.5, 0.1], 6);
    near(through(tableOf(null, curves), [-1, 2, 1]), [0, 1, 0]);
    expect(through(tableOf(null, curves), [Number.NaN, 0.5, 0.5])[0]).toBeNaN();
  });

  it('come before the cube', () => {
    const turned = cubeOf(2, ([r, g, b]) => [1 - r, g, b]);
    near(through(tableOf(turned, curves), [1 / 9, 1 / 2, 5 / 6]), [1 - 0.5 / 3, 0.5, 0.1]);
  });
});
