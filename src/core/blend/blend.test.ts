import { describe, expect, it } from 'vitest';
import { randomStream } from '../random';
import { trapezoid } from './limits';
import { blendModes, blendOver, type BlendMode } from './modes';

const N = 10_000;
const random = randomStream(41);
/** Random pairs with many exact 0, 0.25, 0.5 and 1 among them, where the formulas branch. */
const corners = [0, 0.25, 0.5, 1];
const value = (): number => (random() < 0.2 ? corners[Math.floor(random() * 4)] : Math.fround(random()));
const planes = (): Float32Array[] => [0, 1, 2].map(() => Float32Array.from({ length: N }, value));
const base = planes();
const source = planes();

/** The standard's text written out again, one channel at a time, for the oracle. */
const oracle: Partial<Record<BlendMode, (b: number, s: number) => number>> = {
  multiply: (b, s) => b * s,
  screen: (b, s) => 1 - (1 - b) * (1 - s),
  overlay: (b, s) => (b <= 0.5 ? 2 * b * s : 1 - 2 * (1 - b) * (1 - s)),
  darken: (b, s) => (b < s ? b : s),
  lighten: (b, s) => (b > s ? b : s),
  'color-dodge': (b, s) => {
    if (b === 0) return 0;
    return s === 1 ? 1 : Math.min(1, b / (1 - s));
  },
  'color-burn': (b, s) => {
    if (b === 1) return 1;
    return s === 0 ? 0 : 1 - Math.min(1, (1 - b) / s);
  },
  'hard-light': (b, s) => (s <= 0.5 ? 2 * b * s : 1 - 2 * (1 - b) * (1 - s)),
  'soft-light': (b, s) => {
    if (s <= 0.5) return b - (1 - 2 * s) * b * (1 - b);
    return b + (2 * s - 1) * ((b <= 0.25 ? 16 * b ** 3 - 12 * b ** 2 + 4 * b : Math.sqrt(b)) - b);
  },
  difference: (b, s) => (b > s ? b - s : s - b),
  exclusion: (b, s) => b + s - 2 * b * s,
  add: (b, s) => Math.min(1, b + s),
  subtract: (b, s) => Math.max(0, b - s)
};

const luma = (c: number[]): number => 0.3 * c[0] + 0.59 * c[1] + 0.11 * c[2];
const spread = (c: number[]): number => Math.max(...c) - Math.min(...c);

function blended(mode: BlendMode): Float32Array[] {
  const out = source.map((p) => p.slice());
  blendOver(mode, base, out, N);
  return out;
}

describe('blend modes', () => {
  it('has the eighteen of the format', () => expect(blendModes).toHaveLength(18));

  it.each(Object.entries(oracle))('%s is the W3C formula on random pairs', (mode, formula) => {
    const out = blended(mode as BlendMode);
    let error = 0;
    for (let c = 0; c < 3; c++) {
      for (let i = 0; i < N; i++)
        error = Math.max(error, Math.abs(out[c][i] - formula(base[c][i], source[c][i])));
    }
    expect(error).toBeLessThan(1e-6);
  });

  /** Section 9.2 of the standard written out again: Lum, ClipColor, SetLum, and SetSat by its minimum, middle, maximum. */
  const clipColour = (c: number[]): number[] => {
    const [l, n, x] = [luma(c), Math.min(...c), Math.max(...c)];
    const raised = n < 0 ? c.map((v) => l + ((v - l) * l) / (l - n)) : c;
    return x > 1 ? raised.map((v) => l + ((v - l) * (1 - l)) / (x - l)) : raised;
  };
  const setLuma = (c: number[], l: number): number[] => clipColour(c.map((v) => v + l - luma(c)));
  const setSpread = (c: number[], s: number): number[] => {
    const [min, mid, max] = [0, 1, 2].sort((i, k) => c[i] - c[k]);
    const out = [0, 0, 0];
    if (c[max] > c[min]) {
      out[mid] = ((c[mid] - c[min]) * s) / (c[max] - c[min]);
      out[max] = s;
    }
    return out;
  };

  it.each([
    ['hue', (b: number[], s: number[]) => setLuma(setSpread(s, spread(b)), luma(b))],
    ['saturation', (b: number[], s: number[]) => setLuma(setSpread(b, spread(s)), luma(b))],
    ['color', (b: number[], s: number[]) => setLuma(s, luma(b))],
    ['luminosity', (b: number[], s: number[]) => setLuma(b, luma(s))]
  ] as const)('%s is the W3C formula on random pairs', (mode, formula) => {
    const out = blended(mode);
    let error = 0;
    for (let i = 0; i < N; i++) {
      const wanted = formula(
        base.map((p) => p[i]),
        source.map((p) => p[i])
      );
      wanted.forEach((v, c) => (error = Math.max(error, Math.abs(v - out[c][i]))));
    }
    expect(error).toBeLessThan(1e-6);
  });

  it.each(['hue', 'saturation', 'color', 'luminosity'] as const)(
    '%s keeps what the standard says it keeps',
    (mode) => {
      const out = blended(mode);
      for (let i = 0; i < N; i++) {
        const b = base.map((p) => p[i]);
        const s = source.map((p) => p[i]);
        const o = out.map((p) => p[i]);
        expect(luma(o)).toBeCloseTo(luma(mode === 'luminosity' ? s : b), 5);
        expect(Math.min(...o)).toBeGreaterThan(-1e-6);
        expect(Math.max(...o)).toBeLessThan(1 + 1e-6);
        const clipped = Math.min(...o) < 1e-6 || Math.max(...o) > 1 - 1e-6;
        const wanted = { hue: spread(b), saturation: spread(s), color: spread(s), luminosity: spread(b) }[
          mode
        ];
        const grey = mode === 'saturation' ? spread(b) === 0 : mode === 'hue' && spread(s) === 0;
        if (!clipped && !grey) expect(spread(o)).toBeCloseTo(wanted, 5);
      }
    }
  );

  it('gives a worked luminosity', () => {
    // Lum(0.5, 0.25, 0.25) = 0.325, Lum(0.6, 0.6, 0.6) = 0.6: each channel rises by 0.275.
    const out = [0.6, 0.6, 0.6].map((v) => Float32Array.of(v));
    blendOver(
      'luminosity',
      [0.5, 0.25, 0.25].map((v) => Float32Array.of(v)),
      out,
      1
    );
    [0.775, 0.525, 0.525].forEach((v, c) => expect(out[c][0]).toBeCloseTo(v, 6));
  });
});

describe('limits', () => {
  it.each([
    [[0.5, 0.5, 1, 1], 0.4999, 0],
    [[0.5, 0.5, 1, 1], 0.5, 1],
    [[0.5, 0.5, 1, 1], 1.7, 1],
    [[0.2, 0.4, 0.6, 0.8], 0.3, 0.5],
    [[0.2, 0.4, 0.6, 0.8], 0.7, 0.5],
    [[0.2, 0.4, 0.6, 0.8], 0.9, 0],
    [[0, 0, 0.3, 0.3], -0.5, 1],
    [[0, 0, 0.3, 0.3], 0.3, 1],
    [[0, 0, 0.3, 0.3], 0.31, 0],
    [[0, 0.5, 1, 1], 0.25, 0.5],
    [[0, 0.5, 1, 1], -0.1, 0],
    [[0, 0, 0.5, 1], 0.75, 0.5]
  ] as [[number, number, number, number], number, number][])('%j at %d is %d', (shape, tone, wanted) => {
    expect(trapezoid(shape, tone)).toBeCloseTo(wanted, 6);
  });
});
