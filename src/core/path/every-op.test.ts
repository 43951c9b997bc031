import { describe, expect, it } from 'vitest';
import everything from '../../../e2e/every-op.json';
import { blendModes } from '../blend/modes';
import { modelOf, models } from '../colour';
import { parseDocument, Resolver, stepSchema, type SourceStep } from '../document';
import { deltaE2000, labOf } from '../measure/difference';
import { sourceKinds } from '../mask/sources';
import { ops, opOf } from '../ops';
import { randomStream } from '../random';
import { TILE, tileRect, tilesIn, type Raster } from '../raster/raster';
import { planOf, floatFrame, largestDifference, noiseFrame, softFrame, stepOf } from '../testing';
import { anyParams, withEveryOp } from '../testing-params';
import { Stages } from '../../engine/stages';
import { evaluate } from './evaluate';
import { planSize, type Plan } from './plan';

/** A document with a step of every op there is and masks of every source; the browser tests put on the same. */
const document = parseDocument({
  ...{ kromba: 1, kind: 'document', name: 'Every step', masks: everything.masks },
  frames: [{ id: 'f', name: 'picture', file: 'picture.png' }],
  pictures: [
    {
      id: 'p',
      name: 'Every step',
      head: { kind: 'frame', frame: 'f' },
      steps: withEveryOp(everything.steps)
    },
    { id: 'q', name: 'As it came', head: { kind: 'frame', frame: 'f' } }
  ]
});
const everyOp: readonly SourceStep[] = new Resolver(document, { f: 'f' }).steps(document.pictures[0].steps);

const whole = (plan: Plan, level = 0): Raster =>
  evaluate(plan, level, { x: 0, y: 0, ...planSize(plan, level) });

/** The picture put together from the tiles of the screen, by what a worker keeps. */
function tiled(plan: Plan, hold: number): Float32Array[] {
  const { width, height } = planSize(plan, 0);
  const planes = [0, 1, 2].map(() => new Float32Array(width * height));
  const stages = new Stages();
  for (const { column, row } of tilesIn({ x: 0, y: 0, width, height }, width, height)) {
    const rect = tileRect(column, row, width, height);
    stages.evaluated(plan, 0, rect, hold, (raster) => {
      for (let y = 0; y < rect.height; y++) {
        planes.forEach((plane, c) =>
          plane.set(
            raster.planes[c].subarray(y * rect.width, (y + 1) * rect.width),
            (rect.y + y) * width + rect.x
          )
        );
      }
    });
  }
  return planes;
}

describe('a path with every op in it', () => {
  it('holds every op there is', () => {
    expect(new Set(everyOp.map((s) => s.op))).toEqual(new Set(ops.map((op) => op.id)));
    const sources = [...everyOp.flatMap((s) => s.where?.terms ?? [])].map((t) => t.source.kind);
    expect(new Set(sources)).toEqual(new Set(sourceKinds.map((s) => s.kind)));
  });

  it.each([0, 9])('is the same sample for sample in one piece and in tiles, %d steps held', (hold) => {
    const plan = planOf(softFrame(300, 270), everyOp);
    const once = whole(plan).planes;
    tiled(plan, hold).forEach((plane, c) => expect(largestDifference(plane, once[c])).toBe(0));
  });

  it.each([
    ['blur', { radius: 2.5 }],
    ['blur', { radius: 60 }],
    ['smooth', { radius: 3 }],
    ['smooth', { radius: 90 }],
    ['sharpen', { radius: 22 }],
    ['local', { radius: 100 }],
    ['detail', { radius: 100 }],
    ['detail', { radius: 5 }],
    ['straighten', { angle: 7 }]
  ])('shows no seam at any tile edge: %s %j on noise', (op, params) => {
    const steps = [
      stepOf('mix', { rows: { r: { g: 1 } } }, op === 'straighten' ? { enabled: false } : {}),
      stepOf(op, params)
    ];
    const plan = planOf(noiseFrame(TILE * 2 + 37, 300), steps);
    const once = whole(plan).planes;
    tiled(plan, 0).forEach((plane, c) => expect(largestDifference(plane, once[c])).toBe(0));
  });

  it('differs at the next smaller levels from the full size made smaller by less than ΔE 1.5 on average', () => {
    const plan = planOf(softFrame(360, 247), everyOp);
    const full = whole(plan);
    for (const level of [1, 2]) {
      const small = whole(plan, level);
      const side = 2 ** level;
      let sum = 0;
      let count = 0;
      for (let y = 1; y < small.height - 1; y += 3) {
        for (let x = 1; x < small.width - 1; x += 3, count++) {
          const mean = full.planes.map((plane) => {
            let total = 0;
            for (let v = 0; v < side; v++)
              for (let u = 0; u < side; u++) total += plane[(y * side + v) * full.width + x * side + u];
            return Math.min(1, Math.max(0, total / side ** 2));
          });
          const shown = small.planes.map((plane) => Math.min(1, Math.max(0, plane[y * small.width + x])));
          sum += deltaE2000(labOf(mean, 'coded'), labOf(shown, 'coded'));
        }
      }
      expect(sum / count).toBeLessThan(1.5);
    }
  });
});

const random = randomStream(99);
const between = (low: number, high: number): number => low + (high - low) * random();
const oneOf = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)];

/** Those that move no pixels, and take no steps. */
const anyOps = ops.filter(({ kind }) => kind === 'plane' || kind === 'colour');

describe('any path', () => {
  it('of 200 random steps renders without a sample that is no number, on black, white and wild values too', () => {
    const steps = Array.from({ length: 200 }, (_, i) => {
      const op = oneOf(anyOps);
      const model = op.id === 'mix' || random() < 0.4 ? undefined : oneOf(models);
      const letters = (model ?? modelOf('rgb')).channels.map((c) => c.letter);
      const step = {
        id: `s${i}`,
        op: op.id,
        params: anyParams(op, { random, letters }),
        ...(model && {
          on: { model: model.id, channels: letters.filter(() => random() < 0.7).concat(letters[0]) }
        }),
        blend: {
          mode: oneOf(blendModes),
          opacity: between(0, 1),
          under: [0, between(0, 0.3), between(0.6, 1), 1]
        }
      };
      return stepSchema.parse(step);
    });
    const rgb = Float32Array.from({ length: 40 * 30 * 3 }, (_, i) =>
      i < 900 ? [0, 1, 1.7, -0.4][Math.floor(i / 40) % 4] : random()
    );
    const frame = floatFrame(40, 30, rgb);
    const finite = (path: typeof steps, what: string): void => {
      for (const plane of whole(planOf(frame, path)).planes)
        expect(
          plane.findIndex((v) => !Number.isFinite(v)),
          what
        ).toBe(-1);
    };
    // Each by itself, as a later one may hide what an earlier has done; then behind each other, as many as solve what is before them in time.
    for (const step of steps) finite([step], JSON.stringify(step));
    finite(steps.slice(0, 100), 'the first half');
    finite(steps.slice(100), 'the second half');
  });

  it('keeps missing samples missing, and its neighbours whole', () => {
    const rgb = Float32Array.from({ length: 40 * 40 * 3 }, (_, i) => (i / 3 === 820 ? Number.NaN : 0.5));
    const { planes } = whole(planOf(floatFrame(40, 40, rgb), everyOp.slice(2)));
    expect(Array.from(planes[1]).filter(Number.isNaN)).toHaveLength(1);
    expect(planes[1][820]).toBeNaN();
  });
});

describe('bad parameters', () => {
  const refusal = (step: object): string => {
    try {
      parseDocument({
        kromba: 1,
        kind: 'document',
        name: 'x',
        frames: [{ id: 'f', name: 'f', file: 'f.png' }],
        pictures: [{ id: 'p', name: 'p', head: { kind: 'frame', frame: 'f' }, steps: [{ id: 's', ...step }] }]
      });
      return 'taken';
    } catch (error) {
      return (error as Error).message;
    }
  };
  it.each([
    [{ op: 'mono', params: { weights: { 'rgb.q': 1 } } }, 'params.weights: unknown key “rgb.q”'],
    [
      { op: 'mono', params: { weights: { 'rgb.r': 'much' } } },
      'params.weights.rgb.r: must be a number (1 is 100 %)'
    ],
    [{ op: 'balance', params: { method: 'magic' } }, 'params.method: must be one of “fixed”'],
    [{ op: 'balance', params: { gain: { r: null } } }, 'params.gain.r: must be a number'],
    [
      { op: 'levels', params: { channels: { r: { black: 0.5, white: 0.5 } } } },
      'params.channels.r.white: must differ from black'
    ],
    [
      { op: 'levels', params: { channels: { r: { mid: 0 } } } },
      'params.channels.r.mid: must be at least 0.05'
    ],
    [
      { op: 'levels', params: { channels: { q: {} } } },
      'params.channels.q: “q” is no channel of RGB; use r, g, b, all'
    ],
    [{ op: 'curves', params: { curves: { r: [[0, 0]] } } }, 'params.curves.r: needs at least two points'],
    [
      {
        op: 'curves',
        params: {
          curves: {
            r: [
              [0.5, 0],
              [0.2, 1]
            ]
          }
        }
      },
      'params.curves.r: x must rise from point to point'
    ],
    [
      {
        op: 'curves',
        on: { model: 'lab', channels: ['l'] },
        params: {
          curves: {
            all: [
              [0, 0],
              [1, 1]
            ]
          }
        }
      },
      '“all” is no channel of LAB'
    ],
    [{ op: 'colour', params: { bands: [{ width: 0 }] } }, 'params.bands[0].width: must be at least 2°'],
    [{ op: 'colour', params: { saturation: -101 } }, 'params.saturation: must be at least −100 %'],
    [{ op: 'weigh', params: { target: 'hue' } }, 'params.target: must be one of “saturation”, “brightness”'],
    [
      {
        op: 'tint',
        params: {
          stops: [
            { at: 1, rgb: [0, 0, 0] },
            { at: 0, rgb: [1, 1, 1] }
          ]
        }
      },
      'params.stops: must rise from colour to colour'
    ],
    [{ op: 'equalize', params: { bins: 3 } }, 'params: unknown key “bins”'],
    [{ op: 'invert', params: { on: true } }, 'params: unknown key “on”'],
    [{ op: 'blur', params: { radius: 101 } }, 'params.radius: must be at most 100 px'],
    [{ op: 'smooth', params: { tolerance: { q: 1 } } }, 'params.tolerance.q: “q” is no channel of RGB'],
    [
      { op: 'smooth', params: { tolerance: 'some' } },
      'params.tolerance: must be a number, or one for each channel'
    ],
    [{ op: 'sharpen', params: { amount: 501 } }, 'params.amount: must be at most 500 %'],
    [{ op: 'local', params: { radius: 0 } }, 'params.radius: must be at least 1 px'],
    [{ op: 'detail', params: { floor: 0 } }, 'params.floor: must be at least 0.0005'],
    [{ op: 'straighten', params: { angle: 181 } }, 'params.angle: must be at most 180°'],
    [
      {
        op: 'straighten',
        params: {
          corners: [
            [0, 0],
            [0, 9],
            [9, 9],
            [9, 0]
          ]
        }
      },
      'params.corners: must go round clockwise'
    ],
    [
      { op: 'straighten', params: { crop: { x: 0.5, y: 0, width: 3, height: 3 } } },
      'params.crop.x: must be a whole number of pixels'
    ],
    [
      { op: 'straighten', params: {}, blend: { opacity: 0.5 } },
      '.blend: “straighten” moves the picture and can’t be blended'
    ],
    [{ op: 'mix', params: { rows: { r: { q: 1 } } } }, 'params.rows.r.q: “q” is no input']
  ])('are refused by name: %j', (step, message) => expect(refusal(step)).toContain(message));

  it('every op is refused something', () => {
    for (const { id } of ops) expect(refusal({ op: id, params: { nonsense: 1 } })).toMatch(/nonsense/);
  });

  it('a straighten behind another step is refused', () => {
    expect(() =>
      parseDocument({
        kromba: 1,
        kind: 'document',
        name: 'x',
        frames: [{ id: 'f', name: 'f', file: 'f.png' }],
        pictures: [
          {
            id: 'p',
            name: 'p',
            head: { kind: 'frame', frame: 'f' },
            steps: [
              { id: 'a', op: 'invert', params: {} },
              { id: 'b', op: 'straighten', params: {} }
            ]
          }
        ]
      })
    ).toThrow('steps[1]: “straighten” moves pixels and must stand before all other steps');
    expect(opOf('straighten').kind).toBe('geometry');
  });
});
