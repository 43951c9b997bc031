/**
 * The transfer of IEC 61966-2-1 (sRGB), extended to negative values by odd symmetry.
 * The `exact…` functions are the formulas. The kernels read them from tables with linear interpolation:
 * the error stays below 3e-7 of the value for encoding and below 4e-8 for decoding.
 */

/** Coded value → linear light. */
export function exactDecode(coded: number): number {
  const v = Math.abs(coded);
  const linear = v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4;
  return coded < 0 ? -linear : linear;
}

/** Linear light → coded value. */
export function exactEncode(linear: number): number {
  const v = Math.abs(linear);
  const coded = v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055;
  return linear < 0 ? -coded : coded;
}

const DECODE_STEPS = 4096;
const DECODE_END = 2;
const decodeTable = Float64Array.from({ length: DECODE_STEPS * DECODE_END + 2 }, (_, i) =>
  exactDecode(i / DECODE_STEPS)
);

/** Coded value → linear light, from the table (formula from 2 upwards). */
export function decode(coded: number): number {
  const v = coded < 0 ? -coded : coded;
  if (v <= 0.04045) return coded / 12.92;
  if (!(v < DECODE_END)) return exactDecode(coded);
  const at = v * DECODE_STEPS;
  const i = at | 0;
  const low = decodeTable[i];
  const linear = low + (decodeTable[i + 1] - low) * (at - i);
  return coded < 0 ? -linear : linear;
}

const view = new Float32Array(1);
const bits = new Int32Array(view.buffer);
const SEGMENT_BITS = 9;
const SHIFT = 23 - SEGMENT_BITS;
const MASK = (1 << SHIFT) - 1;
const FRACTION = 1 / (1 << SHIFT);

/**
 * `f` from a table over the floats from 2^`from` to 2^`to`, 512 segments an octave, indexed by the upper bits of the float itself, so that
 * the relative error is the same in every octave; by its formula outside of these and, by odd symmetry, below 0.
 */
export function octaveTable(f: (x: number) => number, from: number, to: number): (x: number) => number {
  const [least, most, base] = [2 ** from, 2 ** to, (127 + from) << 23];
  const scratch = new Int32Array(1);
  const asFloat = new Float32Array(scratch.buffer);
  // One more, which what rounds up to the end asks for.
  const table = Float64Array.from({ length: ((to - from) << SEGMENT_BITS) + 2 }, (_, i) => {
    scratch[0] = base + (i << SHIFT);
    return f(asFloat[0]);
  });
  return (x) => {
    const v = x < 0 ? -x : x;
    if (!(v >= least && v < most)) return f(x);
    view[0] = v;
    const at = bits[0] - base;
    const i = at >> SHIFT;
    const low = table[i];
    const y = low + (table[i + 1] - low) * ((at & MASK) * FRACTION);
    return x < 0 ? -y : y;
  };
}

const encodeFromTable = octaveTable(exactEncode, -9, 4);

/** Linear light → coded value, from the table (formula from 16 upwards). */
export const encode = (linear: number): number =>
  Math.abs(linear) <= 0.0031308 ? linear * 12.92 : encodeFromTable(linear);

/** Cube root of t, from 2^−7 on from a table with a relative error below 2e-7 (formula from 16 upwards). */
export const cubeRoot = octaveTable(Math.cbrt, -7, 4);
