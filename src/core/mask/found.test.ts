import { describe, expect, it } from 'vitest';
import { maskOf, parseDocument, stepOfHouse, type MaskSource, type SourceStep } from '../document';
import { evaluate } from '../path/evaluate';
import type { StarsSolution } from '../ops/stars';
import { randomStream, scattered } from '../random';
import type { Frame } from '../raster/frame';
import { greyFrame, largestDifference, planOf, renderDocument, stepOf } from '../testing';

/** Masks that are made of what is found in a picture. */

const seen = (source: MaskSource): SourceStep =>
  stepOfHouse('(mask)', { mask: maskOf(source), drained: false, lift: null });
const maskOn = (frame: Frame, source: MaskSource, level = 0): Float32Array => {
  const [width, height] = [frame.width, frame.height].map((v) => Math.ceil(v / 2 ** level));
  return evaluate(planOf(frame, [seen(source)], [], 'linear'), level, { x: 0, y: 0, width, height })
    .planes[0];
};

describe('a mask of one scale', () => {
  const [width, height] = [640, 64];
  it.each([
    ['a wave of 8 px', 8, 2],
    ['a wave of 8 px', 8, 1],
    ['a wave of 32 px', 32, 4]
  ])(
    'of %s (%i, layer %i) has its crests √2/12 over the middle: a sine’s are √2 of its σ',
    (_, length, layer) => {
      const wave = greyFrame(width, height, (x) => 0.3 + 0.01 * Math.cos((2 * Math.PI * x) / length));
      const mask = maskOn(wave, { kind: 'scale', channel: 'rgb.g', layer });
      const row = 32 * width;
      for (const x of [320, 320 + length]) {
        expect(mask[row + x]).toBeCloseTo(0.5 + Math.SQRT2 / 12, 1.8);
        expect(mask[row + x + length / 2]).toBeCloseTo(0.5 - Math.SQRT2 / 12, 1.8);
        expect(mask[row + x + length / 4]).toBeCloseTo(0.5, 2);
      }
    }
  );

  it('is the middle where all is even, and in a level that holds nothing so fine', () => {
    const even = greyFrame(64, 64, () => 0.3);
    expect(maskOn(even, { kind: 'scale', channel: 'lum', layer: 3 }).every((v) => v === 0.5)).toBe(true);
    const random = randomStream(3);
    const noise = greyFrame(640, 640, () => 0.3 + 0.01 * scattered(random));
    const fine = { kind: 'scale', channel: 'lum', layer: 0 } as const;
    expect(new Set(maskOn(noise, fine)).size).toBeGreaterThan(1000);
    expect(maskOn(noise, fine, 1).every((v) => v === 0.5)).toBe(true);
  });
});

/** Twelve stars far from each other. */
const stars = (): Frame => {
  const random = randomStream(8);
  const placed = Array.from({ length: 12 }, (_, k) => ({
    x: 30 + 60 * (k % 4) + 3 * random(),
    y: 30 + 60 * Math.floor(k / 4) + 3 * random()
  }));
  return greyFrame(256, 192, (x, y) =>
    placed.reduce(
      (sum, star) => sum + 0.3 * Math.exp(-((x - star.x) ** 2 + (y - star.y) ** 2) / 4),
      0.05 + 0.001 * scattered(random)
    )
  );
};

describe('a mask of stars', () => {
  const frame = stars();
  const source = { kind: 'stars', threshold: 5, largest: 30, grow: 2 } as const;
  const sumOf = (mask: Float32Array): number => mask.reduce((sum, v) => sum + v, 0);

  it.each([0, 2, 7.5, -3])('covers each by the area of its disc, grown by %d px', (grow) => {
    const [step] = planOf(frame, [stepOf('stars')], [], 'linear').steps;
    const { stars: found } = step.op.solved!(step.coefficients) as StarsSolution;
    expect(found).toHaveLength(12);
    const area = found.reduce((sum, { radius }) => sum + Math.PI * (radius + grow) ** 2, 0);
    expect(sumOf(maskOn(frame, { ...source, grow })) / area).toBeCloseTo(1, 1);
    // A quarter as many samples.
    expect((4 * sumOf(maskOn(frame, { ...source, grow }, 1))) / area).toBeCloseTo(1, 0.7);
  });

  it('is empty where none is', () => {
    expect(
      sumOf(
        maskOn(
          greyFrame(64, 48, () => 0.2),
          source
        )
      )
    ).toBe(0);
    expect(sumOf(maskOn(frame, { ...source, threshold: 100, largest: 4 }))).toBe(0);
  });
});

describe.each([
  { kind: 'scale', channel: 'lum', layer: 3 },
  { kind: 'stars', threshold: 5, largest: 30, grow: 2 }
] as const)('a mask of %j', (source) => {
  const frame = stars();

  it('comes out the same in parts', () => {
    const plan = planOf(frame, [seen(source)], [], 'linear');
    const all = evaluate(plan, 0, { x: 0, y: 0, width: 256, height: 192 }).planes[0];
    const part = { x: 77, y: 41, width: 90, height: 70 };
    const [cut] = evaluate(plan, 0, part).planes;
    const same = cut.map(
      (_, i) => all[(part.y + Math.floor(i / part.width)) * 256 + part.x + (i % part.width)]
    );
    expect(cut).toEqual(same);
  });

  it('of another picture is that picture’s: what is done to it counts, what is done here does not', () => {
    const dark = { id: 'd', op: 'levels', params: { channels: { all: { white: 0.5 } } } };
    const made = (first: object[], more: object): Float32Array =>
      renderDocument(
        parseDocument({
          ...{ kromba: 1, kind: 'document', name: 'Two' },
          frames: [{ id: 'f', name: 'f', file: 'f.fits', encoding: 'linear' }],
          pictures: [
            {
              ...{ id: 'p', name: 'One', head: { kind: 'frame', frame: 'f' } },
              steps: [...first, { id: 'i', op: 'invert', params: {}, where: maskOf({ ...source, ...more }) }]
            },
            { id: 'q', name: 'Other', head: { kind: 'frame', frame: 'f' }, steps: [dark] }
          ]
        }),
        { f: frame }
      )[0];
    const own = made([], {});
    expect(largestDifference(made([], { of: { picture: 'p', after: 'head' } }), own)).toBe(0);
    expect(largestDifference(made([dark], { of: { picture: 'q' } }), made([dark], {}))).toBeLessThan(1e-6);
    expect(
      largestDifference(made([], { of: { picture: 'p', after: 'head' } }), frame.levels[0].samples)
    ).toBeGreaterThan(0.1);
  });
});
