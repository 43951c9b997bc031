import { describe, expect, it } from 'vitest';
import { evaluate } from '../path/evaluate';
import { floatFrame, planOf, stepOf } from '../testing';
import { randomStream } from '../random';
import { bake, type Baking } from './bake';
import { throughTable } from './table';

const random = randomStream(23);
const WIDTH = 60;
const HEIGHT = 40;
const rgb = Float32Array.from({ length: 3 * WIDTH * HEIGHT }, () => random());
const frame = floatFrame(WIDTH, HEIGHT, rgb);
const baking: Baking = { title: 'Look', size: 33, low: 0, high: 1, curves: false };

const mix = stepOf('mix', { rows: { g: { g: 0.7, r: 0.3 }, b: { b: 1.1, constant: -0.05 } } });
const curves = stepOf(
  'curves',
  {
    curves: {
      l: [
        [0, 0],
        [0.4, 0.5],
        [1, 1]
      ]
    }
  },
  { on: { model: 'lab', channels: ['l'] } }
);

describe('a table made of steps', () => {
  it('does what they do: a mix, which is straight, to the last digits', () => {
    const plan = planOf(frame, [mix]);
    const { table, steps, error } = bake(plan, { ...baking, size: 17 });
    expect(steps).toEqual([{ id: mix.id, title: 'Mix', why: [], frozen: false }]);
    expect(error.largest).toBeLessThan(0.01);
    const by = evaluate(plan, 0, { x: 0, y: 0, width: WIDTH, height: HEIGHT }).planes;
    const planes = [0, 1, 2].map((c) =>
      Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => rgb[3 * i + c])
    );
    throughTable(table, planes, planes, WIDTH * HEIGHT, 'tetrahedral');
    for (let i = 0; i < WIDTH * HEIGHT; i += 13)
      for (let c = 0; c < 3; c++) expect(planes[c][i]).toBeCloseTo(by[c][i], 5);
  });

  it('comes nearer with more nodes', () => {
    const plan = planOf(frame, [mix, curves]);
    const errors = [17, 33, 65].map((size) => bake(plan, { ...baking, size }).error.mean);
    expect(errors[0]).toBeGreaterThan(2 * errors[1]);
    expect(errors[1]).toBeGreaterThan(2 * errors[2]);
  });

  it('leaves out what looks at neighbours, at places or at other pictures, and says so', () => {
    const ramp = { terms: [{ source: { kind: 'ramp', from: [0, 0], to: [9, 9] } }] };
    const grown = { terms: [{ source: { kind: 'channel', channel: 'lab.l' } }], grow: 4 };
    const scale = { terms: [{ source: { kind: 'scale', layer: 3 } }] };
    const stars = { terms: [{ source: { kind: 'stars' } }] };
    const coloured = { terms: [{ source: { kind: 'channel', channel: 'lab.l' } }] };
    const steps = [
      stepOf('straighten', { angle: 2 }),
      stepOf('blur', { radius: 3 }),
      stepOf('invert', {}, { where: ramp }),
      stepOf('invert', {}, { where: grown }),
      stepOf('invert', {}, { where: scale }),
      stepOf('invert', {}, { where: stars }),
      stepOf('invert', {}, { where: coloured }),
      stepOf('sky', {}),
      stepOf('group', { steps: [stepOf('invert', {}), stepOf('blur', { radius: 3 })] }, { name: 'Soft' })
    ];
    const told = bake(planOf(frame, steps), { ...baking, size: 17 }).steps;
    expect(told.map(({ title, why }) => [title, ...why])).toEqual([
      ['Straighten', 'it moves pixels'],
      ['Blur', 'it looks at neighbours'],
      ['Invert', 'its mask is bound to the picture by a ramp'],
      ['Invert', expect.stringMatching(/bound to the picture by neighbours/)],
      ['Invert', expect.stringMatching(/bound to the picture by neighbours \(a scale\)/)],
      ['Invert', expect.stringMatching(/bound to the picture by where its stars are/)],
      ['Invert'],
      ['Even sky', 'what it does depends on the place'],
      ['Soft'],
      ['Soft › Invert'],
      ['Soft › Blur', 'it looks at neighbours']
    ]);
  });

  it('freezes what was solved from the picture', () => {
    const plan = planOf(frame, [stepOf('balance', { method: 'ends' })]);
    const { steps, error } = bake(plan, baking);
    expect(steps[0].frozen).toBe(true);
    expect(error.largest).toBeLessThan(0.05);
  });

  it('takes the steps that are named, in the encoding that they stand in', () => {
    const plan = planOf(frame, [mix, curves]);
    const { steps, table } = bake(plan, { ...baking, size: 17, only: [curves.id] });
    expect(steps.map(({ id }) => id)).toEqual([curves.id]);
    // A grey stays grey: the mix is not in it.
    const grey = 8 * (1 + 17 + 289);
    const [r, g, b] = table.cube!.values.subarray(3 * grey, 3 * grey + 3);
    expect(g).toBeCloseTo(r, 4);
    expect(b).toBeCloseTo(r, 4);
  });

  it('has a domain, and puts curves before the cube where that brings it nearer', () => {
    // A steep rise in the shadows, where a plain cube has few nodes.
    const steep = stepOf('curves', {
      curves: {
        all: [
          [0, 0],
          [0.02, 0.3],
          [0.1, 0.5],
          [1, 1]
        ]
      }
    });
    const plan = planOf(frame, [steep]);
    const plain = bake(plan, baking);
    const best = bake(plan, { ...baking, curves: true });
    expect(plain.table.curves).toBeNull();
    expect(best.table.curves).not.toBeNull();
    expect(best.error.largest).toBeLessThan(0.6 * plain.error.largest);
    const wide = bake(planOf(frame, [mix]), { ...baking, low: -0.5, high: 1.5 });
    expect(wide.table.cube).toMatchObject({ low: [-0.5, -0.5, -0.5], high: [1.5, 1.5, 1.5] });
    expect(wide.error.largest).toBeLessThan(0.01);
  });
});
