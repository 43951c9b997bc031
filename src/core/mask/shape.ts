import { makeCurve, readCurve, type CurvePoint } from '../curve';
import type { Mask } from '../document';
import type { Histogram } from '../measure/histogram';
import { sourceKind } from './sources';

/** Ways to shape a mask's curve by what its source holds. */

const NEAREST = 0.002;
const rounded = (v: number): number => Math.round(v * 1e4) / 1e4;
const within = (v: number): number => Math.min(1, Math.max(0, v));

/** Points with their x in order and apart, the first and last at the ends of 0…1. */
function tidy(points: readonly CurvePoint[]): CurvePoint[] {
  const out: CurvePoint[] = [];
  for (const [x, y] of points) {
    const last = out[out.length - 1];
    const at = rounded(within(x));
    if (!last || at - last[0] >= NEAREST) out.push([at, rounded(within(y))]);
    // Of points that fall together, the steeper end is kept.
    else out[out.length - 1] = [last[0], rounded(within(y))];
  }
  if (out[0][0] > 0) out.unshift([0, out[0][1]]);
  if (out[out.length - 1][0] < 1) out.push([1, out[out.length - 1][1]]);
  return out;
}

/** Where a curve first crosses one half; its middle where it does not. */
function crossing(points: readonly CurvePoint[]): number {
  const curve = makeCurve(points);
  const STEPS = 1024;
  const side = readCurve(curve, 0) >= 0.5;
  for (let i = 1; i <= STEPS; i++) if (readCurve(curve, i / STEPS) >= 0.5 !== side) return i / STEPS;
  return (points[0][0] + points[points.length - 1][0]) / 2;
}

/** The same transition, `factor` times as wide about where it crosses one half: under 1 harder, over 1 softer. */
export function stretched(points: readonly CurvePoint[], factor: number): CurvePoint[] {
  const middle = crossing(points);
  const inner = points.filter(([, y], i) => {
    const flat = points[i - 1]?.[1] === y || points[i + 1]?.[1] === y;
    return !(flat && (i === 0 || i === points.length - 1));
  });
  const used = inner.length > 1 ? inner : points;
  return tidy(used.map(([x, y]): CurvePoint => [middle + (x - middle) * factor, y]));
}

/** The value below which a part of a histogram's counts lies. */
function quantile({ counts, total, low, high }: Histogram, part: number): number {
  let sum = 0;
  for (let i = 0; i < counts.length; i++) {
    if (counts[i] > 0 && sum + counts[i] >= part * total) {
      return low + ((i + (part * total - sum) / counts[i]) / counts.length) * (high - low);
    }
    sum += counts[i];
  }
  return high;
}

const CLIP = 0.005;

/** The straight curve from a source's darkest to its lightest values, half a percent left out at each end. */
export function levelled(histogram: Histogram, falls = false): CurvePoint[] {
  const [from, to] = [quantile(histogram, CLIP), quantile(histogram, 1 - CLIP)];
  const ends: CurvePoint[] = [
    [from, falls ? 1 : 0],
    [Math.max(from + 2 * NEAREST, to), falls ? 0 : 1]
  ];
  return tidy(ends);
}

const EQUAL_POINTS = 16;

/** The curve that gives every value of a source an equal share: the part of the counts below it. */
export function equalised(histogram: Histogram, falls = false): CurvePoint[] {
  const points = Array.from({ length: EQUAL_POINTS + 1 }, (_, i): CurvePoint => {
    const part = i / EQUAL_POINTS;
    return [quantile(histogram, part), falls ? 1 - part : part];
  });
  return tidy(points);
}

/** Mean of a mask in %, from the histogram of its values. */
export function coverage({ counts, total }: Histogram): number {
  const last = counts.length - 1;
  let sum = 0;
  counts.forEach((count, i) => {
    // The end bins hold mostly the ends themselves.
    const value = i === 0 ? 0 : i === last ? 1 : (i + 0.5) / counts.length;
    sum += count * value;
  });
  return total > 0 ? (100 * sum) / total : 0;
}

/**
 * Why a mask does not mean the same on another picture; nothing where it is made of colours alone.
 * @param carried named masks come along with it, and are looked at by themselves
 */
export function whyBound(mask: Mask, carried = false): string[] {
  const sources = mask.terms
    .filter(({ source }) => !(carried && source.kind === 'mask'))
    .map(({ source }) => ({ source, kind: sourceKind(source.kind) }));
  const reasons = [...new Set(sources.flatMap(({ kind }) => kind.bound ?? []))];
  const refersTo = sources.flatMap(({ source, kind }) => kind.uses?.(source)?.used ?? []);
  if (refersTo.some((used) => 'picture' in used)) reasons.push('another picture');
  if (mask.grow !== 0 || mask.blur > 0) reasons.push('neighbours (grow, blur)');
  return reasons;
}

/** What beside colours alone a mask depends on that is found in its picture, in words. */
export const foundAround = (mask: Mask): string[] => [
  ...new Set(mask.terms.flatMap(({ source }) => sourceKind(source.kind).around ?? []))
];
