import { converter, wcagLuminance } from 'culori';
import { describe, expect, it } from 'vitest';
import { gainsOfLight, lightOfGains, chromaticityOf } from '../colour/light';
import { exactDecode } from '../colour/transfer';
import { fromNeutral } from '../measure/difference';
import { randomStream } from '../random';
import {
  planOf,
  floatFrame,
  noiseFrame,
  randomColours,
  render,
  softFrame,
  stepOf,
  stepped
} from '../testing';
import type { Pin } from '../document';
import type { Frame } from '../raster/frame';

const toRgb = converter('rgb');

const mean = (plane: ArrayLike<number>): number =>
  Array.from(plane).reduce((s, v) => s + v, 0) / plane.length;
const pin = (x: number, y: number, more: Partial<Pin> = {}): Pin => ({
  id: `n${x}`,
  name: `n${x}`,
  x,
  y,
  size: 1,
  role: 'neutral',
  ...more
});
const solvedBy = (frame: Frame, op: string, params: object): Record<string, number[]> => {
  const { op: found, coefficients } = planOf(frame, [stepOf(op, params)]).steps[0];
  return found.solved!(coefficients) as Record<string, number[]>;
};

/** The coded grey of the same luminance, as another library has it. */
const greyOf = ([r, g, b]: readonly number[]): number => {
  const y = wcagLuminance({ mode: 'rgb', r, g, b });
  return toRgb({ mode: 'lrgb', r: y, g: y, b: y }).r;
};

describe('a balance solved from the picture', () => {
  const frame = softFrame(200, 150);

  it('grey: the means of the channels are one', () => {
    const means = render(frame, [stepOf('balance', { method: 'grey' })]).map(mean);
    expect(Math.max(...means) - Math.min(...means)).toBeLessThan(1e-5);
    // Their grey is that of the same luminance as the mean colour had.
    expect(means[0]).toBeCloseTo(greyOf(render(frame, []).map(mean)), 5);
  });

  it('grey in linear light: the means of the light are one', () => {
    const planes = render(frame, [stepOf('balance', { method: 'grey', light: 'linear' })]);
    const means = planes.map((p) => mean(Array.from(p, exactDecode)));
    expect(Math.max(...means) - Math.min(...means)).toBeLessThan(1e-5);
  });

  it('bright: the brightest that is not clipped becomes white; what is clipped takes no part', () => {
    const colours = Array.from({ length: 500 }, () => [0.3, 0.25, 0.2]);
    colours[7] = [0.8, 0.6, 0.5];
    colours[8] = [1, 1, 0.9];
    const { gain } = solvedBy(floatFrame(500, 1, colours.flat()), 'balance', { method: 'bright' });
    gain.forEach((g, c) => expect(g).toBeCloseTo(1 / [0.8, 0.6, 0.5][c], 5));
  });

  it('ends: each channel from its own percentiles to 0 and 1, as sorting says', () => {
    const colours = randomColours(2000).map(([r, g, b]) => [0.2 + 0.5 * r, 0.1 + 0.3 * g, 0.4 + 0.2 * b]);
    const { gain, offset } = solvedBy(floatFrame(2000, 1, colours.flat()), 'balance', {
      method: 'ends',
      ends: 1
    });
    for (let c = 0; c < 3; c++) {
      const sorted = colours.map((v) => v[c]).sort((a, b) => a - b);
      // One percent of 2000 lies below the 20th and above the 1980th value.
      expect(gain[c] * sorted[19] + offset[c]).toBeLessThan(2e-3);
      expect(gain[c] * sorted[20] + offset[c]).toBeGreaterThan(-2e-3);
      expect(gain[c] * sorted[1979] + offset[c]).toBeLessThan(1 + 2e-3);
      expect(gain[c] * sorted[1980] + offset[c]).toBeGreaterThan(1 - 2e-3);
    }
  });

  it('sky: the levels of the sky are one, stars left out', () => {
    const colours = randomColours(3000).map(([r, g, b], i) =>
      i % 40 === 0 ? [0.9, 0.8, 0.9] : [0.2 + 0.02 * r, 0.15 + 0.02 * g, 0.22 + 0.02 * b]
    );
    const { offset } = solvedBy(floatFrame(3000, 1, colours.flat()), 'balance', { method: 'sky' });
    [-0.05, 0, -0.07].forEach((v, c) => expect(offset[c]).toBeCloseTo(v, 3));
  });

  describe('sky, with a white above it', () => {
    const [width, height] = [240, 160];
    const levels = [0.02, 0.031, 0.024];
    /** Stars of this colour over a sky that is not neutral, a reddish patch in the upper left, and a clipped star. */
    const star = [0.3, 0.15, 0.2];
    const random = randomStream(31);
    const rgb = new Float32Array(3 * width * height).map((_, i) => levels[i % 3] + 0.002 * (random() - 0.5));
    const glow = (x: number, y: number, light: readonly number[]): void => {
      for (let j = -6; j <= 6; j++)
        for (let k = -6; k <= 6; k++)
          light.forEach((v, c) => {
            const at = 3 * ((y + j) * width + x + k) + c;
            rgb[at] = Math.min(1, rgb[at] + v * Math.exp(-(j * j + k * k) / 4));
          });
    };
    for (let n = 0; n < 24; n++) glow(60 + 7 * n, 40 + ((n * 37) % 100), star);
    glow(30, 120, [4, 6, 9]);
    for (let y = 8; y < 24; y++)
      for (let x = 8; x < 24; x++) [0.1, 0.05, 0.02].forEach((v, c) => (rgb[3 * (y * width + x) + c] += v));
    const frame = floatFrame(width, height, rgb);
    const found = (params: object, pins: Pin[] = []): Record<string, number[]> & { whiteBy?: number } => {
      const plan = planOf(frame, [stepOf('balance', { method: 'sky', ...params })], pins, 'linear');
      const { op, coefficients } = plan.steps[0];
      return op.solved!(coefficients) as Record<string, number[]> & { whiteBy?: number };
    };
    /** Gain times colour is the same in all channels, and the sky comes to its lowest. */
    const isWhite = (
      { gain, offset }: Record<string, number[]>,
      light: readonly number[],
      within: number
    ): void => {
      const made = light.map((v, c) => v * gain[c]);
      made.forEach((v) => expect(Math.abs(v / made[0] - 1)).toBeLessThan(within));
      levels.forEach((v, c) => expect(Math.abs(gain[c] * v + offset[c] - 0.02)).toBeLessThan(2e-4));
    };

    it('the usual star is, clipped ones left out', () => {
      const by = found({ white: 'stars' });
      isWhite(by, star, 0.01);
      expect(by.whiteBy).toBeGreaterThan(15);
    });

    it('a part is, by its mean', () => {
      isWhite(found({ white: 'part', part: { x: 9, y: 9, width: 14, height: 14 } }), [0.1, 0.05, 0.02], 0.01);
    });

    it('neutral pins are', () => {
      isWhite(found({ white: 'pins' }, [pin(16, 16, { size: 9 })]), [0.1, 0.05, 0.02], 0.01);
    });

    it('is left and told where there is none', () => {
      for (const none of [
        found({ white: 'pins' }),
        found({ white: 'part', part: { x: 500, y: 0, width: 9, height: 9 } }),
        found({ white: 'part', part: null })
      ]) {
        expect(none.whiteBy).toBe(0);
        expect(none['gain']).toEqual([1, 1, 1]);
        levels.forEach((v, c) => expect(none['offset'][c]).toBeCloseTo(0.02 - v, 3));
      }
    });
  });

  it('pins: one neutral pin becomes neutral at its own luminance', () => {
    const colours = [
      [0.6, 0.5, 0.45],
      [0.2, 0.3, 0.4]
    ];
    const [after] = [
      render(floatFrame(2, 1, colours.flat()), [stepOf('balance', { method: 'pins' })], [pin(0, 0)])
    ].map((p) => p.map((v) => v[0]));
    const grey = greyOf([0.6, 0.5, 0.45]);
    after.forEach((v) => expect(v).toBeCloseTo(grey, 5));
    expect(fromNeutral(after, 'coded')).toBeLessThan(0.01);
  });

  it('pins: several weigh by their size, in least squares', () => {
    const colours = [
      [0.6, 0.5, 0.45],
      [0.3, 0.32, 0.31],
      [0.1, 0.9, 0.1]
    ];
    const pins = [pin(0, 0, { size: 1 }), pin(1, 0, { size: 1 }), pin(2, 0, { role: 'read' })];
    const plan = planOf(floatFrame(3, 1, colours.flat()), [stepOf('balance', { method: 'pins' })], pins);
    const { gain } = plan.steps[0].op.solved!(plan.steps[0].coefficients) as { gain: number[] };
    for (let c = 0; c < 3; c++) {
      const [p, q] = colours;
      expect(gain[c]).toBeCloseTo((p[c] * greyOf(p) + q[c] * greyOf(q)) / (p[c] ** 2 + q[c] ** 2), 5);
    }
  });
});

describe('the light’s temperature', () => {
  it('gives the chromaticities of the CIE: D65, D50, and a Planckian radiator at 2856 K', () => {
    const near = (found: readonly number[], wanted: readonly number[]): void =>
      found.forEach((v, i) => expect(Math.abs(v - wanted[i])).toBeLessThan(0.0008));
    near(chromaticityOf({ temperature: 6504, tint: 0 }), [0.3127, 0.329]);
    near(chromaticityOf({ temperature: 5003, tint: 0 }), [0.3457, 0.3585]);
    near(chromaticityOf({ temperature: 2856, tint: 0 }), [0.4476, 0.4074]);
  });

  it('leaves D65 alone, takes warm light towards blue, and finds the light again', () => {
    gainsOfLight({ temperature: 6504, tint: 0 }).forEach((g) => expect(Math.abs(g - 1)).toBeLessThan(0.004));
    const warm = gainsOfLight({ temperature: 3200, tint: 0 });
    expect(warm[2]).toBeGreaterThan(2 * warm[0]);
    for (const light of [
      { temperature: 2600, tint: 4 },
      { temperature: 4400, tint: -6 },
      { temperature: 7800, tint: 10 },
      { temperature: 15000, tint: 0 }
    ]) {
      const found = lightOfGains(gainsOfLight(light));
      expect(Math.abs(found.temperature / light.temperature - 1)).toBeLessThan(0.01);
      expect(Math.abs(found.tint - light.tint)).toBeLessThan(0.3);
    }
  });
});

describe('levels from the picture', () => {
  it('take each channel’s own ends and keep its middle', () => {
    const colours = Array.from({ length: 1001 }, (_, i) => [0.2 + (0.5 * i) / 1000, i / 1000, 0.5]);
    const found = stepped(colours, 'levels', { auto: { clip: 0 }, channels: { r: { mid: 2 } } });
    expect(found[0][0]).toBeCloseTo(0, 4);
    expect(found[500][0]).toBeCloseTo(Math.sqrt(0.5), 4);
    expect(found[1000][0]).toBeCloseTo(1, 4);
    // A channel of one value has no ends.
    expect(found[3][2]).toBeCloseTo(0.5, 6);
  });
});

describe('equalise', () => {
  it('turns a value into its rank, within 1e-4', () => {
    const frame = noiseFrame(180, 120, false, 'f32');
    const plane = render(frame, [])[1];
    const found = render(frame, [stepOf('equalize')])[1];
    const sorted = Float32Array.from(plane).sort();
    const n = plane.length;
    for (let i = 0; i < n; i += 97) {
      const rank = sorted.findIndex((v) => v >= plane[i]);
      // Between the part below the value and the part up to it.
      expect(found[i]).toBeGreaterThan(rank / n - 1e-4);
      expect(found[i]).toBeLessThan((rank + 1) / n + 1e-4);
    }
  });

  it('leaves missing samples out and missing', () => {
    const rgb = Float32Array.from({ length: 300 }, (_, i) => (i < 3 ? Number.NaN : 0.2 + (0.6 * i) / 300));
    const [red] = render(floatFrame(100, 1, rgb), [stepOf('equalize')]);
    expect(red[0]).toBeNaN();
    expect([red[1], red[99]]).toEqual([0, 1].map((v) => expect.closeTo(v, 4)));
  });
});
