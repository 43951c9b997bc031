import { contentKey, type PictureSource } from '../document';
import { buildPyramid, sharedSamples, type Frame } from '../raster/frame';
import { margin } from './apply';
import { TILE, type Rect } from '../raster/raster';
import { encodingAt, type Lying, type Plan } from './plan';

/** Results over whole pictures, by `settledKey`. */
export interface Settled {
  get(key: string): Frame | undefined;
}

/** One whole result is kept up to so many bytes; a larger picture is computed where it is looked at. */
const LARGEST = 640 * 2 ** 20;

const channelsOf = ({ head }: Plan): number => (head.alpha ? 4 : 3);

/** Bytes of a result over the whole picture, its smaller levels counted. */
const settledBytes = (plan: Plan): number =>
  Math.ceil((plan.geometry.width * plan.geometry.height * channelsOf(plan) * 4 * 4) / 3);

const settledKey = (plan: Plan, count: number): string => contentKey(plan.keyAfter(count));

/** After how many of its steps the results of a plan are kept, in their order. */
const settledCounts = (plan: Plan): number[] =>
  plan.steps.some(({ settles }) => settles) && settledBytes(plan) <= LARGEST
    ? plan.steps.flatMap(({ settles }, i) => (settles ? [i + 1] : []))
    : [];

/** The last result of a plan that is there, after more than `from` of its steps. */
export function lastSettled(
  plan: Plan,
  settled: Settled,
  from: number
): { readonly steps: number; readonly frame: Frame } | null {
  for (const steps of settledCounts(plan).reverse()) {
    if (steps <= from) break;
    const frame = settled.get(settledKey(plan, steps));
    if (frame) return { steps, frame };
  }
  return null;
}

/** The pictures that a plan takes from. */
export const besideOf = ({ head, steps }: Pick<Plan, 'head' | 'steps'>): readonly Plan[] => [
  ...head.beside,
  ...steps.flatMap(function all({ beside, inside }): Plan[] {
    return [...beside, ...inside.flatMap(all)];
  })
];

/** A picture whose result is to be computed over the whole of it: plain data, so that any worker can do it. */
export interface SettleAsk extends PictureSource, Lying {
  /** What the result depends on. */
  readonly key: string;
  /** The last of the steps, whose result it is. */
  readonly step: string;
  /** Colours, and alpha where there is some. */
  readonly channels: number;
  readonly bytes: number;
  /** How many samples around one the last part of its path depends on. */
  readonly reach: number;
}

/** Parts are of whole tiles. Samples of reach from which on they are made larger: more of each would be computed for its margin alone. */
const [ACROSS, DOWN, FAR] = [4 * TILE, TILE, 64];

/**
 * The parts in which a result over a whole picture is computed, by whomever: of steps that reach very far the last bits of a sample may
 * hang on them.
 */
export function settleParts({
  common: { width, height },
  reach
}: Pick<SettleAsk, 'common' | 'reach'>): Rect[] {
  const down = reach > FAR ? 2 * DOWN : DOWN;
  const parts: Rect[] = [];
  for (let y = 0; y < height; y += down)
    for (let x = 0; x < width; x += ACROSS)
      parts.push({ x, y, width: Math.min(ACROSS, width - x), height: Math.min(down, height - y) });
  return parts;
}

/** What has to be computed over a whole picture first, before this one is what it will be; null where all is there. */
export function unsettled(plan: Plan, settled: Settled, seen = new Set<Plan>()): SettleAsk | null {
  // There may be very many ways to the same picture.
  if (!plan.mayWait || seen.has(plan)) return null;
  seen.add(plan);
  for (const other of besideOf(plan)) {
    const found = unsettled(other, settled, seen);
    if (found) return found;
  }
  // It begins from the last: those before are not looked at.
  const count = settledCounts(plan).at(-1);
  const key = count === undefined ? null : settledKey(plan, count);
  if (count !== undefined && key !== null && !settled.get(key)) {
    const { source, common, beyond } = plan;
    const steps = source.steps.slice(0, count);
    return {
      ...{ ...source, key, common, beyond, steps, step: steps[count - 1].id },
      ...{ channels: channelsOf(plan), bytes: settledBytes(plan) },
      reach: margin(plan.steps.slice(settledCounts(plan).at(-2) ?? 0, count), 0)
    };
  }
  return null;
}

/** Room for a result over the whole picture, to be filled from everywhere. */
export const settledSamples = (plan: Plan): Float32Array => {
  const { width, height } = plan.geometry;
  return sharedSamples('f32', width * height * channelsOf(plan)) as Float32Array;
};

/** A result that stands in `samples` over the whole picture, with its pyramid. */
export function settledFrame(plan: Plan, samples: Float32Array): Frame {
  const { width, height } = plan.geometry;
  return {
    ...{ width, height, samples, layout: 'rgb', alpha: plan.head.alpha, sampleType: 'f32' },
    encoding: encodingAt(plan),
    levels: buildPyramid({ width, height, samples }, channelsOf(plan), plan.head.levels),
    missing: plan.mayMiss ? 1 : 0
  } as Frame;
}
