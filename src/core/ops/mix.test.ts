import { converter } from 'culori';
import { describe, expect, it } from 'vitest';
import { wholeField } from '../spatial/field';
import { randomStream } from '../random';
import { givenFor } from './op';
import { modelOf } from '../colour';
import { holdTotal, mix, rowOf, rowSentence, rowTotal, type MixParams } from './mix';

const params = (given: object): MixParams => mix.params.parse(given);

/** The mix of one colour. */
function mixed(given: object, colour: readonly number[]): number[] {
  const planes = colour.map((v) => Float32Array.of(v));
  const patch = {
    ...wholeField({ x: 0, y: 0, width: 1, height: 1 }),
    scale: 1,
    taken: [],
    absent: [],
    encoding: 'coded' as const,
    planes
  };
  mix.kernel(patch, mix.prepare(params(given), givenFor(modelOf('rgb')), null), planes);
  return planes.map((p) => p[0]);
}

function expectClose(found: readonly number[], wanted: readonly number[], within = 1e-6): void {
  found.forEach((v, c) => expect(Math.abs(v - wanted[c]), `${found} ≠ ${wanted}`).toBeLessThan(within));
}

const random = randomStream(7);
const colours = Array.from({ length: 300 }, () => [random(), random(), random()]);

describe('mix in RGB', () => {
  it('leaves everything alone by default', () => {
    for (const colour of colours) expect(mixed({}, colour)).toEqual(colour.map(Math.fround));
  });

  it('swaps red and blue exactly', () => {
    for (const [r, g, b] of colours) {
      expect(mixed({ rows: { r: { b: 1 }, b: { r: 1 } } }, [r, g, b])).toEqual([b, g, r].map(Math.fround));
    }
  });

  it('turns (0.8, 0.5, 0.2) into (0.8, 0.5, 0.35) by row b {r −0.4, g 1.3, b 0.1}', () => {
    expectClose(mixed({ rows: { b: { r: -0.4, g: 1.3, b: 0.1 } } }, [0.8, 0.5, 0.2]), [0.8, 0.5, 0.35]);
  });

  it('leaves every grey alone where each row totals 100 %', () => {
    const rows = {
      r: { r: 1.7, g: -0.4, b: -0.3 },
      g: { r: 0.2, g: 0.5, b: 0.3 },
      b: { r: -1, g: 0.5, b: 1.5 }
    };
    for (let v = -0.2; v <= 1.3; v += 0.05) {
      expectClose(mixed({ rows }, [v, v, v]), [v, v, v]);
      expectClose(mixed({ rows, light: 'linear' }, [v, v, v]), [v, v, v], 2e-6);
    }
  });

  it('adds the constant and keeps values outside 0…1', () => {
    expectClose(
      mixed({ rows: { r: { r: 2, constant: 0.1 }, g: { constant: -0.5 } } }, [0.9, 0.5, 0.2]),
      [1.9, -0.5, 0.2]
    );
  });

  it('divides by the sum of the weights, and leaves a row with no sum alone', () => {
    const rows = { r: { r: 1, g: 1, constant: 0.1 }, g: { g: 1, b: -1 } };
    expectClose(mixed({ rows, normalize: true }, [0.2, 0.6, 0.5]), [0.5, 0.1, 0.5]);
  });

  it('adds light in linear light', () => {
    const toLinear = converter('lrgb');
    const toCoded = converter('rgb');
    for (const [r, g, b] of colours) {
      const light = toLinear({ mode: 'rgb', r, g, b });
      const { r: wanted } = toCoded({ ...light, r: 0.5 * light.r + 0.25 * light.g + 0.1 });
      const [found] = mixed({ light: 'linear', rows: { r: { r: 0.5, g: 0.25, constant: 0.1 } } }, [r, g, b]);
      expect(found).toBeCloseTo(wanted, 5);
    }
  });
});

describe('mix in CMYK', () => {
  it('works on the inks: magenta out where there is magenta, in where there is yellow', () => {
    // By hand: (0.8, 0.5, 0.2) is C 0, M 0.375, Y 0.75, K 0.2; M becomes 0.5·0.375 + 0.2·0.75 = 0.3375.
    expectClose(mixed({ model: 'cmyk', rows: { m: { m: 0.5, y: 0.2 } } }, [0.8, 0.5, 0.2]), [
      0.8,
      (1 - 0.3375) * 0.8,
      0.2
    ]);
  });

  it('turns black ink into cyan', () => {
    // K 0.2 moves to C: C = 0 + 0.2, K = 0.
    expectClose(mixed({ model: 'cmyk', rows: { c: { c: 1, k: 1 }, k: {} } }, [0.8, 0.5, 0.2]), [
      0.8,
      1 - 0.375,
      1 - 0.75
    ]);
  });
});

describe('mix in LAB', () => {
  const toLab = converter('lab');
  const toRgb = converter('rgb');
  it.each([
    ['a and b exchanged', { a: { b: 1 }, b: { a: 1 } }, (l: number, a: number, b: number) => [l, b, a]],
    [
      'half of L/100 into a/128',
      { a: { a: 1, l: 0.5 } },
      (l: number, a: number, b: number) => [l, a + (0.5 * l * 128) / 100, b]
    ],
    [
      'a tenth of b/128 into L/100',
      { l: { l: 1, b: 0.1 } },
      (l: number, a: number, b: number) => [l + (0.1 * b * 100) / 128, a, b]
    ],
    [
      'a constant of 0.05 on b/128',
      { b: { b: 1, constant: 0.05 } },
      (l: number, a: number, b: number) => [l, a, b + 6.4]
    ]
  ])('agrees with culori: %s', (_, rows, change) => {
    for (const [r, g, b] of colours) {
      const lab = toLab({ mode: 'rgb', r, g, b });
      const [l, a, b2] = change(lab.l, lab.a, lab.b);
      const wanted = toRgb({ mode: 'lab', l, a, b: b2 });
      expectClose(mixed({ model: 'lab', rows }, [r, g, b]), [wanted.r, wanted.g, wanted.b], 2e-3);
    }
  });
});

describe('rows', () => {
  it('shares a held total over the others', () => {
    const row = holdTotal({ r: 0, g: 1, b: 0, constant: 0.2 }, 'b', 0.5);
    expect(row).toEqual({ r: -0.25, g: 0.75, b: 0.5, constant: 0.2 });
    expect(rowTotal(row)).toBe(1);
  });

  it('read as sentences', () => {
    const rows = { g: { r: -0.3, g: 1, b: 0.58 }, b: { constant: 0.05 } };
    expect(rowSentence(params({ rows }), 'g')).toBe(
      'Where the picture is red, green is taken away; where the picture is blue, green is added.'
    );
    expect(rowSentence(params({ rows }), 'b')).toBe('Blue itself is left out; 5 % is added everywhere.');
    expect(rowSentence(params({ rows }), 'r')).toBe('Red stays as it is.');
    expect(rowSentence(params({ model: 'lab', rows: { a: { a: 1, b: 1 } } }), 'a')).toBe(
      'Where it is yellow, magenta is added; where it is blue, green.'
    );
    expect(mix.sentence(params({ rows }))).toBe('blue at 0 %');
    // What is exchanged is called so, and what comes in the place of another.
    expect(mix.sentence(params({ rows: { r: { b: 1 }, b: { r: 1 } } }))).toBe('Swap red and blue');
    expect(mix.sentence(params({ rows: { r: { b: 1 }, b: { r: 1 }, g: { g: 1 } } }))).toBe(
      'Swap red and blue'
    );
    expect(mix.sentence(params({ rows: { r: { b: 0.9 } } }))).toBe('blue in place of red');
    // LAB's own units: a* is stored by 128.
    const cast = params({ model: 'lab', rows: { a: { a: 1, constant: -6 / 128 } } });
    expect(rowSentence(cast, 'a')).toBe('Everywhere a constant lowers a* by 6.');
    expect(mix.sentence(cast)).toBe('a constant lowers a* by 6');
  });

  it('refuse channels of another model, naming the field', () => {
    const result = mix.params.safeParse({ rows: { r: { q: 1 } } });
    expect(result.error?.issues[0].path).toEqual(['rows', 'r', 'q']);
    expect(mix.params.safeParse({ model: 'lab', rows: { k: { k: 1 } } }).success).toBe(false);
    expect(mix.params.safeParse({ rows: { r: { r: Number.NaN } } }).success).toBe(false);
    expect(mix.params.safeParse({ kept: { lab: { a: { b: 1 } } } }).success).toBe(true);
    expect(rowOf(params({}), 'g')).toEqual({ r: 0, g: 1, b: 0, constant: 0 });
  });
});
