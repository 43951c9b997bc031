import { describe, expect, it, vi } from 'vitest';
import { parseDocument, Resolver, type Step } from '../core/document';
import * as masking from '../core/mask/fill';
import { opOf } from '../core/ops';
import type { Rect } from '../core/raster/raster';
import { planOf, noiseFrame, stepOf } from '../core/testing';
import { Stages } from './stages';

const frame = noiseFrame(900, 700);
const rect = (column: number, row: number): Rect => ({
  x: 256 * column,
  y: 256 * row,
  width: 256,
  height: 256
});

/** How often the kernel of `op` runs while `work` is done. */
function runsOf(op: string, work: () => void): number {
  const kernel = vi.spyOn(opOf(op), 'kernel');
  work();
  const count = kernel.mock.calls.length;
  kernel.mockRestore();
  return count;
}

function evaluated(stages: Stages, steps: readonly Step[], at: Rect, hold = 0): number {
  const plan = planOf(frame, steps);
  return stages.evaluated(plan, 0, at, hold, ({ planes }) => planes[0][0]);
}

describe('stages', () => {
  it('hold the raster in front of the step being edited', () => {
    const stages = new Stages();
    const tint = stepOf('tint');
    const [a, b] = [0.1, 0.2].map((w) => stepOf('mix', { rows: { r: { r: 1, g: w } } }));
    const runs = runsOf('tint', () => {
      evaluated(stages, [tint, a], rect(0, 0), 1);
      evaluated(stages, [tint, b], rect(0, 0), 1);
      evaluated(stages, [tint, a], rect(0, 0), 1);
    });
    expect(runs).toBe(1);
    expect(runsOf('tint', () => evaluated(stages, [stepOf('tint', { hue: 5 }), a], rect(0, 0), 1))).toBe(1);
  });

  it('hold its mask as well, until that or what comes into it changes', () => {
    const stages = new Stages();
    const masked = (weight: number, invert: boolean): Step =>
      stepOf(
        'mix',
        { rows: { r: { r: 1, g: weight } } },
        {
          where: { terms: [{ source: { kind: 'channel', channel: 'rgb.b' } }], grow: 2, blur: 1, invert }
        }
      );
    const fill = vi.spyOn(masking, 'fillMask');
    const at = rect(1, 1);
    const seen = [0.1, 0.2, 0.1].map((w) => evaluated(stages, [stepOf('tint'), masked(w, false)], at, 1));
    expect(fill).toHaveBeenCalledTimes(1);
    expect(seen[0]).toBe(evaluated(new Stages(), [stepOf('tint'), masked(0.1, false)], at));
    evaluated(stages, [stepOf('tint'), masked(0.1, true)], at, 1);
    evaluated(stages, [stepOf('tint', { hue: 9 }), masked(0.1, true)], at, 1);
    // Once for each of the three, and once where nothing was kept.
    expect(fill).toHaveBeenCalledTimes(4);
    fill.mockRestore();
  });

  it('give the same with a luminance mask that is kept as with one that is made beside LAB', () => {
    const lightened = (by: number): Step =>
      stepOf(
        'curves',
        {
          curves: {
            l: [
              [0, 0],
              [0.5, 0.5 + by],
              [1, 1]
            ]
          }
        },
        {
          on: { model: 'lab', channels: ['l', 'a', 'b'] },
          where: { terms: [{ source: { kind: 'channel', channel: 'lum' } }] }
        }
      );
    const at = { ...rect(1, 0), width: 61, height: 47 };
    const planes = (stages: Stages, by: number): readonly Float32Array[] =>
      stages.evaluated(planOf(frame, [stepOf('tint'), lightened(by)]), 0, at, 1, (raster) =>
        raster.planes.map((plane) => plane.slice())
      );
    const stages = new Stages();
    const fill = vi.spyOn(masking, 'fillMask');
    const [made, kept] = [0.1, 0.2].map((by) => planes(stages, by));
    expect(fill).toHaveBeenCalledTimes(1);
    fill.mockRestore();
    expect(kept).toEqual(planes(new Stages(), 0.2));
    expect(kept).not.toEqual(made);
  });

  it('make a mask anew when pins move that a picture it is made of is solved from', () => {
    const head = { kind: 'frame', frame: 'f' };
    const source = { kind: 'channel', channel: 'rgb.g', of: { picture: 'q' } };
    const masked = {
      id: 'm',
      op: 'mix',
      params: { rows: { r: { constant: 1 } } },
      where: { terms: [{ source }] }
    };
    const tinted = { id: 't', op: 'tint', params: {} };
    const seen = (of: Stages, x: number, hold: number): number => {
      const document = parseDocument({
        ...{ kromba: 1, kind: 'document', name: 'Tiles' },
        frames: [{ id: 'f', name: 'tiles', file: 'tiles.png' }],
        pictures: [
          { id: 'p', name: 'One', head, steps: [tinted, masked] },
          { id: 'q', name: 'Other', head, steps: [{ id: 'b', op: 'balance', params: { method: 'pins' } }] }
        ],
        pins: [{ id: 'n', name: 'n', picture: 'q', role: 'neutral', x, y: 40, size: 1 }]
      });
      const picture = new Resolver(document, { f: 'f' }).picture({ picture: 'p' })!;
      const plan = planOf(frame, picture.steps, picture.pins);
      return of.evaluated(plan, 0, rect(0, 0), hold, ({ planes }) => planes[0][5]);
    };
    const stages = new Stages();
    const [one, other] = [seen(stages, 30, 1), seen(stages, 300, 1)];
    expect(other).not.toBe(one);
    expect(other).toBe(seen(new Stages(), 300, 0));
  });

  it('share the input of a step that looks far around between neighbouring tiles', () => {
    const stages = new Stages();
    const steps = [stepOf('weigh', { weights: { r: 0.2 } }), stepOf('local', { radius: 60 })];
    const runs = runsOf('weigh', () => {
      for (const row of [0, 1]) for (const column of [0, 1, 2]) evaluated(stages, steps, rect(column, row));
    });
    // Each tile of the picture once: four columns, three rows.
    expect(runs).toBe(12);
  });

  it('do not add up the ways that steps look: each stage is its own', () => {
    const stages = new Stages();
    const far = [
      stepOf('smooth', { radius: 60 }),
      stepOf('local', { radius: 60 }),
      stepOf('local', { radius: 50 })
    ];
    const kernel = vi.spyOn(opOf('local'), 'kernel');
    evaluated(stages, far, rect(1, 1));
    const widest = Math.max(...kernel.mock.calls.map(([source]) => source.width));
    kernel.mockRestore();
    expect(widest).toBeLessThanOrEqual(256 + 2 * 120);
  });

  it('forget everything when they are cleared', () => {
    const stages = new Stages();
    const steps = [stepOf('tint'), stepOf('mix')];
    evaluated(stages, steps, rect(0, 0), 1);
    stages.clear();
    expect(runsOf('tint', () => evaluated(stages, steps, rect(0, 0), 1))).toBe(1);
  });

  it('give the tiles back that were made on the way to a whole result, and keep what is worked on', () => {
    const stages = new Stages();
    const far = [stepOf('tint'), stepOf('smooth', { radius: 60 })];
    const runs = (): number => runsOf('tint', () => evaluated(stages, far, rect(1, 1)));
    expect(runs()).toBeGreaterThan(0);
    expect(runs()).toBe(0);
    const steps = [stepOf('tint'), stepOf('mix')];
    evaluated(stages, steps, rect(0, 0), 1);
    stages.clearTiles();
    expect(runs()).toBeGreaterThan(0);
    expect(runsOf('tint', () => evaluated(stages, steps, rect(0, 0), 1))).toBe(0);
  });

  it('keep rasters of different pins apart', () => {
    const stages = new Stages();
    const steps = [stepOf('balance', { method: 'pins' }), stepOf('mix')];
    const at = (x: number): number => {
      const pins = [{ id: 'n', name: 'n', x, y: 5, size: 1, role: 'neutral' as const }];
      const plan = planOf(frame, steps, pins);
      return stages.evaluated(plan, 0, rect(0, 0), 1, ({ planes }) => planes[0][0]);
    };
    const [first, second] = [at(3), at(40)];
    expect(first).not.toBe(second);
    expect(at(3)).toBe(first);
  });
});
