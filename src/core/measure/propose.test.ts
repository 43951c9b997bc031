import { converter } from 'culori';
import { describe, expect, it } from 'vitest';
import type { PinReading } from '../ops/op';
import { randomStream } from '../random';
import { stepped } from '../testing';
import { proposeMix, separate } from './propose';

let count = 0;
const pin = (role: PinReading['role'], rgb: [number, number, number], size = 5): PinReading => ({
  id: `p${count++}`,
  name: role,
  role,
  size,
  rgb
});
const total = (row: Record<string, number>): number => row['r'] + row['g'] + row['b'];

describe('a mix from pins', () => {
  it('makes one neutral pin neutral and moves the kept ones little, totals held', () => {
    const pins = [
      pin('neutral', [0.7, 0.55, 0.62]),
      pin('keep', [0.1, 0.4, 0.4]),
      pin('keep', [0.5, 0.5, 0.5])
    ];
    const { rows, residuals } = proposeMix(pins, true, 'coded', 'coded')!;
    for (const row of Object.values(rows)) expect(total(row)).toBeCloseTo(1, 9);
    expect(residuals[0].before).toBeGreaterThan(12);
    expect(residuals[0].after).toBeLessThan(0.5);
    // A grey is no problem where totals are held.
    expect(residuals[2].after).toBeLessThan(0.2);
    expect(residuals[1].after).toBeLessThan(8);
  });

  it('is the least-squares solution: no small change of a weight makes it better', () => {
    const pins = [
      pin('neutral', [0.7, 0.55, 0.62]),
      pin('neutral', [0.3, 0.22, 0.28]),
      pin('keep', [0.1, 0.4, 0.4])
    ];
    const { rows } = proposeMix(pins, false, 'coded', 'coded')!;
    const cost = (all: Record<string, Record<string, number>>): number =>
      ['r', 'g', 'b'].reduce((sum, out, c) => {
        const row = all[out];
        const still = ['r', 'g', 'b'].reduce((s, k) => s + 2e-3 * (row[k] - Number(k === out)) ** 2, 0);
        return pins.reduce((s, { rgb, role, size }) => {
          const found = row['r'] * rgb[0] + row['g'] * rgb[1] + row['b'] * rgb[2];
          const grey = 0.2126 * rgb[0] + 0.7152 * rgb[1] + 0.0722 * rgb[2];
          return s + size * (role === 'neutral' ? 400 * (found - grey) ** 2 : (found - rgb[c]) ** 2);
        }, sum + still);
      }, 0);
    const base = cost(rows);
    for (const out of ['r', 'g', 'b']) {
      for (const input of ['r', 'g', 'b']) {
        for (const d of [-0.01, 0.01]) {
          expect(cost({ ...rows, [out]: { ...rows[out], [input]: rows[out][input] + d } })).toBeGreaterThan(
            base - 1e-5
          );
        }
      }
    }
  });

  it('works in LAB, told by culori: neutral pins lose their a* and b*, lightness and kept ones stay', () => {
    const toLab = converter('lab');
    const lab = ([r, g, b]: readonly number[]) => toLab({ mode: 'rgb', r, g, b });
    const pins = [
      pin('neutral', [0.7, 0.55, 0.62]),
      pin('neutral', [0.3, 0.22, 0.28]),
      pin('keep', [0.1, 0.4, 0.4]),
      pin('keep', [0.6, 0.3, 0.2])
    ];
    const { rows, apply, residuals } = proposeMix(pins, false, 'lab', 'coded')!;
    expect(Object.keys(rows)).toEqual(['a', 'b']);
    for (const { rgb, role } of pins) {
      const [before, after] = [lab(rgb), lab(apply(rgb))];
      expect(after.l).toBeCloseTo(before.l, 1);
      if (role === 'neutral') expect(Math.hypot(after.a, after.b)).toBeLessThan(0.3);
      else expect(Math.hypot(after.a - before.a, after.b - before.b)).toBeLessThan(8);
    }
    expect(residuals[0].before).toBeGreaterThan(12);
    // The step makes of it what the proposal says.
    const [mixed] = stepped([pins[0].rgb], 'mix', { model: 'lab', rows });
    apply(pins[0].rgb).forEach((v, c) => expect(mixed[c]).toBeCloseTo(v, 4));
  });

  it('asks for a neutral pin', () =>
    expect(proposeMix([pin('keep', [0.2, 0.3, 0.4])], true, 'coded', 'coded')).toBeNull());
});

describe('weights that separate two pins', () => {
  const random = randomStream(4);
  const colour = (): [number, number, number] => [random(), random(), random()];
  const greyOf = (w: readonly number[], rgb: readonly number[]): number =>
    w.reduce((s, v, c) => s + v * rgb[c], 0);
  const asList = (found: ReturnType<typeof separate>): number[] =>
    ['rgb.r', 'rgb.g', 'rgb.b'].map((id) => found!.weights[id as 'rgb.r']);

  /** The best that a search over all weights finds: how much lighter the wanted pin is. */
  function searched(pins: readonly { rgb: readonly number[] }[]): number {
    let best = -Infinity;
    for (let r = -1; r <= 2.0001; r += 0.02) {
      for (let g = -1; g <= 2.0001; g += 0.02) {
        const w = [r, g, 1 - r - g];
        if (w[2] < -1.0001 || w[2] > 2.0001) continue;
        const [a, b] = pins.map((p) => greyOf(w, p.rgb));
        if (Math.min(a, b) < 0.02 - 1e-9 || Math.max(a, b) > 0.98 + 1e-9) continue;
        best = Math.max(best, a - b);
      }
    }
    return best;
  }

  it('reach what a search over all weights reaches, the wanted one light', () => {
    for (let round = 0; round < 12; round++) {
      const pins = [pin('want', colour()), pin('avoid', colour())];
      const w = asList(separate(pins));
      expect(w[0] + w[1] + w[2]).toBeCloseTo(1, 6);
      const [a, b] = pins.map((p) => greyOf(w, p.rgb));
      expect(a - b).toBeGreaterThan(searched(pins) - 1e-3);
      expect(a).toBeGreaterThan(b);
      expect(Math.min(a, b)).toBeGreaterThan(0.0199);
      expect(Math.max(a, b)).toBeLessThan(0.9801);
    }
  });

  it('turn round with the roles', () => {
    const [one, other] = [colour(), colour()];
    const there = separate([pin('want', one), pin('avoid', other)])!;
    const back = separate([pin('want', other), pin('avoid', one)])!;
    expect(there.want).toBeGreaterThan(there.avoid);
    expect(back.want).toBeGreaterThan(back.avoid);
    expect(greyOf(asList(there), one)).toBeGreaterThan(greyOf(asList(there), other));
    expect(greyOf(asList(back), other)).toBeGreaterThan(greyOf(asList(back), one));
  });

  it('clip no more of the picture than others that are as good', () => {
    for (let round = 0; round < 4; round++) {
      const pins = [pin('want', colour()), pin('avoid', colour())];
      const samples = Array.from({ length: 200 }, colour);
      const found = separate(pins, samples)!;
      const best = searched(pins);
      let least = Infinity;
      for (let r = -1; r <= 2.0001; r += 0.05) {
        for (let g = -1; g <= 2.0001; g += 0.05) {
          const w = [r, g, 1 - r - g];
          if (w[2] < -1 || w[2] > 2) continue;
          const [a, b] = pins.map((p) => greyOf(w, p.rgb));
          if (a - b < best - 0.003 || Math.min(a, b) < 0.02 || Math.max(a, b) > 0.98) continue;
          const clipped = samples.filter((rgb) => greyOf(w, rgb) <= 0 || greyOf(w, rgb) >= 1).length / 200;
          least = Math.min(least, clipped);
        }
      }
      expect(found.clipped).toBeLessThanOrEqual(least + 1e-9);
      const w = asList(found);
      const counted = samples.filter((rgb) => greyOf(w, rgb) <= 0 || greyOf(w, rgb) >= 1).length / 200;
      expect(Math.abs(found.clipped - counted)).toBeLessThanOrEqual(0.01);
    }
  });

  it('ask for a pin of each role, and say so where nothing makes the wanted one lighter', () => {
    expect(separate([pin('want', [0.1, 0.2, 0.3])])).toBeNull();
    expect(separate([pin('want', [0.4, 0.4, 0.4]), pin('avoid', [0.6, 0.6, 0.6])])).toBeNull();
  });
});
