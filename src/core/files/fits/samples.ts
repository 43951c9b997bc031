import { damaged } from '../image';

/** Values as they are stored, before BSCALE and BZERO; 64-bit integers to the 53 bits of a double. */
export type Stored = (view: DataView, at: number) => number;

export const storedOf: Record<number, Stored> = {
  8: (view, at) => view.getUint8(at),
  16: (view, at) => view.getInt16(at),
  32: (view, at) => view.getInt32(at),
  64: (view, at) => view.getInt32(at) * 2 ** 32 + view.getUint32(at + 4),
  [-32]: (view, at) => view.getFloat32(at),
  [-64]: (view, at) => view.getFloat64(at)
};

/** How stored numbers become values, and values 0…1. */
export interface Scaling {
  readonly scale: number;
  readonly zero: number;
  /** The integer that says that a sample is missing. */
  readonly blank: number | null;
  /** What 1 stands for, where the type says so; null where the values must be looked at. */
  readonly natural: number | null;
}

/** By the usual offset an integer type is one without signs (section 4.4.2.5). */
export function scalingOf(bits: number, scale: number, zero: number, blank: number | null): Scaling {
  if (!Number.isFinite(scale) || !Number.isFinite(zero)) throw damaged('its BSCALE or BZERO is no number');
  const unsigned = bits === 8 ? zero === 0 : zero === 2 ** (bits - 1);
  const signed = bits === 8 ? zero === -128 : zero === 0;
  const natural =
    bits < 0 || scale !== 1 || !(unsigned || signed) ? null : unsigned ? 2 ** bits - 1 : 2 ** (bits - 1) - 1;
  return { scale, zero, blank: bits > 0 ? blank : null, natural };
}

/** Values within this are 0…1 already. */
const [LEAST, MOST] = [-0.5, 1.5];

/** What values of no natural range are divided by: the smallest usual white that holds them all, else the largest. */
export function rangeFor(smallest: number, largest: number): number {
  if (smallest >= LEAST && largest <= MOST) return 1;
  const most = Math.max(Math.abs(smallest), Math.abs(largest));
  return [255, 65535, 2 ** 32 - 1].find((white) => most <= white) ?? most;
}
