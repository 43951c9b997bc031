import { wcagLuminance } from 'culori';
import { describe, expect, it } from 'vitest';
import { randomColours, stepped } from '../testing';

const one = (rgb: number[], params: object): number[] => stepped([rgb], 'rein', params)[0];
const near = (found: readonly number[], wanted: readonly number[]): void =>
  wanted.forEach((w, i) => expect(found[i]).toBeCloseTo(w, 5));

describe('rein in', () => {
  it('holds green down to the mean, the larger and the smaller of the others; by hand', () => {
    near(one([0.2, 0.8, 0.4], {}), [0.2, 0.3, 0.4]);
    near(one([0.2, 0.8, 0.4], { to: 'larger' }), [0.2, 0.4, 0.4]);
    near(one([0.2, 0.8, 0.4], { to: 'smaller' }), [0.2, 0.2, 0.4]);
    near(one([0.2, 0.8, 0.4], { amount: 0.5 }), [0.2, 0.55, 0.4]);
    near(one([0.2, 0.25, 0.4], {}), [0.2, 0.25, 0.4]);
  });

  it('holds it up where it is under, which is the same on the complement', () => {
    near(one([0.6, 0.2, 0.8], { side: 'under' }), [0.6, 0.7, 0.8]);
    near(one([0.6, 0.9, 0.8], { side: 'under' }), [0.6, 0.9, 0.8]);
    for (const rgb of randomColours(50)) {
      const turned = one(
        rgb.map((v) => 1 - v),
        { channel: 'r', amount: 0.7 }
      );
      near(
        one(rgb, { channel: 'r', amount: 0.7, side: 'under' }),
        turned.map((v) => 1 - v)
      );
    }
  });

  it('gives the light back, as another library measures it', () => {
    const light = ([r, g, b]: readonly number[]): number => wcagLuminance({ mode: 'rgb', r, g, b });
    for (const rgb of randomColours(50)) {
      const held = one(rgb, { keepLight: true });
      if (held.some((v) => v > 1)) continue;
      expect(light(held)).toBeCloseTo(light(rgb), 3);
    }
  });
});
