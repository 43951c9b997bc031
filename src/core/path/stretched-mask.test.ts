import { describe, expect, it } from 'vitest';
import {
  maskOf,
  parseDocument,
  type KrombaDocument,
  type Mask,
  type MaskSource,
  type Step
} from '../document';
import { headOf } from '../heads';
import { floatFrame, renderDocument, stepOf } from '../testing';
import { evaluate } from './evaluate';
import { Planner } from './planner';

/**
 * A sky of 0.010 … 0.014 and a star of 0.5, grey. By hand: after the star is left out its median is 0.012 and its MAD 0.001, so that
 * σ = 0.0014826, black = 0.012 − 3σ = 0.0075522, and the middle that brings (0.012 − black)/(1 − black) = 0.0044817 to 0.2 is
 * 0.0176890 (Schlick 1994 solved for m).
 */
const LIGHT = [0.01, 0.011, 0.012, 0.013, 0.014, 0.5];
const grey = (values: readonly number[]): number[] => values.flatMap((v) => [v, v, v]);
const SKY = { at: 2, comesTo: 0.2 };
const BRIGHT_SKY = { at: 4, comesTo: 0.266405 };
const STAR = { at: 5, comesTo: 0.982044 };

const channel: MaskSource = { kind: 'channel', channel: 'rgb.g' };
/** A step that makes all white where its mask lets it. */
const whiteWhere = (where: Mask): Step => stepOf('mono', { weights: {}, constant: 1 }, { where });

interface Given {
  readonly own?: readonly number[];
  readonly other?: readonly number[];
  readonly encoding?: 'coded' | 'linear';
  readonly steps: readonly Step[];
  readonly masks?: KrombaDocument['masks'];
}

/** What the mask of the last step was, sample by sample: white·m + x·(1 − m). */
function maskSeen({ own = LIGHT, other = LIGHT, encoding = 'linear', steps, masks = [] }: Given): number[] {
  const frame = (id: string, encoding: string): object => ({
    ...{ id, name: id, file: `${id}.tif`, encoding }
  });
  const picture = (id: string, steps: readonly Step[]): object => ({
    ...{ id, name: id, head: { kind: 'frame', frame: `f${id}` }, steps }
  });
  const document = (steps: readonly Step[]): KrombaDocument =>
    parseDocument({
      ...{ kromba: 1, kind: 'document', name: 'test', masks },
      frames: [frame('fa', encoding), frame('fb', 'linear')],
      pictures: [picture('a', steps), picture('b', [])]
    });
  const frames = { fa: floatFrame(own.length, 1, grey(own)), fb: floatFrame(own.length, 1, grey(other)) };
  const [before] = renderDocument(document(steps.slice(0, -1)), frames);
  const [after] = renderDocument(document(steps), frames);
  return own.map((_, i) => (after[i] - before[i]) / (1 - before[i]));
}

describe('a term that sees a linear picture stretched', () => {
  it('sees the sky at a fifth, and the star below white', () => {
    const seen = maskSeen({ steps: [whiteWhere(maskOf(channel, { stretched: true }))] });
    for (const { at, comesTo } of [SKY, BRIGHT_SKY, STAR]) expect(seen[at]).toBeCloseTo(comesTo, 4);
    const plain = maskSeen({ steps: [whiteWhere(maskOf(channel))] });
    expect(plain[SKY.at]).toBeCloseTo(0.012, 6);
  });

  it('gives coded values to models: L* of a fifth, coded, is 21.25', () => {
    const lightness: MaskSource = { kind: 'mix', weights: { 'lab.l': 1 }, constant: 0 };
    const seen = maskSeen({ steps: [whiteWhere(maskOf(lightness, { stretched: true }))] });
    // sRGB 0.2 is 0.0331048 of light (IEC 61966-2-1), whose L* is 116·∛0.0331048 − 16 = 21.246 (CIE 1976).
    expect(100 * seen[SKY.at]).toBeCloseTo(21.246, 2);
  });

  it('sees another picture by that picture’s own sky', () => {
    const of: MaskSource = { kind: 'channel', channel: 'lum', of: { picture: 'b' } };
    const steps = [whiteWhere(maskOf(of, { stretched: true }))];
    for (const encoding of ['coded', 'linear'] as const) {
      const seen = maskSeen({ own: [0.3, 0.4, 0.5, 0.6, 0.7, 0.8], encoding, steps });
      for (const { at, comesTo } of [SKY, BRIGHT_SKY, STAR]) expect(seen[at]).toBeCloseTo(comesTo, 4);
    }
  });

  it('sees a coded picture as it is', () => {
    const seen = maskSeen({ encoding: 'coded', steps: [whiteWhere(maskOf(channel, { stretched: true }))] });
    expect(seen[SKY.at]).toBeCloseTo(0.012, 6);
  });

  it('counts within a named mask, and changes nothing of the mask that it is named in', () => {
    const masks = [{ id: 'm', name: 'sky', mask: maskOf(channel, { stretched: true }) }];
    const named: MaskSource = { kind: 'mask', id: 'm' };
    for (const stretched of [undefined, true]) {
      const seen = maskSeen({ masks, steps: [whiteWhere(maskOf(named, { stretched }))] });
      expect(seen[SKY.at]).toBeCloseTo(0.2, 4);
    }
  });

  it('is stretched anew by what comes into the step', () => {
    const masked = whiteWhere(maskOf(channel, { stretched: true }));
    const brighter = stepOf('mix', { rows: { r: { r: 3 }, g: { g: 3 }, b: { b: 3 } } });
    expect(maskSeen({ steps: [brighter, masked] })[SKY.at]).toBeCloseTo(0.2, 4);
    // One planner that has seen the step behind something else.
    const planner = new Planner(() => floatFrame(LIGHT.length, 1, grey(LIGHT)));
    const skyAfter = (steps: readonly Step[]): number => {
      const plan = planner.plan({ head: headOf('frame', 'linear'), steps, pins: [] });
      return evaluate(plan, 0, { x: 0, y: 0, width: LIGHT.length, height: 1 }).planes[0][SKY.at];
    };
    expect(skyAfter([masked])).toBeCloseTo(0.012 + 0.2 * 0.988, 4);
    expect(skyAfter([brighter, masked])).toBeCloseTo(0.036 + 0.2 * 0.964, 4);
  });

  it('counts no missing sample, and one pixel is seen as black', () => {
    const own = [...LIGHT, Number.NaN];
    const seen = maskSeen({ own, other: own, steps: [whiteWhere(maskOf(channel, { stretched: true }))] });
    expect(seen[SKY.at]).toBeCloseTo(0.2, 4);
    expect(seen[6]).toBeNaN();
    const alone = maskSeen({
      ...{ own: [0.3], other: [0.3] },
      steps: [whiteWhere(maskOf(channel, { stretched: true }))]
    });
    expect(alone[0]).toBeCloseTo(0, 6);
  });
});
