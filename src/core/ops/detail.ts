import { z } from 'zod';
import { inRoom, takePlane } from '../kernels/arena';
import type { Rect } from '../raster/raster';
import type { Field } from '../spatial/field';
import { filled } from '../spatial/fill';
import { expand, reduce, windowOf, type Band } from '../spatial/laplacian';
import { shown } from './controls';
import { eachPlane } from './each-plane';
import { asRadius, oneOrEach, percent, pixels, refusedKey, said, unit, valueOf } from './fields';
import { defineOp } from './op';

/** The strength towards which the detail of every scale is raised, as a deviation in stored values. */
const COMMON = 0.05;
const AMOUNT = 50;
/** From this radius on its bands are coarse enough to differ where they are made from a smaller level. */
const SETTLES_FROM = 64;

/** `floor` was called `smoothing` once. */
function renamed(given: unknown): unknown {
  if (typeof given !== 'object' || given === null || !('smoothing' in given)) return given;
  const { smoothing, ...rest } = given;
  return { floor: smoothing, ...rest };
}

const current = z.strictObject({
  amount: oneOrEach(percent(0, 200).register(shown, { label: 'amount', unit: '%' })).default(AMOUNT),
  /** The coarsest scale that is raised, in pixels. */
  radius: pixels(2, 100).register(shown, asRadius).default(64),
  /** Detail much fainter than this floor is taken for noise and raised little. */
  floor: unit(0.0005, 0.5)
    .register(shown, { label: 'floor', unit: '%', slider: [0.05, 10], worth: 0.01, step: 0.1 })
    .default(0.01)
});
const params = z.preprocess(renamed, current);
type DetailParams = z.infer<typeof params>;

const scalesFor = (radius: number): number => Math.floor(Math.log2(Math.max(2, radius)));

/**
 * Raises faint detail of every scale towards a common strength. The channel is taken apart into the bands of a Laplacian
 * pyramid (Burt & Adelson 1983); the strength s of a band is the root of its smoothed square; where it is below the
 * common strength S, the band is raised by ((S + σ)/(s + σ))^amount, σ = `floor`. What is coarser than `radius` stays.
 */
export const detail = defineOp<DetailParams, DetailParams & { amounts: readonly number[] }>({
  id: 'detail',
  title: 'Faint detail',
  purpose: 'Raises faint detail of every size to a common strength',
  words: ['micro contrast', 'faint', 'dust', 'nebula', 'detail'],
  remark: 'What is fainter than the floor is left alone, so that noise is not raised.',
  params,
  kind: 'plane',
  ownModel: () => 'rgb',
  reach: ({ radius }, scale) => 6 * 2 ** scalesFor(radius * scale) + 8,
  settles: ({ radius }) => radius >= SETTLES_FROM,
  sentence: ({ amount, radius }) =>
    typeof amount === 'number'
      ? `Raise faint detail by ${said(amount)} % up to ${said(radius)} px`
      : `Raise faint detail up to ${said(radius)} px, each channel by its own`,
  prepare: (params, { channels }) => ({
    ...params,
    amounts: channels.map((c) => valueOf(params.amount, c.letter, AMOUNT) / 100)
  }),
  refuses: ({ amount }, model) => refusedKey('amount', amount, model),
  kernel(source, { radius, floor, amounts }, out) {
    const n = source.width * source.height;
    const raised = takePlane(n);
    const scales = scalesFor(radius * source.scale);
    eachPlane(
      source,
      out,
      (plane, to, c) => {
        inRoom(() => raiseDetail(plane.subarray(0, n), raised, source, scales, amounts[c], floor));
        to.set(raised.subarray(0, n));
      },
      (c, other) => amounts[c] === amounts[other]
    );
  }
});

const STEPS = 4096;

/** ((S + σ)/(s + σ))^amount over even steps of the root of s from 0 to S, where it is gentle. */
function gainTable(amount: number, floor: number): Float64Array {
  return Float64Array.from({ length: STEPS + 2 }, (_, i) => {
    const strength = COMMON * (i / STEPS) ** 2;
    return Math.max(1, (COMMON + floor) / (strength + floor)) ** amount;
  });
}

function gainAt(table: Float64Array, strength: number): number {
  const at = Math.sqrt(strength * (1 / COMMON)) * STEPS;
  const i = at | 0;
  return table[i] + (table[i + 1] - table[i]) * (at - i);
}

const grown = ({ x, y, width, height }: Rect, by: number): Rect => ({
  x: x - by,
  y: y - by,
  width: width + 2 * by,
  height: height + 2 * by
});

/** Places of the next coarser level that those of a rectangle are read from. */
function above({ x, y, width, height }: Rect): Rect {
  const [left, top] = [Math.floor(x / 2) - 1, Math.floor(y / 2) - 1];
  const [right, bottom] = [Math.floor((x + width - 1) / 2) + 1, Math.floor((y + height - 1) / 2) + 1];
  return { x: left, y: top, width: right - left + 1, height: bottom - top + 1 };
}

function raiseDetail(
  plane: Float32Array,
  out: Float32Array,
  { x, y, width, height, needed, present }: Field,
  scales: number,
  amount: number,
  floor: number
): void {
  const whole = { x, y, width, height };
  const levels: Band[] = [
    { ...whole, plane: present ? filled({ ...whole, plane }, present, scales) : plane }
  ];
  for (let j = 0; j < scales; j++) levels.push(reduce(levels[j]));
  const gains = gainTable(amount, floor);
  /** The raised level `j` over a part of it: every finer level needs only its own part and what it is read from. */
  const raised = (j: number, part: Rect): Band => {
    const level = levels[j];
    if (j === scales) return windowOf(level, part);
    const wanted = windowOf(level, part);
    // The strength of a band is smoothed by going down one level and up again.
    const around = windowOf(level, grown(part, 4));
    const smooth = expand(windowOf(levels[j + 1], above(around)), around);
    const squares = takePlane(smooth.length);
    for (let i = 0; i < smooth.length; i++) squares[i] = (around.plane[i] - smooth[i]) ** 2;
    const strengths = expand(reduce({ ...around, plane: squares }), wanted);
    const band = windowOf({ ...around, plane: smooth }, wanted).plane;
    const result = expand(raised(j + 1, above(wanted)), wanted);
    for (let i = 0; i < result.length; i++) {
      const d = wanted.plane[i] - band[i];
      const strength = strengths[i] > 0 ? Math.sqrt(strengths[i]) : 0;
      result[i] += strength < COMMON ? d * gainAt(gains, strength) : d;
    }
    return { ...wanted, plane: result };
  };
  const result = raised(0, { ...needed, x: x + needed.x, y: y + needed.y });
  for (let v = 0; v < needed.height; v++) {
    const row = result.plane.subarray(v * needed.width, (v + 1) * needed.width);
    out.set(row, (needed.y + v) * width + needed.x);
  }
}
