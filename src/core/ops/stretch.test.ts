import { describe, expect, it } from 'vitest';
import { skyOf } from '../measure/sky';
import { encodingAt } from '../path/plan';
import { evaluate } from '../path/evaluate';
import { randomStream } from '../random';
import { floatFrame, planOf, stepOf } from '../testing';
import { luminance } from '../colour/derived';

/** What a stretch makes of linear greys. */
function stretched(values: readonly number[], params: object): number[] {
  const frame = floatFrame(
    values.length,
    1,
    values.flatMap((v) => [v, v, v])
  );
  const plan = planOf(frame, [stepOf('stretch', params)], [], 'linear');
  expect(encodingAt(plan)).toBe('coded');
  return Array.from(evaluate(plan, 0, { x: 0, y: 0, width: values.length, height: 1 }).planes[0]);
}
const near = (found: readonly number[], wanted: readonly number[], digits = 5): void =>
  wanted.forEach((w, i) => expect(found[i]).toBeCloseTo(w, digits));

describe('stretch', () => {
  it('by strength is asinh(s·v)/asinh(s), as Python has it, straight beyond its ends', () => {
    near(stretched([0.1, 0, 1], { method: 'asinh', strength: 50 }), [0.5021287, 0, 1]);
    near(stretched([0.001], { method: 'asinh', strength: 1000 }), [0.11595644]);
    near(stretched([0.5], { method: 'asinh', strength: 5 }), [0.71233516]);
    // Slopes by hand: s/asinh s at 0, s/(√(1 + s²)·asinh s) at 1.
    near(
      stretched([-0.02, 1.2], { method: 'asinh', strength: 50 }),
      [-0.02 * (50 / 4.60527), 1 + 0.2 * 0.217101],
      4
    );
  });

  it('by the middle brings that to one half; worked by hand', () => {
    near(stretched([0.001, 0.02, 0.3, 0, 1], { middle: 0.02 }), [0.04675573, 0.5, 0.95454545, 0, 1]);
    // (1 − m)/m = 49 below black, m/(1 − m) = 0.020408 above white.
    near(stretched([-0.001, 1.5], { middle: 0.02 }), [-0.049, 1.010204], 4);
    // Black first: (0.06 − 0.05)/0.95.
    near(stretched([0.06, 0.05], { middle: 0.01 / 0.95, black: 0.05 }), [0.5, 0]);
  });

  it('with lights held goes on from there without a corner, ever up, to white, and tells bright tones apart', () => {
    const params = { method: 'curve', middle: 0.002, protect: 0.8 };
    const plain = { middle: 0.002 };
    // 0.8 is reached at v = (m·y)/(1 − y − m + 2my), by hand of the inverse.
    const from = (0.002 * 0.8) / (1 - 0.8 - 0.002 + 2 * 0.002 * 0.8);
    const below = [0.0005, 0.002, from * 0.99];
    near(stretched(below, params), stretched(below, plain));
    const [a, b, c] = stretched([from - 1e-5, from, from + 1e-5], params);
    expect((c - b) / (b - a)).toBeCloseTo(1, 1);
    const values = Array.from({ length: 200 }, (_, i) => from + ((1 - from) * i) / 199);
    const found = stretched(values, params);
    found.forEach((v, i) => i > 0 && expect(v).toBeGreaterThan(found[i - 1]));
    expect(found.at(-1)).toBeCloseTo(1, 6);
    const apart = (of: number[]): number => of[1] - of[0];
    expect(apart(stretched([0.2, 0.4], params))).toBeGreaterThan(4 * apart(stretched([0.2, 0.4], plain)));
    near(stretched([0.3], { ...params, protect: 1 }), stretched([0.3], plain));
  });

  it('light alone keeps the ratios of RGB', () => {
    const rgb = [0.02, 0.01, 0.005];
    const frame = floatFrame(1, 1, rgb);
    const plan = planOf(frame, [stepOf('stretch', { middle: 0.01, colour: 'hue' })], [], 'linear');
    const [r, g, b] = evaluate(plan, 0, { x: 0, y: 0, width: 1, height: 1 }).planes.map((p) => p[0]);
    expect(r / g).toBeCloseTo(2, 4);
    expect(g / b).toBeCloseTo(2, 4);
    const y = 0.2126 * 0.02 + 0.7152 * 0.01 + 0.0722 * 0.005;
    expect(luminance(r, g, b)).toBeCloseTo((0.99 * y) / ((1 - 0.02) * y + 0.01), 4);
  });

  it('from the sky brings that to its target, stars or not, each channel or all together', () => {
    const random = randomStream(9);
    const [width, height] = [120, 90];
    const level = [0.02, 0.03, 0.025];
    const rgb = Float32Array.from({ length: 3 * width * height }, (_, i) => {
      const star = Math.floor(i / 3) % 97 === 0 ? 0.4 : 0;
      return level[i % 3] + 0.002 * (random() + random() + random() - 1.5) + star;
    });
    const frame = floatFrame(width, height, rgb);
    const skies = (params: object): number[] => {
      const plan = planOf(
        frame,
        [stepOf('stretch', { auto: { below: 3, target: 0.2 }, ...params })],
        [],
        'linear'
      );
      return evaluate(plan, 0, { x: 0, y: 0, width, height }).planes.map((p) => skyOf(p).level);
    };
    for (const method of ['asinh', 'midtone']) {
      skies({ method, together: false }).forEach((v) => expect(v).toBeCloseTo(0.2, 2));
      const [r, g, b] = skies({ method });
      expect(r).toBeLessThan(b);
      expect(b).toBeLessThan(g);
      expect(b).toBeCloseTo(0.2, 1);
    }
  });
});

describe('the level of a sky', () => {
  it('is the median after three rounds of clipping at 3 σ, by hand', () => {
    // Median 5, deviations 0 1 1 2 2 3 3 995: MAD (2 + 2)/2; then 1000 is left out and 4 is the middle of seven.
    expect(skyOf(Float32Array.of(2, 3, 4, 4, 5, 6, 7, 1000))).toEqual({
      level: 4,
      sigma: expect.closeTo(1.4826, 4)
    });
    expect(skyOf(Float32Array.of(Number.NaN, 3, Number.NaN))).toEqual({ level: 3, sigma: 0 });
    expect(skyOf(new Float32Array(0))).toEqual({ level: 0, sigma: 0 });
  });
});
