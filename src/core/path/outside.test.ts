import { converter, type Mode } from 'culori';
import { expect, it } from 'vitest';
import { randomColours } from '../testing';
import type { Raster } from '../raster/raster';
import type { SpaceId } from '../colour/output';
import { hatchOutside, outsideOf } from './outside';

/** Another's: the same spaces by culori, from coded sRGB that goes beyond 0…1. */
const MODES: readonly (readonly [SpaceId, Mode])[] = [
  ['srgb', 'rgb'],
  ['display-p3', 'p3'],
  ['adobe-rgb', 'a98'],
  ['rec2020', 'rec2020'],
  ['prophoto', 'prophoto']
];
const rasterOf = (colours: readonly (readonly number[])[], alpha: Float32Array | null = null): Raster => ({
  ...{ x: 0, y: 0, width: colours.length, height: 1, scale: 1, encoding: 'coded', alpha },
  planes: [0, 1, 2].map((c) =>
    Float32Array.from(colours, (colour) => colour[c])
  ) as unknown as Raster['planes']
});
/** Nearer to the edge than this, roundings of either decide. */
const EDGE = 0.01;

it.each(MODES)('counts what lies outside %s as culori does', (space, mode) => {
  const convert = converter(mode) as unknown as (colour: object) => Record<string, number>;
  const colours = randomColours(6000, 3).map((colour) => colour.map((v) => 1.5 * v - 0.25));
  const beyond = colours.map(([r, g, b]) => {
    const { r: x, g: y, b: z } = convert({ mode: 'rgb', r, g, b });
    return Math.max(-Math.min(x, y, z), Math.max(x, y, z) - 1);
  });
  const clear = colours.filter((_, i) => Math.abs(beyond[i]) > EDGE);
  const wanted = beyond.filter((v) => v > EDGE).length;
  expect(wanted).toBeGreaterThan(1000);
  expect(outsideOf(rasterOf(clear), { space })).toEqual({ outside: wanted, pixels: clear.length });
});

it('counts neither what is missing, nor what is wholly transparent, nor what rounding loses', () => {
  const colours = [
    [1.2, 0.5, 0.5],
    [Number.NaN, 2, 2],
    [1.2, 0.5, 0.5],
    [1 + 3e-6, -3e-6, 0.5],
    [0, 1, 1]
  ];
  const alpha = Float32Array.of(1, 1, 0, 1, 0.5);
  expect(outsideOf(rasterOf(colours, alpha), { space: 'srgb' })).toEqual({ outside: 1, pixels: 3 });
  // A linear picture whose file is encoded is judged as it is written.
  const linear: Raster = { ...rasterOf([[0.5, -0.01, 0.2]]), encoding: 'linear' };
  expect(outsideOf(linear, { space: 'srgb', encoding: 'coded' }).outside).toBe(1);
  expect(outsideOf(linear, { space: 'prophoto', encoding: 'linear' }).outside).toBe(0);
});

it('hatches them alone', () => {
  const colours = Array.from({ length: 48 }, (_, i) => (i < 24 ? [0.5, 0.5, 0.5] : [0.5, 1.4, 0.5]));
  const rgba = new Uint8ClampedArray(4 * 48).fill(100);
  hatchOutside(rasterOf(colours), { space: 'srgb' }, rgba);
  const greens = Array.from({ length: 48 }, (_, i) => rgba[4 * i + 1]);
  expect(greens.slice(0, 24).every((v) => v === 100)).toBe(true);
  expect(greens.slice(24, 36)).toEqual([255, 255, 0, 0, ...Array<number>(8).fill(100)]);
  expect(Array.from({ length: 48 }, (_, i) => rgba[4 * i + 3]).every((v) => v === 100)).toBe(true);
});
