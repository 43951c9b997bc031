/**
 * Order statistics of many samples, exact, without sorting them: they are told apart by the upper half of their bits first, and only
 * where somebody asks for a rank by the lower half as well. Each part of a plane can be put in order by itself.
 */

/** Samples in order, as far as they are there. */
export interface Ordered {
  readonly length: number;
  readonly sum: number;
  /** The sample before which `rank` others stand. */
  at(rank: number): number;
  /** How many are below `v`; with `andAt`, how many are not above it. */
  below(v: number, andAt?: boolean): number;
}

const HALF = 65536;
/** From so many samples of one upper half on, counts of the lower ones take less room than the samples. */
const CROWDED = HALF * 2;
/** Up to so many of one upper half are looked at one by one. */
const SPARSE = 4096;
/** Up to so many are sorted as they are; counting takes as long for one as for many. */
const FEW = 16384;

/** Which samples of an interleaved array: every `step`-th from `first` on, those from `from` to `to`, counted in pixels. */
export interface Stride {
  readonly first: number;
  readonly step: number;
  readonly from: number;
  readonly to: number;
}

/** A part of a plane in order: plain data in shared memory, so that one worker can make it and another use it. */
export type OrderedPart = {
  readonly sum: number;
  /** How many samples have each upper half of their bits; of an integer, all of it. */
  readonly upper: Uint32Array;
} & (
  | { readonly kind: 'whole' }
  | {
      readonly kind: 'float';
      /** Where the lower halves of an upper one begin in `lower`; −1 − n where they are counted, in the nth block of `counts`. */
      readonly places: Int32Array;
      readonly lower: Uint16Array;
      readonly counts: Uint32Array;
    }
);

const isNumber = (raw: number): boolean => (raw & 0x7fffffff) <= 0x7f800000;
/** Upper halves of the bits of a float (IEEE 754) that hold what is no number, and infinity. */
const [ENDLESS, NEGATIVE] = [0x7f80, 0x8000];

/** The upper half of a float's bits and its place in the order of floats go over into each other: below zero all bits turn. */
const turned = (half: number): number => (half & NEGATIVE ? ~half & 0xffff : half | NEGATIVE);
const placed = (half: number): number => (half & NEGATIVE ? half ^ NEGATIVE : ~half & 0xffff);

const float = new Float32Array(1);
const bits = new Int32Array(float.buffer);

/** The place, among all floats, of the smallest that is not below `v`, or, with `above`, that is above it; −0 is 0. */
function placeFrom(v: number, above: boolean): number {
  float[0] = v === 0 ? (above ? 0 : -0) : v;
  const place = (bits[0] < 0 ? ~bits[0] : bits[0] | (1 << 31)) >>> 0;
  return float[0] < v || (above && float[0] === v) ? place + 1 : place;
}
function floatAt(place: number): number {
  bits[0] = place >>> 31 ? place ^ (1 << 31) : ~place;
  return float[0] + 0;
}

/** Puts whole numbers below 65536 in order. */
export function orderedWholes(samples: Uint8Array | Uint16Array, stride: Stride): OrderedPart {
  const { first, step, from, to } = stride;
  const upper = new Uint32Array(new SharedArrayBuffer(HALF * 4));
  for (let i = from, at = first + from * step; i < to; i++, at += step) upper[samples[at]]++;
  let sum = 0;
  for (let value = 0; value < HALF; value++) sum += value * upper[value];
  return { kind: 'whole', sum, upper };
}

/** Counts upper halves, of numbers alone where there may be others. */
function countUpper(
  raws: Int32Array,
  { first, step, from, to }: Stride,
  odd: boolean,
  upper: Uint32Array
): void {
  upper.fill(0);
  const end = first + to * step;
  if (!odd) for (let at = first + from * step; at < end; at += step) upper[raws[at] >>> 16]++;
  else
    for (let at = first + from * step; at < end; at += step) {
      const raw = raws[at];
      if (isNumber(raw)) upper[raw >>> 16]++;
    }
}

function sumOfNumbers(samples: Float32Array, { first, step, from, to }: Stride): number {
  let sum = 0;
  const end = first + to * step;
  for (let at = first + from * step; at < end; at += step) {
    const v = samples[at];
    if (v === v) sum += v;
  }
  return sum;
}

/** Puts floats in order; those that are no number take no part. */
export function orderedFloats(samples: Float32Array, stride: Stride): OrderedPart {
  const raws = new Int32Array(samples.buffer, samples.byteOffset, samples.length);
  const upper = new Uint32Array(new SharedArrayBuffer(HALF * 4));
  countUpper(raws, stride, false, upper);
  const odd = upper.some((count, half) => count > 0 && (half & ENDLESS) === ENDLESS);
  if (odd) countUpper(raws, stride, true, upper);
  const places = new Int32Array(new SharedArrayBuffer(HALF * 4));
  let [single, blocks] = [0, 0];
  for (let half = 0; half < HALF; half++) {
    if (upper[half] > CROWDED) places[half] = -1 - blocks++;
    else {
      places[half] = single;
      single += upper[half];
    }
  }
  const lower = new Uint16Array(new SharedArrayBuffer(single * 2));
  const counts = new Uint32Array(new SharedArrayBuffer(blocks * HALF * 4));
  const next = Int32Array.from(places);
  const { first, step, from, to } = stride;
  const end = first + to * step;
  for (let at = first + from * step; at < end; at += step) {
    const raw = raws[at];
    if (odd && !isNumber(raw)) continue;
    const half = raw >>> 16;
    const place = next[half];
    if (place < 0) counts[(-1 - place) * HALF + (raw & 0xffff)]++;
    else {
      lower[place] = raw & 0xffff;
      next[half] = place + 1;
    }
  }
  return { kind: 'float', sum: sumOfNumbers(samples, stride), upper, places, lower, counts };
}

/** Counts made into how many stand before each. */
function before(counts: ArrayLike<number>): Float64Array {
  const sums = new Float64Array(counts.length + 1);
  for (let i = 0; i < counts.length; i++) sums[i + 1] = sums[i] + counts[i];
  return sums;
}

/** The last place at which no more than `rank` stand before it. */
function placeIn(sums: Float64Array, rank: number): number {
  let [low, high] = [0, sums.length - 1];
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (sums[middle] <= rank) low = middle;
    else high = middle;
  }
  return low;
}

/** The lower halves of one upper half, in order. */
type Inside = Pick<Ordered, 'at' | 'below'>;

/** Few of them as a list; `half` as it stands in the bits. */
function listed(parts: readonly OrderedPart[], half: number, length: number): Inside {
  const list = new Uint16Array(length);
  let n = 0;
  for (const part of parts) {
    if (part.kind !== 'float') continue;
    const from = part.places[half];
    list.set(part.lower.subarray(from, from + part.upper[half]), n);
    n += part.upper[half];
  }
  if (half & NEGATIVE) for (let i = 0; i < length; i++) list[i] = ~list[i];
  return inOrder(list.sort());
}

/** Many of them counted. */
function counted(parts: readonly OrderedPart[], half: number): Inside {
  const counts = new Uint32Array(HALF);
  for (const part of parts) {
    if (part.kind !== 'float') continue;
    const place = part.places[half];
    if (place >= 0) for (let i = 0; i < part.upper[half]; i++) counts[part.lower[place + i]]++;
    else for (let i = 0, at = (-1 - place) * HALF; i < HALF; i++) counts[i] += part.counts[at + i];
  }
  const sums = before(half & NEGATIVE ? counts.reverse() : counts);
  return { at: (rank) => placeIn(sums, rank), below: (low) => sums[low] };
}

/** The samples of several parts, together. */
export function ordered(parts: readonly OrderedPart[]): Ordered {
  const whole = parts.every(({ kind }) => kind === 'whole');
  const upper = new Float64Array(HALF);
  for (const part of parts)
    for (let half = 0; half < HALF; half++) upper[whole ? half : turned(half)] += part.upper[half];
  const sums = before(upper);
  const common = { length: sums[HALF], sum: parts.reduce((sum, part) => sum + part.sum, 0) };
  if (whole) {
    const within = (v: number): number => Math.min(HALF, Math.max(0, v));
    return {
      ...common,
      at: (rank) => placeIn(sums, rank),
      below: (v, andAt = false) => sums[within(andAt ? Math.floor(v) + 1 : Math.ceil(v))]
    };
  }
  const known = new Map<number, Inside>();
  const inside = (half: number): Inside => {
    const found = known.get(half);
    if (found) return found;
    const made =
      upper[half] > SPARSE ? counted(parts, placed(half)) : listed(parts, placed(half), upper[half]);
    known.set(half, made);
    return made;
  };
  return {
    ...common,
    at(rank) {
      const half = placeIn(sums, rank);
      return floatAt(half * HALF + inside(half).at(rank - sums[half]));
    },
    below(v, andAt = false) {
      const place = placeFrom(v, andAt);
      const half = place >>> 16;
      return upper[half] > 0 ? sums[half] + inside(half).below(place & 0xffff) : sums[half];
    }
  };
}

function sumOf(values: Float32Array | Uint16Array): number {
  let sum = 0;
  for (const v of values) sum += v;
  return sum;
}

/** Sorted values, all of them there, in their order. */
function inOrder(sorted: Float32Array | Uint16Array): Ordered {
  return {
    length: sorted.length,
    sum: sumOf(sorted),
    at: (rank) => sorted[rank],
    below(v, andAt = false) {
      let [low, high] = [0, sorted.length];
      while (low < high) {
        const middle = (low + high) >>> 1;
        if (sorted[middle] < v || (andAt && sorted[middle] === v)) low = middle + 1;
        else high = middle;
      }
      return low;
    }
  };
}

/** The first `n` values that are numbers, in order. */
export function orderedPresent(plane: Float32Array, n = plane.length): Ordered {
  if (n > FEW) return ordered([orderedFloats(plane, { first: 0, step: 1, from: 0, to: n })]);
  return inOrder(
    plane
      .subarray(0, n)
      .filter((v) => v === v)
      .sort()
  );
}
