import { converter } from 'culori';
import { describe, expect, it } from 'vitest';
import { maskSchema, parseDocument, Resolver, type Combine, type KrombaDocument } from '../document';
import { evaluate } from '../path/evaluate';
import { TILE, tileRect, tilesIn } from '../raster/raster';
import type { Frame } from '../raster/frame';
import {
  floatFrame,
  largestDifference,
  noiseFrame,
  planOf,
  randomColours,
  renderDocument,
  softFrame,
  stepOf
} from '../testing';

/** A mask over a frame, as the mask step shows it: a step that makes white of black where the mask is. */
function maskPlane(
  frame: Frame,
  mask: object,
  rect?: { x: number; y: number; width: number; height: number }
): Float32Array {
  const step = { ...stepOf('mix'), op: '(mask)', params: { mask: maskSchema.parse(mask), drained: false } };
  const plan = planOf(frame, [step]);
  const { width, height } = plan.geometry;
  return evaluate(plan, 0, rect ?? { x: 0, y: 0, width, height }).planes[0];
}

const row = (colours: readonly (readonly number[])[]): Frame => floatFrame(colours.length, 1, colours.flat());
const one = (source: object, more: object = {}): object => ({ terms: [{ source, ...more }] });
const red = { kind: 'channel', channel: 'rgb.r' };
const green = { kind: 'channel', channel: 'rgb.g' };

describe('mask sources give hand-worked values', () => {
  it.each([
    // Red channel as it stands, clamped before the curve.
    [red, [0.2, 0.6, 0.9], 0.2],
    [red, [1.7, 0, 0], 1],
    [red, [-0.4, 0, 0], 0],
    // Much ink is white: C of (0.2, 0.6, 0.8): K = 0.2, (0.8 − 0.2)/0.8.
    [{ kind: 'channel', channel: 'cmyk.c' }, [0.2, 0.6, 0.8], 0.75],
    [{ kind: 'channel', channel: 'cmyk.k' }, [0.2, 0.6, 0.8], 0.2],
    [{ kind: 'channel', channel: 'hsv.s' }, [0.2, 0.6, 0.8], 0.75],
    [{ kind: 'mix', weights: { 'rgb.r': 2, 'rgb.b': -1 }, constant: 0.1 }, [0.4, 0, 0.3], 0.6],
    [{ kind: 'mix', weights: { 'rgb.r': 3 } }, [0.9, 0, 0], 1],
    // sRGB red is L* 54.29, a* 80.81, b* 69.89: 0 away in a and b, 45.71 in L*.
    [{ kind: 'distance', to: [100, 80.81, 69.89], space: 'ab', range: 50 }, [1, 0, 0], 1],
    [{ kind: 'distance', to: [100, 80.81, 69.89], space: 'lab', range: 100 }, [1, 0, 0], 1 - 0.4571],
    [{ kind: 'distance', to: [0, 0, 0], space: 'lab', range: 20 }, [1, 0, 0], 0],
    // Hue 0: a* alone; hue 90 or 0 across: b* alone.
    [{ kind: 'toward', hue: 0 }, [1, 0, 0], 0.5 + 80.81 / 256],
    [{ kind: 'toward', hue: 90 }, [1, 0, 0], 0.5 + 69.89 / 256],
    [{ kind: 'toward', hue: 0, across: true }, [1, 0, 0], 0.5 + 69.89 / 256],
    [{ kind: 'toward', hue: 180 }, [1, 0, 0], 0.5 - 80.81 / 256]
  ])('%j of %j is %d', (source, colour, wanted) => {
    expect(maskPlane(row([colour]), one(source))[0]).toBeCloseTo(wanted, 3);
  });

  it('takes distances in Oklab as culori does', () => {
    const colours = randomColours(200);
    const ok = converter('oklab');
    const of = ([r, g, b]: readonly number[]): number[] => {
      const { l, a, b: q } = ok({ mode: 'rgb', r, g, b });
      return [l, a, q];
    };
    // The colour sought: sRGB (1, 0.5, 0), 67.82 45.49 74.84.
    const to = of([1, 128 / 255, 0]);
    const source = { kind: 'distance', to: [67.82, 45.49, 74.84], space: 'oklab', range: 0.8 };
    const found = maskPlane(row(colours), one(source));
    colours.forEach((colour, i) => {
      const d = Math.hypot(...of(colour).map((v, c) => v - to[c]));
      expect(Math.abs(found[i] - (1 - Math.min(1, d / 0.8)))).toBeLessThan(1e-3);
    });
  });

  it('lays ramps on places of the picture', () => {
    const frame = floatFrame(10, 10, new Float32Array(300));
    const straight = maskPlane(frame, one({ kind: 'ramp', from: [0, 0], to: [10, 0] }));
    // The middle of the third pixel lies a quarter of the way along.
    expect(straight[2]).toBeCloseTo(0.75, 6);
    expect(straight[92]).toBeCloseTo(0.75, 6);
    const round = maskPlane(frame, one({ kind: 'ramp', shape: 'round', from: [5, 5], to: [5, 9] }));
    // 1.5 right and 0.5 up of the middle: √2.5 of 4.
    expect(round[4 * 10 + 6]).toBeCloseTo(1 - Math.sqrt(2.5) / 4, 6);
    expect(round[0]).toBe(0);
  });

  it('bends a hue by a curve that goes on round', () => {
    // Hues 350° and 10° of full colours; the curve's top lies at 0.
    const colours = [
      [1, 0, 1 / 6],
      [1, 1 / 6, 0],
      [0, 1, 1]
    ];
    const source = { kind: 'channel', channel: 'hsv.h' };
    const curve = [
      [0, 1],
      [0.1, 0],
      [0.9, 0]
    ];
    const found = maskPlane(row(colours), one(source, { curve }));
    expect(found[0]).toBeCloseTo(found[1], 5);
    expect(found[0]).toBeGreaterThan(0.5);
    expect(found[2]).toBeCloseTo(0, 5);
  });
});

describe('terms join as the format says', () => {
  const m = 0.6;
  const t = 0.3;
  it.each<[Combine, number, number]>([
    ['intersect', 0.18, 0.6 * (1 - 0.5 * 0.7)],
    ['add', 1 - 0.4 * 0.7, 1 - 0.4 * 0.85],
    ['subtract', 0.6 * 0.7, 0.6 * 0.85],
    ['min', 0.3, 0.6],
    ['max', 0.6, 0.6],
    ['difference', 0.3, 0.45]
  ])('%s: whole %d, at half its amount %d', (combine, whole, half) => {
    const mask = (amount: number): object => ({
      terms: [{ source: red }, { source: green, combine, amount }]
    });
    const frame = row([[m, t, 0]]);
    expect(maskPlane(frame, mask(1))[0]).toBeCloseTo(whole, 6);
    expect(maskPlane(frame, mask(0.5))[0]).toBeCloseTo(half, 6);
    expect(maskPlane(frame, mask(0))[0]).toBeCloseTo(m, 6);
  });

  it('starts with the first term whatever its combination, after curve and invert', () => {
    const curve = [
      [0, 0],
      [0.5, 1],
      [1, 1]
    ];
    const frame = row([[0.25, 0.3, 0]]);
    expect(maskPlane(frame, one(red, { combine: 'subtract' }))[0]).toBeCloseTo(0.25, 6);
    const bent = maskPlane(frame, one(red, { curve }))[0];
    expect(maskPlane(frame, one(red, { curve, invert: true }))[0]).toBeCloseTo(1 - bent, 6);
    expect(bent).toBeGreaterThan(0.5);
  });

  it('is 1 everywhere without a term, and 0 inverted', () => {
    expect(maskPlane(row([[0.2, 0, 0]]), { terms: [] })[0]).toBe(1);
    expect(maskPlane(row([[0.2, 0, 0]]), { terms: [], invert: true })[0]).toBe(0);
  });
});

describe('growing and blurring', () => {
  const dot = (): Frame => {
    const values = new Float32Array(21 * 21 * 3);
    values.fill(0.8, (10 * 21 + 10) * 3, (10 * 21 + 10) * 3 + 3);
    return floatFrame(21, 21, values);
  };

  it('makes a disc of a dot, and shrinks it away again', () => {
    const grown = maskPlane(dot(), { ...one(red), grow: 4 });
    for (let y = 0; y < 21; y++)
      for (let x = 0; x < 21; x++)
        expect(grown[y * 21 + x]).toBeCloseTo(Math.hypot(x - 10, y - 10) <= 4 ? 0.8 : 0, 6);
    expect(Math.max(...maskPlane(dot(), { ...one(red), grow: -1 }))).toBeCloseTo(0, 6);
    const between = maskPlane(dot(), { ...one(red), grow: 4.25 });
    expect(between[10 * 21 + 15]).toBeCloseTo(0.2, 6);
  });

  it('blurs by a Gaussian whose sum stays', () => {
    const blurred = maskPlane(dot(), { ...one(red), blur: 1.5 });
    expect(blurred.reduce((a, b) => a + b, 0)).toBeCloseTo(0.8, 4);
    // 0.8/(2π·1.5²) at the middle, within what sampling takes off.
    expect(blurred[10 * 21 + 10]).toBeCloseTo(0.8 / (2 * Math.PI * 2.25), 3);
  });
});

const paint = {
  kind: 'paint',
  strokes: [
    {
      points: [
        [40.3, 30, 1],
        [300.2, 180.7, 0.4],
        [380, 60, 1]
      ],
      size: 60,
      hardness: 0.3,
      flow: 0.8
    },
    { points: [[200, 100, 1]], size: 90, hardness: 1 },
    {
      points: [
        [100, 20, 1],
        [100, 300, 1]
      ],
      size: 24,
      erase: true,
      flow: 0.7
    }
  ]
};

describe('a mask in tiles', () => {
  it.each([
    [
      'channels',
      one(
        { kind: 'channel', channel: 'lab.a' },
        {
          curve: [
            [0, 0],
            [0.45, 0.1],
            [0.6, 1],
            [1, 1]
          ]
        }
      )
    ],
    ['distances', one({ kind: 'distance', to: [60, 20, 30], space: 'oklab', range: 0.4 })],
    ['paint', one(paint)],
    ['a ramp', one({ kind: 'ramp', from: [13, 7], to: [400, 260] })],
    ['grown', { ...one(red), grow: 17.4 }],
    ['shrunk and blurred', { ...one(red), grow: -6, blur: 21 }],
    [
      'blurred and inverted',
      { terms: [{ source: red }, { source: paint, combine: 'add' }], blur: 4, invert: true }
    ]
  ])('is that in one piece, sample for sample: %s', (_, mask) => {
    const frame = noiseFrame(TILE * 2 + 11, 290);
    const whole = maskPlane(frame, mask);
    for (const { column, row: line } of tilesIn(
      { x: 0, y: 0, width: frame.width, height: frame.height },
      frame.width,
      frame.height
    )) {
      const rect = tileRect(column, line, frame.width, frame.height);
      const tile = maskPlane(frame, mask, rect);
      const part = new Float32Array(rect.width * rect.height);
      for (let y = 0; y < rect.height; y++) {
        const from = (rect.y + y) * frame.width + rect.x;
        part.set(whole.subarray(from, from + rect.width), y * rect.width);
      }
      expect(largestDifference(tile, part)).toBe(0);
    }
  });
});

describe('a step with a mask', () => {
  it('acts by as much as the mask says, times its opacity', () => {
    const frame = row([[0.25, 0.5, 0.75]]);
    const step = stepOf('invert', {}, { where: one(green), blend: { opacity: 0.5 } });
    const out = evaluate(planOf(frame, [step]), 0, { x: 0, y: 0, width: 1, height: 1 }).planes;
    // m = 0.25 on each channel: 0.25 + 0.25·(0.75 − 0.25) …
    [0.375, 0.5, 0.625].forEach((v, c) => expect(out[c][0]).toBeCloseTo(v, 6));
  });

  it('is refused on a step that moves pixels, with its path', () => {
    expect(() => stepOf('straighten', {}, { where: { terms: [] } })).toThrow('leave “where” out');
  });
});

describe('masks that lead elsewhere', () => {
  const document = (pictures: object[], masks: object[] = []): KrombaDocument =>
    parseDocument({
      ...{ kromba: 1, kind: 'document', name: 'Tiles' },
      frames: [
        { id: 'f', name: 'tiles', file: 'tiles.png' },
        { id: 'g', name: 'other', file: 'other.png' }
      ],
      pictures,
      masks
    });
  const head = { kind: 'frame', frame: 'f' };
  const hashes = { f: 'F', g: 'G' };
  const light = { id: 'i', op: 'invert', params: {} };
  const sum = { id: 'x', op: 'mix', params: { rows: { r: { constant: 1 }, g: {}, b: {} } } };

  /** The red channel of the first picture, by what its document says. */
  function rendered(doc: KrombaDocument, frames: Record<string, Frame>): Float32Array {
    return renderDocument(doc, { f: frames['F'], g: frames['G'] })[0];
  }
  const black = (red: number): Frame => row([[red, 0, 0]]);

  it('reads a channel of another picture, at an earlier step, at its head', () => {
    const where = (of: object): object => one({ kind: 'channel', channel: 'rgb.r', of });
    const doc = (of: object): KrombaDocument =>
      document([
        { id: 'p', name: 'Look', head, steps: [light, { ...sum, where: where(of) }] },
        { id: 'q', name: 'Other', head: { kind: 'frame', frame: 'g' }, steps: [light] }
      ]);
    const frames = { F: black(0.2), G: black(0.7) };
    // The step takes red from 0.8 to 1 by as much as the mask says.
    const out = (m: number): number => 0.8 + m * 0.2;
    expect(rendered(doc({ picture: 'q' }), frames)[0]).toBeCloseTo(out(0.3), 6);
    expect(rendered(doc({ picture: 'q', after: 'head' }), frames)[0]).toBeCloseTo(out(0.7), 6);
    expect(rendered(doc({ picture: 'p', after: 'head' }), frames)[0]).toBeCloseTo(out(0.2), 6);
    expect(rendered(doc({ picture: 'p', after: 'i' }), frames)[0]).toBeCloseTo(out(0.8), 6);
  });

  it('uses named masks, and masks of masks', () => {
    const masks = [
      { id: 'm', name: 'Glaze', mask: one(red, { invert: true }) },
      {
        id: 'n',
        name: 'Half',
        mask: one(
          { kind: 'mask', id: 'm' },
          {
            curve: [
              [0, 0],
              [1, 0.5]
            ]
          }
        )
      }
    ];
    const where = one({ kind: 'mask', id: 'n' });
    const doc = document([{ id: 'p', name: 'Look', head, steps: [{ ...sum, where }] }], masks);
    expect(rendered(doc, { F: black(0.2) })[0]).toBeCloseTo(0.2 + 0.4 * 0.8, 6);
  });

  it('refuses a picture of another size with both sizes', () => {
    const where = one({ kind: 'channel', channel: 'lum', of: { picture: 'q' } });
    const doc = document([
      { id: 'p', name: 'Look', head, steps: [{ ...sum, where }] },
      { id: 'q', name: 'Other', head: { kind: 'frame', frame: 'g' } }
    ]);
    expect(() =>
      rendered(doc, {
        F: black(0.2),
        G: row([
          [0, 0, 0],
          [1, 1, 1]
        ])
      })
    ).toThrow('The picture “Other” is 2 × 1 pixels and this one 1 × 1');
  });

  it('gives a picture with masks the same key only while what they refer to stays', () => {
    const where = one({ kind: 'mask', id: 'm' });
    const doc = (invert: boolean): KrombaDocument =>
      document(
        [{ id: 'p', name: 'Look', head, steps: [{ ...sum, where }] }],
        [{ id: 'm', name: 'Glaze', mask: one(red, { invert }) }]
      );
    const key = (d: KrombaDocument): string => new Resolver(d, hashes).step(d.pictures[0].steps[0]).key!;
    expect(key(doc(false))).toBe(key(doc(false)));
    expect(key(doc(false))).not.toBe(key(doc(true)));
  });

  it('names the frames that a picture needs', () => {
    const where = one({ kind: 'channel', channel: 'lum', of: { picture: 'q' } });
    const doc = document([
      { id: 'p', name: 'Look', head, steps: [{ ...sum, where }] },
      { id: 'q', name: 'Other', head: { kind: 'frame', frame: 'g' } }
    ]);
    expect(new Resolver(doc, hashes).framesOf(doc.pictures[0])).toEqual(['F', 'G']);
  });
});

it('lays masks on the picture as it lies: paint and ramps follow a crop', () => {
  const frame = softFrame(120, 80);
  const crop = stepOf('straighten', { crop: { x: 30, y: 20, width: 60, height: 40 } });
  const stroke = {
    points: [
      [50, 40, 1],
      [70, 45, 1]
    ],
    size: 20,
    hardness: 0.5
  };
  const seen = (mask: object): object => ({
    ...stepOf('mix'),
    op: '(mask)',
    params: { mask: maskSchema.parse(mask), drained: false }
  });
  for (const mask of [
    one({ kind: 'paint', strokes: [stroke] }),
    one({ kind: 'ramp', from: [10, 10], to: [90, 60] })
  ]) {
    const whole = maskPlane(frame, mask);
    const plan = planOf(frame, [crop, seen(mask) as never]);
    const cut = evaluate(plan, 0, { x: 0, y: 0, width: 60, height: 40 }).planes[0];
    for (const [x, y] of [
      [25, 22],
      [0, 0],
      [59, 39],
      [33, 15]
    ])
      expect(cut[y * 60 + x]).toBeCloseTo(whole[(y + 20) * 120 + x + 30], 5);
  }
});
