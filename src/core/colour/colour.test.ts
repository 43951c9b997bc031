import { converter } from 'culori';
import { instantiate } from 'lcms-wasm';
import { describe, expect, it } from 'vitest';
import { channels, fillChannel, modelOf, models, newPlanes, readChannels, toReadout, channelOf } from '.';
import { randomStream } from '../random';
import { cubeRoot, decode, encode, exactDecode, exactEncode } from './transfer';

const N = 12_000;
/** Pixel formats and flags of lcms2.h. */
const RGB_FLOAT = (1 << 22) | (4 << 16) | (3 << 3) | 4;
const LAB_FLOAT = (1 << 22) | (10 << 16) | (3 << 3) | 4;
const RELATIVE = 1;
const NO_SHORTCUTS = 0x0140;
/** Even, saturated and out-of-range colours. */
function colours(low: number, high: number): Float32Array[] {
  const next = randomStream(20261124);
  const planes = newPlanes(3, N);
  for (let i = 0; i < N; i++) {
    for (const p of planes) {
      const v = low + (high - low) * next();
      p[i] = i % 3 === 0 ? (v > (low + high) / 2 ? high : low) : v;
    }
  }
  return planes;
}

function labOf(rgb: Float32Array[]): number[][] {
  const out = newPlanes(3, N);
  modelOf('lab').kernels.coded.fromRgb(rgb, out, N);
  return Array.from({ length: N }, (_, i) => [
    out[0][i] * 100,
    (out[1][i] - 0.5) * 256,
    (out[2][i] - 0.5) * 256
  ]);
}

const worst = (a: number[][], b: number[][]): number =>
  a.reduce((m, row, i) => Math.max(m, ...row.map((v, c) => Math.abs(v - b[i][c]))), 0);

describe('transfer', () => {
  it('reads the tables as the formula, odd about zero, and goes back', () => {
    for (let v = -3; v < 20; v += 0.00137) {
      expect(Math.abs(decode(v) - exactDecode(v))).toBeLessThan(4e-8 * Math.max(1, v * v));
      expect(Math.abs(encode(v) - exactEncode(v))).toBeLessThan(3e-7 * Math.max(1, Math.abs(v)));
      expect(decode(-v)).toBe(-decode(v));
    }
    for (let t = 2 ** -7; t < 20; t *= 1.0013) {
      expect(Math.abs(cubeRoot(t) / Math.cbrt(t) - 1)).toBeLessThan(2e-7);
    }
  });
});

describe('LAB', () => {
  it('gives the known answers', () => {
    const known: [number[], number[]][] = [
      [
        [255, 0, 0],
        [54.29, 80.81, 69.89]
      ],
      [
        [0, 255, 0],
        [87.82, -79.28, 80.99]
      ],
      [
        [0, 0, 255],
        [29.57, 68.29, -112.03]
      ],
      [
        [128, 128, 128],
        [53.59, 0, 0]
      ],
      [
        [255, 128, 0],
        [67.82, 45.49, 74.84]
      ]
    ];
    for (const [rgb, lab] of known) {
      const read = readChannels([rgb[0] / 255, rgb[1] / 255, rgb[2] / 255], 'coded');
      ['lab.l', 'lab.a', 'lab.b'].forEach((id, c) =>
        expect(Math.abs(toReadout(channelOf(id), read[id]) - lab[c]), `${rgb} ${id}`).toBeLessThan(0.0075)
      );
    }
  });

  it('agrees with culori within 0.02, inside and outside 0…1', () => {
    const toLab = converter('lab');
    for (const [low, high] of [
      [0, 1],
      [-0.1, 1.2]
    ] as const) {
      const rgb = colours(low, high);
      const theirs = Array.from({ length: N }, (_, i) => {
        const { l, a, b } = toLab({ mode: 'rgb', r: rgb[0][i], g: rgb[1][i], b: rgb[2][i] });
        return [l, a, b];
      });
      expect(worst(labOf(rgb), theirs)).toBeLessThan(0.02);
    }
  });

  it('agrees with lcms within 0.02, up to 1.3 times white', async () => {
    const lcms = await instantiate();
    const rgb = colours(0, 1.3);
    const transform = lcms.cmsCreateTransform(
      lcms.cmsCreate_sRGBProfile(),
      RGB_FLOAT,
      lcms.cmsCreateLab4Profile(),
      LAB_FLOAT,
      RELATIVE,
      NO_SHORTCUTS
    );
    const interleaved = Float32Array.from({ length: 3 * N }, (_, i) => rgb[i % 3][Math.floor(i / 3)]);
    const out = lcms.cmsDoTransform(transform, interleaved, N);
    const theirs = Array.from({ length: N }, (_, i) => [out[3 * i], out[3 * i + 1], out[3 * i + 2]]);
    expect(worst(labOf(rgb), theirs)).toBeLessThan(0.02);
  });
});

describe('the other models', () => {
  it('agrees with culori on HSV and on the chroma and hue of LAB', () => {
    const rgb = colours(0, 1);
    const toHsv = converter('hsv');
    const toLch = converter('lch');
    const read = Object.fromEntries(channels.map(({ id }) => [id, new Float32Array(N)]));
    for (const { id } of channels) fillChannel(id, rgb, 'coded', read[id], N);
    for (let i = 0; i < N; i++) {
      const colour = { mode: 'rgb' as const, r: rgb[0][i], g: rgb[1][i], b: rgb[2][i] };
      const hsv = toHsv(colour);
      const lch = toLch(colour);
      expect(read['hsv.s'][i]).toBeCloseTo(hsv.s, 5);
      expect(read['hsv.v'][i]).toBeCloseTo(hsv.v, 5);
      if (hsv.s > 0.001) expect(read['hsv.h'][i] * 360).toBeCloseTo(hsv.h ?? 0, 2);
      expect(Math.abs(read['lch.c'][i] * 128 - lch.c)).toBeLessThan(0.02);
      const turn = (lch.h ?? 0) / 360 - read['lch.h'][i];
      if (lch.c > 1) expect(Math.abs(Math.sin(2 * Math.PI * turn)) * lch.c).toBeLessThan(0.02);
    }
  });

  it('puts ink on paper by the formula', () => {
    // Worked by hand: R 0.8 G 0.5 B 0.2 → n = 0.2, C = 0, M = 0.3/0.8, Y = 0.6/0.8, K = 0.2.
    const read = readChannels([0.8, 0.5, 0.2], 'coded');
    expect(read['cmyk.c']).toBeCloseTo(0, 6);
    expect(read['cmyk.m']).toBeCloseTo(0.375, 6);
    expect(read['cmyk.y']).toBeCloseTo(0.75, 6);
    expect(read['cmyk.k']).toBeCloseTo(0.2, 6);
    expect(readChannels([-0.2, 0, 0], 'coded')).toMatchObject({
      'cmyk.c': 0,
      'cmyk.m': 0,
      'cmyk.y': 0,
      'cmyk.k': 1
    });
  });

  it('takes the grey of the same luminance for lum, and 0.5 for warm where there is no colour', () => {
    const read = readChannels([0.25, 0.25, 0.25], 'coded');
    expect(read['lum']).toBeCloseTo(0.25, 6);
    expect(read['warm']).toBeCloseTo(0.5, 6);
    // Rec. 709: pure green has 71.52 % of the light of white, which sRGB codes as 0.86264.
    expect(readChannels([0, 1, 0], 'coded')['lum']).toBeCloseTo(exactEncode(0.7152), 6);
  });

  it.each(models.map((m) => [m.id]))('%s leads back to RGB within 1e-5', (id) => {
    const model = modelOf(id);
    for (const [low, high] of id === 'cmyk' || id === 'hsv'
      ? [[0, 1]]
      : [
          [0, 1],
          [-0.2, 1.3]
        ]) {
      const rgb = colours(low, high);
      const values = newPlanes(model.planes, N);
      const back = newPlanes(3, N);
      model.kernels.coded.fromRgb(rgb, values, N);
      model.kernels.coded.toRgb(values, back, N);
      const error = rgb.reduce(
        (m, p, c) => p.reduce((e, v, i) => Math.max(e, Math.abs(v - back[c][i])), m),
        0
      );
      expect(error).toBeLessThan(1e-5);
    }
  });
});
