import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { codingOf } from '../colour/output';
import { randomStream } from '../random';
import { buildPyramid, readRegion, sharedSamples, type Frame, type Layout, type SampleType } from './frame';
import { crop, grow, takeRaster, tileRect, tilesIn } from './raster';
import { resample } from './resample';

const WIDTH = 37;
const HEIGHT = 23;
const MOST = { u8: 255, u16: 65535, f32: 1 };

function frameOf(layout: Layout, alpha: boolean, type: SampleType): Frame {
  const random = randomStream(4);
  const channels = { grey: 1, rgb: 3, cmyk: 4 }[layout] + (alpha ? 1 : 0);
  const samples = sharedSamples(type, WIDTH * HEIGHT * channels);
  for (let i = 0; i < samples.length; i++) samples[i] = random() * MOST[type];
  const levels = buildPyramid({ width: WIDTH, height: HEIGHT, samples }, channels);
  return {
    width: WIDTH,
    height: HEIGHT,
    layout,
    alpha,
    sampleType: type,
    encoding: 'coded',
    levels,
    missing: 0
  };
}

describe('a frame', () => {
  it.each([
    ['grey', false, 'u8'],
    ['grey', true, 'u16'],
    ['rgb', false, 'u8'],
    ['rgb', true, 'u16'],
    ['rgb', false, 'f32'],
    ['cmyk', false, 'u8'],
    ['cmyk', true, 'u16']
  ] as [Layout, boolean, SampleType][])('of %s (alpha: %s, %s) is widened to RGB', (layout, alpha, type) => {
    const frame = frameOf(layout, alpha, type);
    const { samples } = frame.levels[0];
    const colours = { grey: 1, rgb: 3, cmyk: 4 }[layout];
    const rect = { x: 5, y: 3, width: 20, height: 11 };
    const raster = takeRaster(rect, { alpha, encoding: 'coded' });
    readRegion(frame, 0, raster);
    for (let i = 0; i < rect.width * rect.height; i++) {
      const at =
        ((rect.y + Math.floor(i / rect.width)) * WIDTH + rect.x + (i % rect.width)) *
        (colours + (alpha ? 1 : 0));
      const s = Array.from(samples.subarray(at, at + colours + 1), (v) => v / MOST[type]);
      const wanted =
        layout === 'grey'
          ? [s[0], s[0], s[0]]
          : layout === 'rgb'
            ? s
            : [0, 1, 2].map((c) => (1 - s[c]) * (1 - s[3]));
      for (let c = 0; c < 3; c++) expect(raster.planes[c][i]).toBeCloseTo(wanted[c], 6);
      if (alpha) expect(raster.alpha![i]).toBeCloseTo(s[colours], 6);
    }
  });

  it('has 8-bit levels of 16-bit means, edges included', () => {
    const { levels } = frameOf('rgb', false, 'u8');
    expect(levels.map((l) => [l.width, l.height])).toEqual([[37, 23]]);
    const samples = sharedSamples('u8', 5 * 3);
    samples.set([10, 20, 30, 40, 50, 60, 70, 80, 90, 100, 110, 120, 130, 140, 150]);
    const wide = sharedSamples('u8', 130 * 3);
    wide.set(samples);
    const [, half] = buildPyramid({ width: 130, height: 3, samples: wide }, 1);
    expect([half.width, half.height]).toEqual([65, 2]);
    // (10 + 20 + 0 + 0) / 4 · 257, the second row of the source being 0 from here on.
    expect(half.samples[0]).toBe(Math.floor((30 * 257 + 2) / 4));
  });

  it.each([130, 131, 133, 135])('halves three channels of 16 bit, %d wide, to rounded means', (width) => {
    const [height, channels] = [5, 3];
    const samples = sharedSamples('u16', width * height * channels);
    samples.forEach((_, i) => (samples[i] = i % 11 === 0 ? 65535 : (i * 40503) % 65536));
    const [, half] = buildPyramid({ width, height, samples }, channels);
    expect([half.width, half.height]).toEqual([Math.ceil(width / 2), 3]);
    const at = (x: number, y: number, c: number): number =>
      samples[(Math.min(y, height - 1) * width + Math.min(x, width - 1)) * channels + c];
    const wanted = Array.from(half.samples, (_, i) => {
      const [c, pixel] = [i % channels, Math.floor(i / channels)];
      const [x, y] = [2 * (pixel % half.width), 2 * Math.floor(pixel / half.width)];
      return Math.round((at(x, y, c) + at(x + 1, y, c) + at(x, y + 1, c) + at(x + 1, y + 1, c)) / 4);
    });
    expect([...half.samples]).toEqual(wanted);
  });

  it('leaves missing floats out of the means', () => {
    const samples = sharedSamples('f32', 130 * 2);
    samples[0] = 0.5;
    samples[1] = Number.NaN;
    samples[130] = 0.1;
    samples[131] = 0.3;
    const [, half] = buildPyramid({ width: 130, height: 2, samples }, 1);
    expect(half.samples[0]).toBeCloseTo(0.3, 6);
  });
});

describe('rectangles', () => {
  it('are cut into tiles that meet and cover', () => {
    const rect = { x: -20, y: 100, width: 700, height: 300 };
    const tiles = tilesIn(rect, 600, 420).map(({ column, row }) => tileRect(column, row, 600, 420));
    expect(tiles).toHaveLength(6);
    expect(tiles.reduce((sum, t) => sum + t.width * t.height, 0)).toBe(600 * 420);
  });

  it('grow up to the edges of the picture', () => {
    expect(grow({ x: 2, y: 10, width: 5, height: 5 }, 4, 30, 17)).toEqual({
      x: 0,
      y: 6,
      width: 11,
      height: 11
    });
  });

  it('are cropped to the samples under them', () => {
    const raster = takeRaster({ x: 10, y: 20, width: 4, height: 3 }, { alpha: false, encoding: 'coded' });
    raster.planes.forEach((p, c) => p.forEach((_, i) => (p[i] = 100 * c + i)));
    const cut = crop(raster, { x: 11, y: 21, width: 2, height: 2 });
    expect(Array.from(cut.planes[1])).toEqual([105, 106, 109, 110]);
    expect(crop(raster, raster)).toBe(raster);
  });
});

describe('resampling', () => {
  const random = randomStream(8);
  const data = Uint8Array.from({ length: 90 * 60 * 3 }, () => random() * 256);
  const asTheyStand = codingOf('srgb', 'linear');

  it.each([
    [60, 40],
    [75, 31]
  ])('of values to %d×%d agrees with sharp’s Lanczos 3', async (width, height) => {
    const wanted = await sharp(data, { raw: { width: 90, height: 60, channels: 3 } })
      .resize(width, height, { kernel: 'lanczos3', fit: 'fill' })
      .raw()
      .toBuffer();
    const found = resample(data, 90, 60, 3, width, height, { coding: asTheyStand });
    const off = wanted.reduce((sum, v, i) => sum + Math.abs(v - found[i]), 0) / wanted.length;
    expect(off).toBeLessThan(1.5);
  });

  it.each([
    [60, 40],
    [31, 20]
  ])('of colours to %d×%d agrees with sharp’s in linear light', async (width, height) => {
    const wanted = await sharp(data, { raw: { width: 90, height: 60, channels: 3 } })
      .pipelineColourspace('scrgb')
      .resize(width, height, { kernel: 'lanczos3', fit: 'fill' })
      .toColourspace('srgb')
      .raw()
      .toBuffer();
    const found = resample(data, 90, 60, 3, width, height);
    const off = wanted.reduce((sum, v, i) => sum + Math.abs(v - found[i]), 0) / wanted.length;
    expect(off).toBeLessThan(1.5);
  });

  it('of black and white in turn is the grey of half the light', () => {
    const lines = Uint16Array.from({ length: 64 * 64 * 3 }, (_, i) => (Math.floor(i / 3) % 2 ? 65535 : 0));
    // Half the light is coded as 0.735357 (IEC 61966-2-1).
    const found = resample(lines, 64, 64, 3, 8, 8);
    // In the middle, where the picture's edge does not count.
    for (let y = 2; y < 6; y++) {
      for (let x = 2; x < 6; x++)
        expect(Math.abs(found[3 * (8 * y + x)] / 65535 - 0.735357)).toBeLessThan(0.002);
    }
  });

  it('lets colours that can’t be seen take no part', () => {
    const rgba = Uint8Array.from({ length: 16 * 16 * 4 }, (_, i) => {
      const seen = Math.floor(i / 4) % 2 === 0;
      return i % 4 === 3 ? (seen ? 255 : 0) : seen ? 120 : 255;
    });
    const found = resample(rgba, 16, 16, 4, 4, 4, { alpha: true });
    for (let i = 0; i < found.length; i += 4) {
      for (let c = 0; c < 3; c++) expect(Math.abs(found[i + c] - 120)).toBeLessThanOrEqual(1);
      // Half of it; at the picture's edge the first column counts more.
      expect(Math.abs(found[i + 3] - 127.5)).toBeLessThanOrEqual(12);
    }
  });

  it('of floats of which some are missing is sharp’s of the others over sharp’s of where they are', async () => {
    const [width, height, toWidth, toHeight] = [90, 60, 31, 20];
    const missing = Array.from({ length: width * height }, (_, i) => random() < 0.3 || i % width < 7);
    const values = Float32Array.from(missing, () => random());
    // In 16 bits with room below 0 and above 1.
    const theirs = async (of: readonly number[]): Promise<number[]> => {
      const stored = Uint16Array.from(of, (v) => 16384 + 32768 * v);
      const { buffer, byteOffset } = await sharp(stored, { raw: { width, height, channels: 1 } })
        .toColourspace('grey16')
        .resize(toWidth, toHeight, { kernel: 'lanczos3', fit: 'fill' })
        .raw({ depth: 'ushort' })
        .toBuffer();
      const made = new Uint16Array(buffer, byteOffset, toWidth * toHeight);
      return Array.from(made, (v) => (v - 16384) / 32768);
    };
    const sums = await theirs(missing.map((is, i) => (is ? 0 : values[i])));
    const weights = await theirs(missing.map((is) => (is ? 0 : 1)));
    const holed = values.map((v, i) => (missing[i] ? NaN : v));
    const found = resample(holed, width, height, 1, toWidth, toHeight, { coding: asTheyStand });
    let [off, count] = [0, 0];
    weights.forEach((weight, i) => {
      // Near the half of the weight a little less or more decides.
      if (Math.abs(weight - 0.5) > 0.02) expect(Number.isNaN(found[i]), `${i}: ${weight}`).toBe(weight < 0.5);
      if (weight < 0.52) return;
      off += Math.abs(found[i] - sums[i] / weight);
      count++;
    });
    expect(count).toBeGreaterThan(400);
    expect(off / count).toBeLessThan(0.006);
  });

  it('leaves an even area as it is and keeps the range of floats', () => {
    expect(new Set(resample(new Uint16Array(300).fill(4321), 10, 10, 3, 7, 4))).toEqual(new Set([4321]));
    const floats = resample(new Float32Array(300).fill(1.75), 10, 10, 3, 3, 3);
    expect(Math.max(...floats)).toBeCloseTo(1.75, 6);
  });
});
