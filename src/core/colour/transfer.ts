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
 * A table of `f` over the floats from 2^`from` to 2^`to`, 512 segments an octave, indexed by the upper bits
 * of the float itself, so that the relative error is the same in every octave.
 */
function octaveTable(f: (x: number) => number, from: number, to: number): Float64Array {
  const length = ((to - from) << SEGMENT_BITS) + 1;
  const scratch = new Int32Array(1);
  const asFloat = new Float32Array(scratch.buffer);
  return Float64Array.from({ length }, (_, i) => {
    scratch[0] = ((127 + from) << 23) + (i << SHIFT);
    return f(asFloat[0]);
  });
}

const ENCODE_FROM = -9;
const ENCODE_TO = 4;
const ENCODE_BASE = (127 + ENCODE_FROM) << 23;
const encodeTable = octaveTable(exactEncode, ENCODE_FROM, ENCODE_TO);

/** Linear light → coded value, from the table (formula from 16 upwards). */
export function encode(linear: number): number {
  const v = linear < 0 ? -linear : linear;
  if (v <= 0.0031308) return linear * 12.92;
  if (!(v < 16)) return exactEncode(linear);
  view[0] = v;
  const at = bits[0] - ENCODE_BASE;
  const i = at >> SHIFT;
  const low = encodeTable[i];
  const coded = low + (encodeTable[i + 1] - low) * ((at & MASK) * FRACTION);
  return linear < 0 ? -coded : coded;
}

const ROOT_FROM = -7;
const ROOT_TO = 4;
const ROOT_BASE = (127 + ROOT_FROM) << 23;
const rootTable = octaveTable(Math.cbrt, ROOT_FROM, ROOT_TO);

/** Cube root of t ≥ 2^−7, from a table with a relative error below 2e-7 (formula from 16 upwards). */
export function cubeRoot(t: number): number {
  if (!(t < 16)) return Math.cbrt(t);
  view[0] = t;
  const at = bits[0] - ROOT_BASE;
  const i = at >> SHIFT;
  const low = rootTable[i];
  return low + (rootTable[i + 1] - low) * ((at & MASK) * FRACTION);
}
