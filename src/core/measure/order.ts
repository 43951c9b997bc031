/**
 * Order statistics of many samples, exact, without sorting them: they are told apart by the upper half of their bits first, and only
 * where somebody asks for a rank by the lower half as well. Each part of a plane can be counted by itself.
 */

/** Samples in order, as far as they are there. */
export interface Ordered {
  readonly length: number;
  readonly sum: number;
  /** The sample before which `rank` others stand. */
  at(rank: number): number;
  /** Between which two it lies, as far as that is known without looking closer. */
  about(rank: number): readonly [number, number];
  /** How many are below `v`; with `andAt`, how many are not above it. */
  below(v: number, andAt?: boolean): number;
}

const HALF = 65536;
/** From so many samples of one upper half on, counts of the lower ones take less room than the samples. */
const CROWDED = HALF * 2;
/** Up to so many of one upper half are looked at one by one. */
const SPARSE = 4096;
/** Up to so many are sorted as they are; counting takes as long for one as for many. */
export const FEW = 16384;
/** Whoever asks for more upper halves than so many will ask for all. */
const ONE_BY_ONE = 24;
/** What lies so near to the end of an upper half may lie in the next as well. */
const NEAR_END = HALF / 16;

/** Which samples of an interleaved array: every `step`-th from `first` on, those from `from` to `to`, counted in pixels. */
export interface Stride {
  readonly first: number;
  readonly step: number;
  readonly from: number;
  readonly to: number;
}

/** A part of a plane, counted: plain data in shared memory, so that one worker can make it and another use it. */
export interface CountedPart {
  /** Whole numbers below 65536, or floats. */
  readonly kind: 'whole' | 'float';
  readonly sum: number;
  /** How many samples have each upper half of their bits; of whole numbers, all of them. */
  readonly upper: Uint32Array;
}
/** The lower halves that go with one upper half: one by one, or, where they are many, how often there is each. */
export type Lower = Uint16Array | Uint32Array;
/** Those of a part, by their upper halves, as far as they were asked for; in shared memory as well. */
export type LowerHalves = ReadonlyMap<number, Lower>;

const isNumber = (raw: number): boolean => (raw & 0x7fffffff) <= 0x7f800000;
const bitsOf = (samples: Float32Array): Int32Array =>
  new Int32Array(samples.buffer, samples.byteOffset, samples.length);
/** Upper halves of the bits of a float (IEEE 754) that hold what is no number, and infinity. */
const [ENDLESS, NEGATIVE] = [0x7f80, 0x8000];

const UNASKED = -1;

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

/** Counts whole numbers below 65536. */
export function countWholes(samples: Uint8Array | Uint16Array, stride: Stride): CountedPart {
  const { first, step, from, to } = stride;
  const upper = new Uint32Array(new SharedArrayBuffer(HALF * 4));
  for (let i = from, at = first + from * step; i < to; i++, at += step) upper[samples[at]]++;
  let sum = 0;
  for (let value = 0; value < HALF; value++) sum += value * upper[value];
  return { kind: 'whole', sum, upper };
}

/** Long ways are gone in runs of a function that the machine knows: one long loop stays with what it was first translated to. */
const RUN = 65536;
function* runs(from: number, to: number, step: number): Generator<readonly [number, number]> {
  for (let at = from; at < to; at += RUN * step) yield [at, Math.min(to, at + RUN * step)];
}

/** @returns the sum of its numbers */
function countRun(
  samples: Float32Array,
  raws: Int32Array,
  upper: Uint32Array,
  from: number,
  to: number,
  step: number
): number {
  let sum = 0;
  for (let at = from; at < to; at += step) {
    upper[raws[at] >>> 16]++;
    const v = samples[at];
    if (v === v) sum += v;
  }
  return sum;
}

/** Puts the lower halves of those that are asked for where `next` has a place, or counts them in `crowds`. */
function gatherRun(
  raws: Int32Array,
  next: Int32Array,
  lower: Uint16Array,
  crowds: readonly Uint32Array[],
  from: number,
  to: number,
  step: number
): void {
  for (let at = from; at < to; at += step) {
    const raw = raws[at];
    const place = next[raw >>> 16];
    if (place === UNASKED || !isNumber(raw)) continue;
    if (place >= 0) {
      lower[place] = raw & 0xffff;
      next[raw >>> 16] = place + 1;
    } else crowds[-2 - place][raw & 0xffff]++;
  }
}

/** Counts floats by their upper halves; those that are no number take no part. */
export function countFloats(samples: Float32Array, { first, step, from, to }: Stride): CountedPart {
  const raws = bitsOf(samples);
  const upper = new Uint32Array(new SharedArrayBuffer(HALF * 4));
  const end = first + to * step;
  let sum = 0;
  for (const [begin, until] of runs(first + from * step, end, step))
    sum += countRun(samples, raws, upper, begin, until, step);
  let odd = false;
  for (let half = 0; half < HALF; half++) {
    if ((half & ENDLESS) !== ENDLESS || upper[half] === 0) continue;
    odd = true;
    upper[half] = 0;
  }
  // Among those are what is endless and what is no number.
  if (odd)
    for (let at = first + from * step; at < end; at += step)
      if ((raws[at] & 0x7fffffff) === 0x7f800000) upper[raws[at] >>> 16]++;
  return { kind: 'float', sum, upper };
}

/** The lower halves of some upper ones of a part that was counted. */
export function lowerHalves(
  samples: Float32Array,
  { first, step, from, to }: Stride,
  { upper }: CountedPart,
  halves: readonly number[]
): LowerHalves {
  const raws = bitsOf(samples);
  const singles = halves.filter((half) => upper[half] <= CROWDED);
  const lower = new Uint16Array(
    new SharedArrayBuffer(2 * singles.reduce((sum, half) => sum + upper[half], 0))
  );
  const found = new Map<number, Lower>();
  /** Where the next lower half of an upper one goes in `lower`; −2 − n where it is counted, in the nth of `crowds`. */
  const next = new Int32Array(HALF).fill(UNASKED);
  const crowds: Uint32Array[] = [];
  let place = 0;
  for (const half of halves) {
    if (upper[half] > CROWDED) {
      next[half] = -2 - crowds.length;
      const counts = new Uint32Array(new SharedArrayBuffer(HALF * 4));
      crowds.push(counts);
      found.set(half, counts);
    } else {
      next[half] = place;
      found.set(half, lower.subarray(place, place + upper[half]));
      place += upper[half];
    }
  }
  for (const [begin, until] of runs(first + from * step, first + to * step, step))
    gatherRun(raws, next, lower, crowds, begin, until, step);
  return found;
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
interface Inside {
  at(rank: number): number;
  below(low: number): number;
}

/** Few of them as a list; `half` as it stands in the bits. */
function listed(lists: readonly Uint16Array[], half: number, length: number): Inside {
  const list = new Uint16Array(length);
  let n = 0;
  for (const one of lists) {
    list.set(one, n);
    n += one.length;
  }
  if (half & NEGATIVE) for (let i = 0; i < length; i++) list[i] = ~list[i];
  return inOrder(list.sort());
}

/** Many of them counted. */
function counted(lowers: readonly Lower[], half: number): Inside {
  const counts = new Uint32Array(HALF);
  for (const lower of lowers) {
    if (lower instanceof Uint16Array) for (let i = 0; i < lower.length; i++) counts[lower[i]]++;
    else for (let i = 0; i < HALF; i++) counts[i] += lower[i];
  }
  const sums = before(half & NEGATIVE ? counts.reverse() : counts);
  return { at: (rank) => placeIn(sums, rank), below: (low) => sums[low] };
}

const isListed = (lower: Lower): lower is Uint16Array => lower instanceof Uint16Array;

/** What parts hold together. @param inside the lower halves of an upper one, as it stands in the bits, that so many samples have */
function together(parts: readonly CountedPart[], inside: (half: number, count: number) => Inside): Ordered {
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
      about: (rank) => [placeIn(sums, rank), placeIn(sums, rank)],
      below: (v, andAt = false) => sums[within(andAt ? Math.floor(v) + 1 : Math.ceil(v))]
    };
  }
  return {
    ...common,
    at(rank) {
      const half = placeIn(sums, rank);
      return floatAt(half * HALF + inside(placed(half), upper[half]).at(rank - sums[half]));
    },
    about(rank) {
      const half = placeIn(sums, rank);
      return [floatAt(half * HALF), floatAt(half * HALF + HALF - 1)];
    },
    below(v, andAt = false) {
      const place = placeFrom(v, andAt);
      const half = place >>> 16;
      if (!(upper[half] > 0)) return sums[half];
      return sums[half] + inside(placed(half), upper[half]).below(place & 0xffff);
    }
  };
}

/** The samples of several parts, together. @param lowersOf what of each part goes with an upper half */
export function ordered(
  parts: readonly CountedPart[],
  lowersOf: (half: number) => readonly Lower[]
): Ordered {
  const known = new Map<number, Inside>();
  return together(parts, (half, count) => {
    const found = known.get(half);
    if (found) return found;
    const lowers = lowersOf(half);
    const made =
      count <= SPARSE && lowers.every(isListed) ? listed(lowers, half, count) : counted(lowers, half);
    known.set(half, made);
    return made;
  });
}

/**
 * The upper halves whose lower ones are looked at by what somebody asks of parts, told from the counts alone as if samples were spread
 * evenly within each: most likely all, but not for certain.
 */
export function askedOf(parts: readonly CountedPart[], ask: (samples: Ordered) => unknown): number[] {
  const asked = new Set<number>();
  const counts = (half: number): boolean => parts.some(({ upper }) => upper[half] > 0);
  const noted = (half: number, low: number): void => {
    asked.add(half);
    // Where it is at the end of one, it may come out in the next.
    const up = half & NEGATIVE ? -1 : 1;
    if (low < NEAR_END && counts(half - up)) asked.add(half - up);
    if (low >= HALF - NEAR_END && counts(half + up)) asked.add(half + up);
  };
  ask(
    together(parts, (half, count) => ({
      at(rank) {
        const low = Math.min(HALF - 1, Math.floor(((rank + 0.5) / count) * HALF));
        noted(half, low);
        return low;
      },
      below(low) {
        noted(half, low);
        return Math.round((low / HALF) * count);
      }
    }))
  );
  return [...asked];
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
    about: (rank) => [sorted[rank], sorted[rank]],
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
  if (n > FEW) {
    const stride = { first: 0, step: 1, from: 0, to: n };
    const part = countFloats(plane, stride);
    let asked = 0;
    let all: LowerHalves | null = null;
    return ordered([part], (half) => {
      if (++asked <= ONE_BY_ONE) return [...lowerHalves(plane, stride, part, [half]).values()];
      all ??= lowerHalves(plane, stride, part, [...part.upper.keys()]);
      return [all.get(half)!];
    });
  }
  return inOrder(
    plane
      .subarray(0, n)
      .filter((v) => v === v)
      .sort()
  );
}
