import { converter, differenceCiede2000 } from 'culori';
import { describe, expect, it } from 'vitest';
import { exactDecode, exactEncode } from '../colour/transfer';
import { deltaE2000, fromNeutral, labOf } from '../measure/difference';
import { randomColours, stepped } from '../testing';
import { bandAt } from './colour';
import { glasses, monoTotal } from './mono';

const colours = randomColours(400);
const toLch = converter('lch');
const toRgb = converter('rgb');
type Lch = { l: number; c: number; h: number };
const lchOf = ([r, g, b]: readonly number[]): Lch => {
  const { l, c, h } = toLch({ mode: 'rgb', r, g, b });
  return { l, c, h: h ?? 0 };
};
const rgbOf = ({ l, c, h }: Lch): number[] => {
  const { r, g, b } = toRgb({ mode: 'lch', l, c, h });
  return [r, g, b];
};

/** Every channel within `within` of what `wanted` says; 1e-4 of 0…1 where nothing else is said. */
function expectAll(
  found: readonly number[][],
  wanted: (colour: number[], i: number) => readonly number[],
  within = 1e-4
): void {
  found.forEach((v, i) => {
    const w = wanted(colours[i], i);
    v.forEach((x, c) => expect(Math.abs(x - w[c]), `${colours[i]}: ${v} ≠ ${w}`).toBeLessThan(within));
  });
}

const toLab = converter('lab');
/** Stored L, a and b within 1e-4 of those of the colour that `wanted` says, both as culori reads them. */
function expectLab(found: readonly number[][], wanted: (colour: number[]) => readonly number[]): void {
  const stored = ([r, g, b]: readonly number[]): number[] => {
    const lab = toLab({ mode: 'rgb', r, g, b });
    return [lab.l / 100, lab.a / 256, lab.b / 256];
  };
  found.forEach((v, i) => {
    const w = stored(wanted(colours[i]));
    stored(v).forEach((x, c) => expect(Math.abs(x - w[c]), `${colours[i]}`).toBeLessThan(1e-4));
  });
}

describe('differences of colour', () => {
  it('agree with culori’s CIEDE2000 within 1e-9', () => {
    const theirs = differenceCiede2000();
    const labs = colours.map(([r, g, b]) => [100 * r, 200 * g - 100, 200 * b - 100] as const);
    labs.slice(1).forEach((lab, i) => {
      const [p, q] = [labs[i], lab].map(([l, a, b]) => ({ mode: 'lab65' as const, l, a, b }));
      expect(deltaE2000(labs[i], lab)).toBeCloseTo(theirs(p, q), 9);
    });
    expect(fromNeutral([0.42, 0.42, 0.42], 'coded')).toBeLessThan(0.01);
  });
});

describe('mono', () => {
  it('adds channels of any model: hand-worked (0.8, 0.5, 0.2)', () => {
    // 0.5·R + 0.2·K (0.2) − 0.4·M (0.375) + 0.1 = 0.4 + 0.04 − 0.15 + 0.1
    const weights = { 'rgb.r': 0.5, 'cmyk.k': 0.2, 'cmyk.m': -0.4 };
    stepped([[0.8, 0.5, 0.2]], 'mono', { weights, constant: 0.1 })[0].forEach((v) =>
      expect(v).toBeCloseTo(0.39, 6)
    );
  });

  it('is the weighted sum of red, green and blue within 1e-6', () => {
    const found = stepped(colours, 'mono', { weights: { 'rgb.r': 1.24, 'rgb.g': -0.5, 'rgb.b': 0.4 } });
    expectAll(found, ([r, g, b]) => Array(3).fill(1.24 * r - 0.5 * g + 0.4 * b), 1e-6);
  });

  it('divides by the total where asked, and leaves no total alone', () => {
    const normalize = true;
    expect(
      stepped([[0.8, 0.5, 0.2]], 'mono', { weights: { 'rgb.r': 2, 'rgb.b': 2 }, normalize })[0][0]
    ).toBeCloseTo(0.5, 6);
    expect(
      stepped([[0.8, 0.5, 0.2]], 'mono', { weights: { 'rgb.r': 1, 'rgb.b': -1 }, normalize })[0][0]
    ).toBeCloseTo(0.6, 6);
  });

  it('has starting points that each total 100 %', () => {
    for (const { weights } of glasses) expect(monoTotal({ weights })).toBeCloseTo(1, 9);
  });
});

describe('balance', () => {
  it('is gain and offset in coded values and in linear light, within 2e-6', () => {
    const [gain, offset] = [
      { r: 1.2, g: 0.9, b: 1.1 },
      { r: -0.05, b: 0.02 }
    ];
    const [g, o] = [
      [1.2, 0.9, 1.1],
      [-0.05, 0, 0.02]
    ];
    expectAll(stepped(colours, 'balance', { gain, offset }), (c) => c.map((v, i) => v * g[i] + o[i]), 1e-6);
    expectAll(
      stepped(colours, 'balance', { gain, offset, light: 'linear' }),
      (c) => c.map((v, i) => exactEncode(exactDecode(v) * g[i] + o[i])),
      2e-6
    );
  });
});

describe('levels', () => {
  const of = { black: 0.1, mid: 1.6, white: 0.85, outBlack: 0.05, outWhite: 0.95 };
  /** By hand: the power between the ends; above, its slope at 1; below, that of its first hundredth. */
  const by = (x: number): number => {
    const t = (x - 0.1) / 0.75;
    const power = t < 0 ? (t * 0.01 ** (1 / 1.6)) / 0.01 : t > 1 ? 1 + (t - 1) / 1.6 : t ** (1 / 1.6);
    return 0.05 + 0.9 * power;
  };

  it('is (x − black)/(white − black) to the power of 1/mid, into its ends, within 1e-5', () => {
    const found = stepped(colours, 'levels', { channels: { g: of } });
    expectAll(found, ([r, g, b]) => [r, by(g), b], 1e-5);
  });

  it('goes straight on past its ends', () => {
    const [[a], [b]] = stepped(
      [
        [0.85, 0, 0],
        [0.86, 0, 0]
      ],
      'levels',
      { channels: { r: of } }
    );
    expect(a).toBeCloseTo(0.95, 6);
    // The slope at white: 0.9 · (1/1.6) / 0.75.
    expect(b - a).toBeCloseTo((0.01 * 0.9) / 1.6 / 0.75, 6);
    expect(stepped([[-0.5, 0, 0]], 'levels', { channels: { r: { black: 0.1 } } })[0][0]).toBeCloseTo(
      -0.6 / 0.9,
      6
    );
  });

  it('works each channel, then all together, in the values of its model', () => {
    // By hand: 0.4 → (0.4 − 0.2)/0.8 = 0.25 → ^(1/2) = 0.5.
    const channels = { r: { black: 0.2 }, all: { mid: 2 } };
    expect(stepped([[0.4, 0.25, 1]], 'levels', { channels })[0]).toEqual(
      [0.5, 0.5, 1].map((v) => expect.closeTo(v, 5))
    );
    const [rgb] = stepped(
      [[0.6, 0.4, 0.3]],
      'levels',
      { channels: { l: { white: 0.8 } } },
      { on: { model: 'lab', channels: ['l'] } }
    );
    const [before, after] = [labOf([0.6, 0.4, 0.3], 'coded'), labOf(rgb, 'coded')];
    expect(after[0]).toBeCloseTo(before[0] / 0.8, 3);
    expect([after[1], after[2]]).toEqual([before[1], before[2]].map((v) => expect.closeTo(v, 3)));
  });
});

describe('curves', () => {
  it('go through their points, monotone, with the slopes of the paper', () => {
    const points = [
      [0, 0],
      [0.25, 0.1],
      [0.5, 0.6],
      [1, 1]
    ];
    const xs = Array.from({ length: 201 }, (_, i) => i / 200);
    const found = stepped(
      xs.map((x) => [x, x, x]),
      'curves',
      { curves: { r: points } }
    ).map((v) => v[0]);
    for (const [x, y] of points) expect(found[Math.round(200 * x)]).toBeCloseTo(y, 6);
    found.slice(1).forEach((v, i) => expect(v).toBeGreaterThanOrEqual(found[i]));
    // Secants 0.4, 2, 0.8; at 0.25 the harmonic mean 3(0.5)/((0.75)/0.4 + (0.75)/2); at 0.5 with h 0.25 and 0.5.
    const [h, d] = [0.25, 2];
    const t1 = 1.5 / (0.75 / 0.4 + 0.75 / 2);
    const t2 = (1.25 + 1) / (1.25 / 2 + 1 / 0.8);
    const hermite = (u: number): number =>
      (2 * u ** 3 - 3 * u ** 2 + 1) * 0.1 +
      (u ** 3 - 2 * u ** 2 + u) * h * t1 +
      (3 * u ** 2 - 2 * u ** 3) * (0.1 + d * h) +
      (u ** 3 - u ** 2) * h * t2;
    for (const u of [0.2, 0.4, 0.6, 0.8])
      expect(found[Math.round(200 * (0.25 + u * h))]).toBeCloseTo(hermite(u), 5);
  });

  it('go straight on past both ends', () => {
    const curves = {
      all: [
        [0.2, 0.1],
        [0.8, 1]
      ]
    };
    const [[low], [high]] = stepped(
      [
        [0, 0, 0],
        [1, 1, 1]
      ],
      'curves',
      { curves }
    );
    expect([low, high]).toEqual([0.1 - 0.3, 1 + 0.3].map((v) => expect.closeTo(v, 6)));
  });
});

describe('colour', () => {
  it('turns, saturates and lightens in LCh as culori does, within 1e-4', () => {
    const found = stepped(colours, 'colour', { hue: 25, saturation: -30, lightness: 10 });
    expectLab(found, (c) => {
      const { l, c: chroma, h } = lchOf(c);
      return rgbOf({ l: l * 1.1, c: chroma * 0.7, h: h + 25 });
    });
  });

  it('changes bands by a raised cosine about their centres', () => {
    const bands = [
      { centre: 40, width: 80, hue: -20, saturation: 60 },
      { centre: 350, width: 60, lightness: -30 }
    ];
    const found = stepped(colours, 'colour', { bands });
    expectLab(found, (c) => {
      const { l, c: chroma, h } = lchOf(c);
      const cosine = (centre: number, width: number): number => {
        const off = Math.abs(((h - centre + 540) % 360) - 180);
        return off < width / 2 ? 0.5 * (1 + Math.cos((2 * Math.PI * off) / width)) : 0;
      };
      const [one, two] = [cosine(40, 80), cosine(350, 60)];
      const fade = Math.min(1, chroma / 8);
      return rgbOf({ l: l * (1 - 0.3 * two * fade), c: chroma * (1 + 0.6 * one), h: h - 20 * one });
    });
    expect([bandAt({ centre: 0, width: 60 }, 345), bandAt({ centre: 0, width: 60 }, 30)]).toEqual([
      expect.closeTo(0.5, 9),
      0
    ]);
  });

  it('gives vibrance to the pale', () => {
    expectLab(stepped(colours, 'colour', { vibrance: 80 }), (c) => {
      const { l, c: chroma, h } = lchOf(c);
      return rgbOf({ l, h, c: chroma * (1 + 0.8 * Math.max(0, 1 - chroma / 100)) });
    });
  });
});

describe('weigh', () => {
  it('brightens linear light by the primaries’ shares, within 2e-6', () => {
    const found = stepped(colours, 'weigh', { target: 'brightness', weights: { r: 0.5, b: -0.25 } });
    expectAll(
      found,
      (c) => {
        const [r, g, b] = c.map(exactDecode);
        const gain = 1 + (0.5 * r - 0.25 * b) / (r + g + b);
        return [r, g, b].map((v) => exactEncode(v * gain));
      },
      2e-6
    );
  });

  it('saturates by the shares, the mean taken off where asked', () => {
    const found = stepped(colours, 'weigh', { weights: { r: 0.6, g: 0.3 }, normalize: true });
    expectLab(found, (colour) => {
      const [r, g, b] = colour.map(exactDecode);
      const { l, c, h } = lchOf(colour);
      return rgbOf({ l, h, c: c * (1 + (0.3 * r - 0.3 * b) / (r + g + b)) });
    });
  });
});

describe('tint', () => {
  it('keeps L and gives one hue, strongest in the middle', () => {
    expectLab(stepped(colours, 'tint', { hue: 80, saturation: 50 }), (c) => {
      const { l } = lchOf(c);
      return rgbOf({ l, h: 80, c: 40 * 4 * (l / 100) * (1 - l / 100) });
    });
  });

  it('reads a gradient by luminance, level beyond its ends', () => {
    const stops = [
      { at: 0.2, rgb: [0.1, 0, 0.2] },
      { at: 0.6, rgb: [0.5, 0.4, 0.2] },
      { at: 0.9, rgb: [1, 0.9, 0.8] }
    ];
    expectAll(stepped(colours, 'tint', { stops }), (c) => {
      const [r, g, b] = c.map(exactDecode);
      const tone = exactEncode(0.2126 * r + 0.7152 * g + 0.0722 * b);
      const [from, to] = tone < 0.6 ? [stops[0], stops[1]] : [stops[1], stops[2]];
      const t = Math.min(1, Math.max(0, (tone - from.at) / (to.at - from.at)));
      return from.rgb.map((v, k) => v + (to.rgb[k] - v) * t);
    });
  });
});

describe('invert', () => {
  it('is 1 − x, and leaves grey grey in a and b', () => {
    expectAll(stepped(colours, 'invert'), (c) => c.map((v) => 1 - v), 1e-6);
    const found = stepped(colours, 'invert', {}, { on: { model: 'lab', channels: ['a', 'b'] } });
    expectLab(found, (c) => {
      const { l, c: chroma, h } = lchOf(c);
      return rgbOf({ l, c: chroma, h: h + 180 });
    });
  });
});
