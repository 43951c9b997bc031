import { expect, it } from 'vitest';
import { parseDocument, Resolver, stepKey, type KrombaDocument } from '../document';
import { floatFrame, render } from '../testing';
import { Planner } from './planner';
import { unsettled } from './settled';

const head = { kind: 'frame', frame: 'f' };
const COLOUR = [0.2, 0.5, 0.7];
const frame = floatFrame(2, 2, [...COLOUR, ...COLOUR, ...COLOUR, ...COLOUR]);

const made = (pictures: object[], masks: object[] = []): KrombaDocument =>
  parseDocument({
    ...{ kromba: 1, kind: 'document', name: 'x', frames: [{ id: 'f', name: 'f', file: 'f.png' }] },
    pictures,
    masks
  });

/** The first pixel of the first picture, and the longest key of its steps. */
function first(document: KrombaDocument): { rgb: number[]; longest: number } {
  const steps = new Resolver(document, { f: 'f' }).steps(document.pictures[0].steps);
  return {
    rgb: render(frame, steps).map((plane) => plane[0]),
    longest: Math.max(...steps.map((step) => stepKey(step).length))
  };
}

// 2^30 ways lead through these, and 2^24 through the pictures: going each of them would take hours.

it('makes a mask once that others are made of twice', () => {
  const twice = (id: string): object => ({
    terms: [1, 2].map(() => ({ source: { kind: 'mask', id }, combine: 'min' }))
  });
  const masks = Array.from({ length: 30 }, (_, i) => ({
    id: `m${i}`,
    name: `m${i}`,
    mask: i < 29 ? twice(`m${i + 1}`) : { terms: [{ source: { kind: 'channel', channel: 'rgb.g' } }] }
  }));
  const steps = [{ id: 's', op: 'invert', params: {}, where: twice('m0') }];
  const { rgb, longest } = first(made([{ id: 'p', name: 'p', head, steps }], masks));
  // By hand: half the way (green is 0.5) from v to 1 − v, so 0.5 everywhere.
  rgb.forEach((v) => expect(v).toBeCloseTo(0.5, 6));
  expect(longest).toBeLessThanOrEqual(64);
}, 10_000);

const inChain = (last: object): object[] =>
  Array.from({ length: 25 }, (_, i) => ({
    id: `p${i}`,
    name: `p${i}`,
    head,
    steps:
      i < 24
        ? [1, 2].map((n) => ({
            ...{ id: `s${n}`, op: 'channel' },
            params: { stack: [{ from: { picture: `p${i + 1}` }, channel: 'rgb.g' }] },
            where: {
              terms: [{ source: { kind: 'channel', channel: 'rgb.g', of: { picture: `p${i + 1}` } } }]
            }
          }))
        : [{ id: 's', ...last }]
  }));

it('computes a picture once that others take from twice', () => {
  const document = made(inChain({ op: 'invert', params: {} }));
  const { rgb, longest } = first(document);
  // Green is 0.5 in all of them; each step goes half the way there.
  expect(rgb[1]).toBeCloseTo(0.5, 6);
  expect(rgb[0]).toBeCloseTo(0.5 + (0.2 - 0.5) / 4, 6);
  expect(longest).toBeLessThanOrEqual(64);
  expect(new Resolver(document, { f: 'f' }).framesOf(document.pictures[0])).toEqual(['f']);
}, 10_000);

it('asks once for what the last of them has to be computed to over the whole picture', () => {
  const document = made(inChain({ op: 'local', params: { radius: 80 } }));
  const source = new Resolver(document, { f: 'f' }).whole(document.pictures[0]);
  const plan = new Planner(() => frame).plan(source);
  const ask = unsettled(plan, new Map())!;
  expect([ask.step, ask.steps.length]).toEqual(['s', 1]);
  expect(unsettled(plan, new Map([[ask.key, frame]]))).toBeNull();
}, 10_000);
