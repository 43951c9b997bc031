import { describe, expect, it } from 'vitest';
import { evaluate } from '../path/evaluate';
import { planOf, floatFrame } from '../testing';
import { parseDocument, pinsOf, Resolver, type KrombaDocument } from '.';

/** Two grey patches with casts: left red is half of what it should be, right it is double. */
const frame = floatFrame(2, 1, [0.2, 0.4, 0.4, 0.8, 0.4, 0.4]);
const left = { id: 'l', name: 'left', x: 0, y: 0, size: 1, role: 'neutral' };
const right = { ...left, id: 'r', name: 'right', x: 1 };
const balanced = { id: 's', op: 'balance', params: { method: 'pins' } };
const head = { kind: 'frame', frame: 'f' };

const document = (pins: object[], steps: object[] = [balanced]): KrombaDocument =>
  parseDocument({
    ...{ kromba: 1, kind: 'document', name: 'Tiles', pins },
    frames: [{ id: 'f', name: 'tiles', file: 'tiles.png' }],
    pictures: [
      { id: 'a', name: 'Left', head, steps: [balanced] },
      { id: 'b', name: 'Right', head, steps }
    ]
  });

/** Red over green of each patch, as the resolver hands the picture to whoever computes it. */
function casts(made: KrombaDocument, picture: string): number[] {
  const { steps, pins } = new Resolver(made, { f: 'hash' }).picture({ picture })!;
  const [r, g] = evaluate(planOf(frame, steps, pins), 0, {
    x: 0,
    y: 0,
    width: 2,
    height: 1
  }).planes;
  return [r[0] / g[0], r[1] / g[1]];
}
const near = (found: number[], wanted: number[]): void =>
  found.forEach((v, i) => expect(v).toBeCloseTo(wanted[i], 4));

describe('the pins of a picture', () => {
  it('solve its own steps and no other’s', () => {
    const made = document([
      { ...left, picture: 'a' },
      { ...right, picture: 'b' }
    ]);
    // Red at half of green becomes 1 where doubled; the other patch, at twice green, becomes 4.
    near(casts(made, 'a'), [1, 4]);
    near(casts(made, 'b'), [0.25, 1]);
  });

  it('are those of all as well', () => {
    const made = document([left, { ...right, picture: 'b' }]);
    near(casts(made, 'a'), [1, 4]);
    expect(pinsOf(made, 'b')).toHaveLength(2);
    expect(casts(made, 'b')[0]).not.toBeCloseTo(0.25, 2);
  });

  it('stay with it where another takes from it', () => {
    const taking = { id: 't', op: 'merge', params: { from: { picture: 'a' }, reach: { grey: 1 } } };
    const pins = [
      { ...left, picture: 'a' },
      { ...right, picture: 'b' }
    ];
    const steps = (made: KrombaDocument) =>
      new Resolver(made, { f: 'hash' }).picture({ picture: 'b' })!.steps;
    const made = document(pins, [taking]);
    const [{ key, beside }] = steps(made);
    expect(beside!.pictures['a/'].pins.map((p) => p.id)).toEqual(['l']);
    // What it takes changes with the other's pin alone.
    expect(steps(document([{ ...pins[0], x: 1 }, pins[1]], [taking]))[0].key).not.toBe(key);
    expect(steps(document([pins[0], { ...pins[1], x: 0 }], [taking]))[0].key).toBe(key);
  });

  it('must belong to a picture that is there', () => {
    expect(() => document([{ ...left, picture: 'c' }])).toThrow(
      '$.pins[0].picture: there is no picture “c” in the document'
    );
  });
});
