import { describe, expect, it } from 'vitest';
import { findStep, parseDocument, Resolver, stepsTo, type KrombaDocument, type Place } from '../document';
import type { Frame } from '../raster/frame';
import { floatFrame, largestDifference, render, renderDocument, softFrame, stepOf } from '../testing';

const group = (steps: object[], more: object = {}): ReturnType<typeof stepOf> =>
  stepOf('group', { steps }, more);
const plain = (op: string, params: object = {}, more: object = {}): object => ({
  ...{ id: `i${op}`, op, params },
  ...more
});
const double = plain('mix', { rows: { r: { r: 2 }, g: { g: 2 }, b: { b: 2 } } });
const one = (colour: number[], ...steps: ReturnType<typeof stepOf>[]): number[] =>
  render(floatFrame(1, 1, colour), steps).map((plane) => plane[0]);
const near = (found: readonly number[], wanted: readonly number[]): void =>
  wanted.forEach((v, i) => expect(found[i]).toBeCloseTo(v, 5));

describe('a group', () => {
  const frame = softFrame(90, 70);
  const steps = [
    plain('blur', { radius: 3 }),
    plain('levels', { channels: { all: { mid: 1.4 } } }, { blend: { mode: 'screen', opacity: 0.4 } }),
    plain('local', { radius: 9 }, { on: { model: 'lab', channels: ['l'] } }),
    plain('balance', { method: 'ends' })
  ];

  it('is, sample for sample, the steps inside it, however deep they stand', () => {
    const flat = steps.map((step) =>
      stepOf((step as { op: string }).op, (step as { params: object }).params, step)
    );
    const wanted = render(frame, flat);
    const deep = group([steps[0], { id: 'g', op: 'group', params: { steps: steps.slice(1, 3) } }, steps[3]]);
    for (const found of [render(frame, [group(steps)]), render(frame, [deep])])
      found.forEach((plane, c) => expect(largestDifference(plane, wanted[c])).toBe(0));
  });

  it('is faded as one: half of two doublings', () => {
    // 0.1 becomes 0.4 inside; half the way is 0.25.
    near(
      one([0.1, 0.2, 0.05], group([double, { ...double, id: 'j' }], { blend: { opacity: 0.5 } })),
      [0.25, 0.5, 0.125]
    );
    // Faded each by itself it would be 0.15, then 0.225.
  });

  it('has limits, channels, blend and a mask of its own', () => {
    near(one([0.2, 0.4, 0.1], group([double], { on: { model: 'rgb', channels: ['g'] } })), [0.2, 0.8, 0.1]);
    near(one([0.2, 0.4, 0.1], group([double], { blend: { mode: 'multiply' } })), [0.08, 0.32, 0.02]);
    // lum of a grey is itself: half way up the slope.
    near(
      one([0.25, 0.25, 0.25], group([double], { blend: { under: [0, 0.5, 1, 1] } })),
      [0.375, 0.375, 0.375]
    );
    const where = { terms: [{ source: { kind: 'channel', channel: 'rgb.g' } }] };
    near(one([0.2, 0.4, 0.1], group([double], { where })), [0.28, 0.56, 0.14]);
  });

  it('does nothing without steps that are on', () => {
    near(one([0.2, 0.4, 0.1], group([]), group([{ ...double, enabled: false }])), [0.2, 0.4, 0.1]);
  });

  it('solves what is inside from what has come there, the steps before it in the group counted', () => {
    // From 0.2…0.4 doubled to 0.4…0.8 and then from end to end: 0 and 1.
    const ends = plain('balance', { method: 'ends', ends: 0 });
    const rows = [0.2, 0.2, 0.2, 0.3, 0.3, 0.3, 0.4, 0.4, 0.4];
    const [red] = render(floatFrame(3, 1, rows), [group([double, ends])]);
    near([...red], [0, 0.5, 1]);
  });

  it('leaves missing samples out of what looks around inside it, and leaves them missing', () => {
    const grey = Array.from({ length: 15 }, (_, i) => (Math.floor(i / 3) === 2 ? Number.NaN : 0.5));
    const planes = render(floatFrame(5, 1, grey), [
      group([plain('blur', { radius: 2 })], { blend: { opacity: 0.5 } })
    ]);
    near([planes[0][0], planes[0][1], planes[0][3]], [0.5, 0.5, 0.5]);
    expect(planes[0][2]).toBeNaN();
  });
});

const document = (steps: object[], more: object[] = []): KrombaDocument =>
  parseDocument({
    ...{ kromba: 1, kind: 'document', name: 'Jug' },
    frames: ['f', 'g'].map((id) => ({ id, name: id, file: `${id}.png` })),
    pictures: [
      { id: 'p', name: 'Jug', head: { kind: 'frame', frame: 'f' }, steps },
      { id: 'q', name: 'Other', head: { kind: 'frame', frame: 'g' }, steps: more }
    ]
  });
const inside = (id: string, ...steps: object[]): object => ({ id, op: 'group', params: { steps } });

describe('the steps of a group in a document', () => {
  const path = [
    plain('invert', {}, { id: 'a' }),
    inside(
      'g',
      { ...double, id: 'b' },
      { ...double, id: 'off', enabled: false },
      inside('h', { ...double, id: 'c' })
    ),
    plain('blur', {}, { id: 'd' })
  ];

  it('are places of the path, reached through what stands before them', () => {
    const { steps } = document(path).pictures[0];
    const way = (place: Place): string[] | null => stepsTo(steps, place)?.map(({ id }) => id) ?? null;
    expect(way('head')).toEqual([]);
    expect(way('end')).toEqual(['a', 'g', 'd']);
    expect(way({ before: 'g' })).toEqual(['a']);
    expect(way({ after: 'g' })).toEqual(['a', 'g']);
    expect(way({ before: 'c' })).toEqual(['a', 'b']);
    expect(way({ after: 'c' })).toEqual(['a', 'b', 'c']);
    expect(way({ after: 'off' })).toEqual(['a', 'b']);
    expect(way({ after: 'nowhere' })).toBeNull();
    expect(findStep(steps, 'c')?.op).toBe('mix');
  });

  it('can be taken from by other pictures, and take from them', () => {
    const frames = { f: floatFrame(1, 1, [0.1, 0.1, 0.1]), g: floatFrame(1, 1, [0.3, 0.3, 0.3]) };
    const lay = (picture: string, after?: string): object => ({
      ...{ id: 'l', op: 'lay', params: { from: { picture, ...(after && { after }) } } }
    });
    // (1 − 0.1)·2·2 after the innermost of the first.
    const taking = document(path, [lay('p', 'c')]);
    near(
      renderDocument(taking, frames, 'q').map((p) => p[0]),
      [3.6, 3.6, 3.6]
    );
    near(
      renderDocument(document([inside('g', lay('q'))]), frames).map((p) => p[0]),
      [0.3, 0.3, 0.3]
    );
    expect(() => document([inside('g', lay('q'))], [lay('p')])).toThrow(
      'in a circle: “Jug” → “Other” → “Jug”'
    );
    expect(() => document([inside('g', lay('nobody'))])).toThrow('there is no picture “nobody”');
    const { pictures } = document([inside('g', lay('q'))]);
    expect(new Resolver(document([inside('g', lay('q'))]), { f: 'F', g: 'G' }).framesOf(pictures[0])).toEqual(
      ['F', 'G']
    );
  });

  it('are read by their own schemas, and refused with their own place', () => {
    expect(() => document([inside('g', plain('blur', { radius: -1 }))])).toThrow(
      '$.pictures[0].steps[0].params.steps[0].params.radius'
    );
    expect(() => document([inside('g', plain('straighten'))])).toThrow(
      '“straighten” moves pixels and can’t stand inside another step'
    );
    expect(() => document([inside('g', { ...double, id: 'g' })])).toThrow('“g” is there twice');
    let deep = inside('g8', double);
    for (let i = 7; i >= 0; i--) deep = inside(`g${i}`, deep);
    expect(() => document([deep])).toThrow('stands inside more than 8 groups');
    const many = Array.from({ length: 500 }, (_, i) => ({ ...double, id: `m${i}` }));
    expect(() => document([inside('g', ...many)])).toThrow('takes at most 500 steps');
  });

  it('count for its key where they are on, and by nothing but their content', () => {
    const keyOf = (doc: KrombaDocument): string =>
      new Resolver(doc, { f: 'F', g: 'G' }).steps(doc.pictures[0].steps)[0].key!;
    const named = inside('g', { ...double, id: 'z', name: 'twice' }, { ...double, id: 'y', enabled: false });
    expect(keyOf(document([named]))).toBe(keyOf(document([inside('g', double)])));
    expect(keyOf(document([inside('g', double, { ...double, id: 'k' })]))).not.toBe(keyOf(document([named])));
  });
});

describe('laying a picture on', () => {
  const frames = (f: Frame, g: Frame): Record<string, Frame> => ({ f, g });
  const lay = (params: object = {}, more: object = {}): KrombaDocument =>
    document([{ id: 'l', op: 'lay', params: { from: { picture: 'q' }, ...params }, ...more }]);
  const grey = (...values: number[]): Frame =>
    floatFrame(
      values.length,
      1,
      values.flatMap((v) => [v, v, v])
    );

  it('blends the other picture in, by the mode', () => {
    const [red] = renderDocument(
      lay({}, { blend: { mode: 'multiply', opacity: 0.5 } }),
      frames(grey(0.4), grey(0.5))
    );
    // 0.4 and 0.2, half way.
    expect(red[0]).toBeCloseTo(0.3, 6);
  });

  it('moves it, and has no effect where it does not reach or is missing', () => {
    const f = grey(0.1, 0.1, 0.1, 0.1);
    const [red] = renderDocument(lay({ shift: [1, 0] }), frames(f, grey(0.6, 0.7, Number.NaN, 0.9)));
    near([...red], [0.1, 0.6, 0.7, 0.1]);
  });

  it('does nothing until one is chosen, whatever the mode', () => {
    const unset = document([{ id: 'l', op: 'lay', params: {}, blend: { mode: 'multiply' } }]);
    expect(renderDocument(unset, frames(grey(0.4), grey(0.5)))[0][0]).toBeCloseTo(0.4, 6);
  });

  it('takes only what is coded as its own picture is', () => {
    const doc = lay();
    const [own, other] = doc.frames;
    const mixed = { ...doc, frames: [own, { ...other, encoding: 'linear' as const }] };
    expect(() => renderDocument(mixed, frames(grey(0.4), grey(0.5)))).toThrow(
      'The picture “Other” is linear and this one coded: a step takes only from pictures that are coded as its own is.'
    );
  });
});
