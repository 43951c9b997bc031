import { describe, expect, it } from 'vitest';
import type { Raster } from '../raster/raster';
import { screenPixels } from './view';

const raster = (colours: readonly (readonly number[])[], x = 0): Raster => ({
  x,
  y: 0,
  width: colours.length,
  height: 1,
  planes: [0, 1, 2].map((c) => Float32Array.from(colours, (rgb) => rgb[c])),
  encoding: 'coded',
  alpha: null
});
const shown = (pixels: Uint8ClampedArray, i: number): number[] => [...pixels.subarray(4 * i, 4 * i + 4)];

describe('what is shown', () => {
  it('in colour is rounded and clamped, missing samples black', () => {
    const pixels = screenPixels(
      raster([
        [1.4, 0.5, -0.2],
        [Number.NaN, Number.NaN, Number.NaN]
      ]),
      'colour'
    );
    expect(shown(pixels, 0)).toEqual([255, 128, 0, 255]);
    expect(shown(pixels, 1)).toEqual([0, 0, 0, 255]);
  });

  it('of a channel is its stored value as grey, ink as it lies on paper', () => {
    // By hand: (0.8, 0.5, 0.2) holds 37.5 % magenta, which is 62.5 % bright.
    const pixels = screenPixels(raster([[0.8, 0.5, 0.2]]), { channel: 'cmyk.m' });
    expect(shown(pixels, 0)).toEqual([159, 159, 159, 255]);
    const green = screenPixels(raster([[0.8, 0.5, 0.2]]), { channel: 'rgb.g' });
    expect(shown(green, 0).slice(0, 3)).toEqual([128, 128, 128]);
  });

  it('of clipping hatches what stands at an end, and drains the rest to dim grey', () => {
    const row = Array.from({ length: 16 }, (_, i) => (i < 8 ? [1.2, 0.5, 0.5] : [0.5, 0.5, 0.5]));
    const pixels = screenPixels(raster(row), { clipped: ['rgb.r'], ends: 'high' });
    const tones = Array.from({ length: 16 }, (_, i) => shown(pixels, i)[0]);
    // Two tones take turns every four pixels where red is clipped.
    expect(new Set(tones.slice(0, 4)).size).toBe(1);
    expect(tones[0]).not.toBe(tones[4]);
    expect(Math.min(tones[0], tones[4])).toBeGreaterThan(180);
    // 0.12 + 0.3 · 0.5 elsewhere.
    expect(new Set(tones.slice(8))).toEqual(new Set([Math.round(255 * 0.27)]));
  });

  it('hatches over the picture, not over the tile', () => {
    const row = Array.from({ length: 8 }, () => [0, 0.5, 0.5]);
    const at = (x: number): number[] =>
      Array.from(
        { length: 8 },
        (_, i) => shown(screenPixels(raster(row, x), { clipped: ['rgb.r'], ends: 'low' }), i)[0]
      );
    expect(at(4)).not.toEqual(at(0));
    expect(at(8)).toEqual(at(0));
  });

  it('looks only at the end and the channels that are asked for', () => {
    const both = raster([[0, 1, 0.5]]);
    const dim = (view: Parameters<typeof screenPixels>[1]): boolean =>
      shown(screenPixels(both, view), 0)[0] < 128;
    expect(dim({ clipped: ['rgb.b'], ends: 'both' })).toBe(true);
    expect(dim({ clipped: ['rgb.r'], ends: 'high' })).toBe(true);
    expect(dim({ clipped: ['rgb.g'], ends: 'high' })).toBe(false);
  });
});
