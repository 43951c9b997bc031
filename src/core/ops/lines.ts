import { z } from 'zod';
import { fillChannel } from '../colour';
import type { Seen } from '../measure/seen';
import { skyOf } from '../measure/sky';
import { defineOp, type Solving } from './op';

const MOST_LINES = 10_000;

const params = z.strictObject({
  direction: z.enum(['rows', 'columns']).default('rows'),
  /** Numbers of the lines that are levelled, from 0; all where none are named. */
  only: z
    .array(
      z
        .int('must be a whole number')
        .min(0, 'must be at least 0')
        .max(2 ** 18, 'is no line')
    )
    .max(MOST_LINES, `takes at most ${MOST_LINES} lines`)
    .nullable()
    .default(null)
});
export type LinesParams = z.infer<typeof params>;

/** A line is compared with so many on either side of it. */
const BESIDE = 15;
/** What is slower than so many lines on either side is no pattern of lines. */
const SLOW = 100;
/** Lines that are looked at together. */
const BAND = 96;

/** What is taken off each line, a channel of On after the other. */
type Offsets = readonly Float32Array[];

interface LinesCoefficients {
  readonly rows: boolean;
  readonly offsets: Offsets;
}

/**
 * How far the sky of each line of a band is from that of its neighbours: at each place along it, the difference to the mean of the
 * same place on them; of these the level without stars. Objects that reach over many lines are in both, and so in neither.
 * @param first the first line of the band that is asked for, and how many
 */
function offsetsOf(
  plane: Float32Array,
  length: number,
  lines: number,
  first: number,
  count: number,
  out: Float32Array
): void {
  const sums = new Float64Array(length);
  const counts = new Uint16Array(length);
  const add = (line: number, sign: 1 | -1): void => {
    if (line < 0 || line >= lines) return;
    for (let i = 0; i < length; i++) {
      const v = plane[line * length + i];
      if (v !== v) continue;
      sums[i] += sign * v;
      counts[i] += sign;
    }
  };
  for (let line = first - BESIDE; line < first + BESIDE; line++) add(line, 1);
  const differences = new Float32Array(length);
  for (let line = first; line < first + count; line++) {
    add(line + BESIDE, 1);
    for (let i = 0; i < length; i++) {
      const v = plane[line * length + i];
      // The line itself is among the sums.
      differences[i] = counts[i] > 1 ? v - (sums[i] - v) / (counts[i] - 1) : Number.NaN;
    }
    out[line - first] = skyOf(differences).level;
    add(line - BESIDE, -1);
  }
}

/** Offsets less their own running mean: what all lines have alike is not the lines'. */
function withoutSlow(offsets: Float32Array): Float32Array {
  const sums = new Float64Array(offsets.length + 1);
  for (let i = 0; i < offsets.length; i++) sums[i + 1] = sums[i] + offsets[i];
  return offsets.map((v, i) => {
    const [from, to] = [Math.max(0, i - SLOW), Math.min(offsets.length, i + SLOW + 1)];
    return v - (sums[to] - sums[from]) / (to - from);
  });
}

/** A plane with its columns as rows. */
function turned(plane: Float32Array, width: number, height: number): Float32Array {
  const out = new Float32Array(plane.length);
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) out[x * height + y] = plane[y * width + x];
  return out;
}

const same = (a: Float32Array, b: Float32Array): boolean => a.every((v, i) => v === b[i] || v !== v);

/** Levels lines of the sensor that are lighter or darker as a whole. */
export const lines = defineOp<LinesParams, LinesCoefficients, Offsets, Pick<LinesParams, 'direction'>>({
  id: 'lines',
  title: 'Level lines',
  purpose: 'Takes out the pattern of whole rows or columns that reading out a sensor leaves',
  words: ['banding', 'rows', 'columns', 'stripes', 'readout', 'pattern', 'sensor', 'astro'],
  params,
  kind: 'plane',
  ownModel: () => 'rgb',
  byPlace: true,
  sentence: ({ direction, only }) =>
    only
      ? `Level ${only.length} ${only.length === 1 ? direction.slice(0, -1) : direction} to ${only.length === 1 ? 'its' : 'their'} neighbours`
      : `Level all ${direction} to their neighbours`,
  needs: ({ direction }) => ({ direction }),
  *solve({ direction }, { channels, encoding, size, region }): Solving<Offsets> {
    const rows = direction === 'rows';
    const [length, all] = rows ? [size.width, size.height] : [size.height, size.width];
    const offsets = channels.map(() => new Float32Array(all));
    for (let from = 0; from < all; from += BAND) {
      const [begin, end] = [Math.max(0, from - BESIDE), Math.min(all, from + BAND + BESIDE)];
      const count = Math.min(BAND, all - from);
      const band = rows
        ? { x: 0, y: begin, width: length, height: end - begin }
        : { x: begin, y: 0, width: end - begin, height: length };
      const seen: Seen = region(band);
      let last: { plane: Float32Array; of: Float32Array } | null = null;
      channels.forEach(({ id }, c) => {
        const plane = new Float32Array(length * (end - begin));
        fillChannel(id, seen.planes, encoding, plane, plane.length);
        const into = offsets[c].subarray(from, from + count);
        // The channels of a grey picture are one.
        if (last && same(last.plane, plane)) into.set(last.of);
        else
          offsetsOf(
            rows ? plane : turned(plane, band.width, band.height),
            ...([length, end - begin, from - begin, count, into] as const)
          );
        last = { plane, of: into };
      });
      yield (from + count) / all;
    }
    return offsets.map(withoutSlow);
  },
  prepare({ direction, only }, _, solution) {
    const kept = only && new Set(only);
    const offsets = (solution ?? []).map((of) => (kept ? of.map((v, i) => (kept.has(i) ? v : 0)) : of));
    return { rows: direction === 'rows', offsets };
  },
  solved: ({ offsets }) => ({ offsets }),
  kernel({ planes, x, y, width, height, scale }, { rows, offsets }, out) {
    const [first, count] = rows ? [y, height] : [x, width];
    planes.forEach((plane, c) => {
      const levels = atScale(offsets[c], first, count, scale);
      const into = out[c];
      for (let row = 0, i = 0; row < height; row++)
        if (rows)
          for (const [end, level] = [i + width, levels[row]]; i < end; i++) into[i] = plane[i] - level;
        else for (let column = 0; column < width; column++, i++) into[i] = plane[i] - levels[column];
    });
  }
});

/** The means of what lies under the lines of a smaller level. */
function atScale(offsets: Float32Array, first: number, count: number, scale: number): Float32Array {
  const each = Math.round(1 / scale);
  return Float32Array.from({ length: count }, (_, i) => {
    const from = Math.min(offsets.length - 1, Math.max(0, (first + i) * each));
    const to = Math.min(offsets.length, Math.max(from + 1, (first + i + 1) * each));
    let sum = 0;
    for (let k = from; k < to; k++) sum += offsets[k];
    return sum / (to - from);
  });
}
