import { describe, expect, it } from 'vitest';
import { fitNodes, lattice } from './fit';
import { throughTable } from './table';

type Scalar = (r: number, g: number, b: number) => number;
const none = [0, 1, 2].map(() => new Float32Array(0));
/** Nodes of one channel fitted to a function; the others are the same. */
const fit = (size: number, f: Scalar, often = none): Float32Array =>
  fitNodes(
    size,
    (planes) => {
      const made = Array.from(planes[0], (_, i) => f(planes[0][i], planes[1][i], planes[2][i]));
      for (const plane of planes) plane.set(made);
    },
    often
  )[0];
const on = (size: number, f: Scalar): Float32Array => {
  const [r, g, b] = lattice(size);
  return r.map((_, i) => f(r[i], g[i], b[i]));
};

/** What a cube of these nodes makes of places. */
function through(size: number, nodes: Float32Array, planes: readonly Float32Array[]): Float32Array {
  const values = Float32Array.from({ length: 3 * nodes.length }, (_, i) => nodes[Math.floor(i / 3)]);
  const out = planes.map((plane) => plane.slice()) as [Float32Array, Float32Array, Float32Array];
  const cube = { size, low: [0, 0, 0], high: [1, 1, 1], values };
  throughTable({ title: '', curves: null, cube }, out, out, planes[0].length, 'tetrahedral');
  return out[0];
}

describe('nodes fitted to a function', () => {
  it('stay on one that is straight', () => {
    const straight: Scalar = (r, g, b) => 0.1 + 0.5 * r - 0.3 * g + 0.7 * b;
    const nodes = fit(9, straight);
    on(9, straight).forEach((v, i) => expect(nodes[i]).toBeCloseTo(v, 6));
  });

  it('come nearer to a bent one on the mean, and hold the greys', () => {
    const bent: Scalar = (r, g, b) => r * r + 0.5 * g * g + b * g;
    const nodes = fit(17, bent);
    const plain = on(17, bent);
    const places = lattice(50);
    const wanted = on(50, bent);
    const error = (of: Float32Array): { mean: number; worst: number } => {
      const found = through(17, of, places).map((v, i) => Math.abs(v - wanted[i]));
      return {
        mean: found.reduce((a, v) => a + v) / found.length,
        worst: found.reduce((a, v) => Math.max(a, v))
      };
    };
    const [before, after] = [error(plain), error(nodes)];
    expect(after.mean).toBeLessThan(0.75 * before.mean);
    expect(after.worst).toBeLessThanOrEqual(before.worst);
    for (let i = 0; i < 17; i++) expect(nodes[i * (1 + 17 + 289)]).toBe(plain[i * (1 + 17 + 289)]);
  });

  it('come nearest where colours come often', () => {
    const bent: Scalar = (r, g) => r * r * g;
    // A thousand times the same two colours, in the midst of cells far from the greys.
    const often = [
      [0.72, 0.91],
      [0.22, 0.35],
      [0.41, 0.03]
    ].map(([a, b]) => Float32Array.from({ length: 2000 }, (_, i) => (i % 2 ? a : b)));
    const error = (of: Float32Array): number[] => {
      const two = often.map((plane) => plane.slice(0, 2));
      return Array.from(through(9, of, two), (v, i) => Math.abs(v - bent(two[0][i], two[1][i], two[2][i])));
    };
    const [plain, fitted] = [error(on(9, bent)), error(fit(9, bent, often))];
    plain.forEach((v, i) => expect(fitted[i]).toBeLessThan(0.05 * v));
  });
});
