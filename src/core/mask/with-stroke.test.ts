import { describe, expect, it } from 'vitest';
import { maskOf, maskSchema, type Mask, type Stroke } from '../document/mask';
import { floatFrame, render, stepOf } from '../testing';
import { placeOfStroke, takeStroke, withStroke } from './with-stroke';

const frame = floatFrame(
  40,
  10,
  Array.from({ length: 1200 }, () => 0.25)
);
/** A hard stroke over the left or the right half. */
const stroke = (side: 'left' | 'right', erase: boolean): Stroke => ({
  points: [
    [side === 'left' ? 4 : 34, 5, 1],
    [side === 'left' ? 6 : 36, 5, 1]
  ],
  size: 24,
  hardness: 1,
  flow: 1,
  erase
});

/** The mask's values in the middle of the left and of the right stroke. */
function at(mask: Mask): [number, number] {
  // What is 0.25 becomes 0.75 where the mask is 1.
  const [plane] = render(frame, [stepOf('invert', {}, { where: maskSchema.parse(mask) })]);
  const value = (x: number): number => Math.round(100 * ((plane[5 * 40 + x] - 0.25) / 0.5)) / 100;
  return [value(5), value(35)];
}

/** Strokes laid down one after another, as they are drawn on the picture: seen first, then taken. */
function stroked(mask: Mask, ...strokes: readonly Stroke[]): Mask {
  let now = mask;
  for (const one of strokes) {
    const place = placeOfStroke(now, one, now.terms.length - 1);
    const taken = structuredClone(now);
    takeStroke(taken, place);
    expect(taken).toEqual(withStroke(now, place));
    now = taken;
  }
  return now;
}

const channel = maskOf({ kind: 'channel', channel: 'rgb.r' });
const twice: Mask = { ...channel, terms: [...channel.terms, { ...channel.terms[0], combine: 'add' }] };
const masks: [string, Mask, number][] = [
  ['no term', { ...channel, terms: [] }, 1],
  ['a found one', channel, 0.25],
  ['two found ones', twice, 0.44],
  ['an inverted one', { ...channel, terms: [{ ...channel.terms[0], invert: true }] }, 0.75]
];

describe.each(masks)('a mask of %s', (_, mask, before) => {
  it('is what it was', () => expect(at(mask)).toEqual([before, before]));

  it('is 0 where it is erased, and stays elsewhere', () =>
    expect(at(stroked(mask, stroke('left', true)))).toEqual([0, before]));

  it('is 1 where it is painted', () => {
    // Painting on no term at all starts the mask: it is nowhere else.
    const elsewhere = mask.terms.length ? before : 0;
    expect(at(stroked(mask, stroke('right', false)))).toEqual([elsewhere, 1]);
  });

  it('takes what comes last, however often that changes', () => {
    const erased = stroked(mask, stroke('left', false), stroke('left', true), stroke('right', true));
    expect(at(erased)).toEqual([0, 0]);
    expect(at(stroked(erased, stroke('left', false), stroke('right', false)))).toEqual([1, 1]);
  });

  it('keeps strokes of a kind that follow each other in one term', () => {
    const all = stroked(mask, stroke('left', true), stroke('right', true), stroke('left', true));
    expect(all.terms.length - mask.terms.length).toBe(1);
  });
});

it('goes into a paint term that is selected though others come behind it', () => {
  const paint = maskOf({ kind: 'paint', strokes: [stroke('left', false), stroke('right', false)] });
  const mask: Mask = { ...paint, terms: [...paint.terms, channel.terms[0]] };
  const place = placeOfStroke(mask, stroke('right', true), 0);
  expect([place.at, place.stroke.erase, place.added]).toEqual([0, true, null]);
  expect(at(withStroke(mask, place))).toEqual([0.25, 0]);
});
