import { describe, expect, it } from 'vitest';
import { parseDocument } from '../document';
import { measureShift } from '../path/shift';
import type { Frame } from '../raster/frame';
import { floatFrame, planOf, randomColours, renderDocument, softFrame, stepOf, stepped } from '../testing';
import type { ChannelEntry } from './channel';

describe('channel light', () => {
  const entry = (channel: string, more: Partial<ChannelEntry> = {}): object => ({ channel, ...more });
  const grey = (colour: readonly number[], stack: object[]): number =>
    stepped([colour], 'channel', { stack })[0][0];

  it('makes one grey of the stack, entry on entry', () => {
    const [r, g, b] = [0.4, 0.7, 0.2];
    expect(grey([r, g, b], [entry('rgb.g')])).toBeCloseTo(g, 6);
    expect(grey([r, g, b], [entry('rgb.r'), entry('rgb.g', { mode: 'multiply', opacity: 0.5 })])).toBeCloseTo(
      r + 0.5 * (r * g - r),
      6
    );
    expect(grey([r, g, b], [entry('rgb.r'), entry('rgb.b', { mode: 'darken', opacity: 0.6 })])).toBeCloseTo(
      r + 0.6 * (b - r),
      6
    );
    expect(grey([r, g, b], [entry('rgb.r'), entry('rgb.g', { mode: 'luminosity' })])).toBeCloseTo(g, 6);
    expect(grey([r, g, b], [entry('rgb.r'), entry('rgb.g', { mode: 'hue' })])).toBeCloseTo(r, 6);
  });

  it('begins on its own luminance, and takes inks as they lie on paper', () => {
    expect(grey([0.5, 0.5, 0.5], [])).toBeCloseTo(0.5, 5);
    // K of (0.2, 0.6, 0.8) is 0.2; C is 0.75.
    expect(grey([0.2, 0.6, 0.8], [entry('cmyk.k')])).toBeCloseTo(0.8, 6);
    expect(grey([0.2, 0.6, 0.8], [entry('cmyk.c')])).toBeCloseTo(0.25, 6);
  });

  it('never darkens anything below middle grey by an overlay that is limited to the light half', () => {
    const colours = randomColours(4000);
    const over = { mode: 'overlay' as const, under: [0.5, 0.5, 1, 1] as [number, number, number, number] };
    const out = stepped(colours, 'channel', { stack: [entry('rgb.g'), entry('rgb.g', over)] });
    let lightened = 0;
    colours.forEach(([, g], i) => {
      if (g < 0.5) expect(out[i][0]).toBe(Math.fround(g));
      // Overlay of a tone with itself lightens what lies above the middle.
      else if (out[i][0] > g) lightened++;
    });
    expect(lightened).toBeGreaterThan(1500);
  });

  it('keeps an entry to where its own mask is', () => {
    const where = { terms: [{ source: { kind: 'channel', channel: 'rgb.b' } }] } as never;
    expect(grey([0.4, 0.8, 0.25], [entry('rgb.r'), entry('rgb.g', { where })])).toBeCloseTo(
      0.4 + 0.25 * 0.4,
      6
    );
  });

  it('says what it is made of', () => {
    const step = stepOf('channel', {
      stack: [entry('rgb.r'), entry('cmyk.k', { mode: 'soft-light', opacity: 0.4 })]
    });
    expect(step.params).toMatchObject({
      stack: [{ opacity: 1, mode: 'normal', where: null }, { opacity: 0.4 }]
    });
  });
});

/** A merge of two frames of one row, by their document. */
function merged(base: Frame, other: Frame, params: object): Float32Array[] {
  const document = parseDocument({
    ...{ kromba: 1, kind: 'document', name: 'Window' },
    frames: [
      { id: 'f', name: 'a', file: 'a.png' },
      { id: 'g', name: 'b', file: 'b.png' }
    ],
    pictures: [
      {
        ...{ id: 'p', name: 'Bright', head: { kind: 'frame', frame: 'f' } },
        steps: [{ id: 's', op: 'merge', params: { from: { picture: 'q' }, ...params } }]
      },
      { id: 'q', name: 'Dark', head: { kind: 'frame', frame: 'g' } }
    ]
  });
  return [...renderDocument(document, { f: base, g: other })] as Float32Array[];
}

describe('merging exposures', () => {
  const base = floatFrame(1, 1, [0.9, 0.5, 0.2]);
  const other = floatFrame(1, 1, [0.3, 0.3, 0.3]);
  const red = (params: object): number => merged(base, other, params)[0][0];
  const at = (m: number): number => 0.9 + m * (0.3 - 0.9);

  it('joins through v^(1 + 7·reach), channels multiplied', () => {
    expect(red({ reach: { r: 1 } })).toBeCloseTo(at(0.9 ** 8), 6);
    expect(red({ reach: { r: 0.5, g: 0.25 } })).toBeCloseTo(at(0.9 ** 4.5 * 0.5 ** 2.75), 6);
    expect(red({ reach: { b: 0.1 } })).toBeCloseTo(at(0.2 ** 1.7), 6);
    expect(red({ side: 'dark', reach: { b: 1 } })).toBeCloseTo(at(0.8 ** 8), 6);
  });

  it('changes nothing without reach, or without another picture', () => {
    expect(red({})).toBeCloseTo(0.9, 6);
    expect(red({ from: null, reach: { r: 1 } })).toBeCloseTo(0.9, 6);
  });

  it('takes the grey by the luminance', () => {
    const white = floatFrame(1, 1, [1, 1, 1]);
    expect(merged(white, other, { reach: { grey: 1 } })[0][0]).toBeCloseTo(0.3, 4);
  });
});

/** A part of a soft picture with its own grain, `dx`, `dy` whole pixels further into it. */
function partOf(source: Frame, dx: number, dy: number, width: number, height: number, gain = 1): Frame {
  const rgb = new Float32Array(width * height * 3);
  const { samples } = source.levels[0];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (let c = 0; c < 3; c++)
        rgb[(y * width + x) * 3 + c] = Math.min(
          1,
          (gain * samples[((y + dy) * source.width + x + dx) * 3 + c]) / 65535
        );
  return floatFrame(width, height, rgb);
}

describe('a shift between exposures', () => {
  const scene = softFrame(460, 400, 8);
  const base = partOf(scene, 20, 20, 400, 340);

  it.each([
    [0, 0, 1],
    [7, -4, 1],
    [-11, 9, 0.3]
  ])('is found: %d, %d at %d times the light', (dx, dy, gain) => {
    // The other camera looks dx further left: its picture lies dx further right.
    const other = partOf(scene, 20 - dx, 20 - dy, 400, 340, gain);
    const found = measureShift(planOf(base), planOf(other));
    expect(found.x).toBeCloseTo(dx, 0);
    expect(Math.abs(found.x - dx)).toBeLessThan(0.25);
    expect(Math.abs(found.y - dy)).toBeLessThan(0.25);
  });

  it('is taken back sample for sample where it is whole', () => {
    const other = partOf(scene, 15, 23, 400, 340);
    const out = merged(floatFrame(400, 340, new Float32Array(400 * 340 * 3).fill(1)), other, {
      reach: { r: 1 },
      shift: [5, -3]
    });
    const wanted = base.levels[0].samples;
    for (const [x, y] of [
      [200, 100],
      [50, 60],
      [390, 300]
    ])
      expect(out[0][y * 400 + x]).toBeCloseTo(wanted[(y * 400 + x) * 3], 6);
  });
});
