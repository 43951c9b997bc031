import { damaged } from '../image';

/** Of Rice's code (Rice, Yeh and Miller 1993) as FITS has it (section 10.4.1), by the bytes of a sample. */
const CODES: Record<number, { readonly bits: number; readonly most: number }> = {
  1: { bits: 3, most: 6 },
  2: { bits: 4, most: 14 },
  4: { bits: 5, most: 25 }
};

/**
 * Unpacks one tile of differences.
 * @param bytesEach 1, 2 or 4, and how many samples a block has
 * @returns integers with signs; those of one byte without
 * @throws FileError where the code ends too early
 */
export function unpackRice(packed: Uint8Array, count: number, bytesEach: number, block: number): Int32Array {
  const code = CODES[bytesEach];
  if (!code) throw damaged(`its Rice code has samples of ${bytesEach} bytes`);
  const sampleBits = 8 * bytesEach;
  const out = new Int32Array(count);
  let at = 0;
  let held = 0;
  let left = 0;
  const bit = (): number => {
    if (left === 0) {
      if (at >= packed.length) throw damaged('one of its tiles ends too early');
      held = packed[at++];
      left = 8;
    }
    left--;
    return (held >> left) & 1;
  };
  const bits = (wanted: number): number => {
    let value = 0;
    for (let need = wanted; need > 0;) {
      if (left === 0) {
        if (at >= packed.length) throw damaged('one of its tiles ends too early');
        held = packed[at++];
        left = 8;
      }
      const take = Math.min(left, need);
      left -= take;
      need -= take;
      value = (value << take) | ((held >> left) & ((1 << take) - 1));
    }
    return value;
  };
  const sign = 32 - sampleBits;
  const wrapped = (v: number): number => (bytesEach === 1 ? v & 0xff : (v << sign) >> sign);
  let last = wrapped(bits(sampleBits));
  for (let from = 0; from < count; from += block) {
    const end = Math.min(count, from + block);
    const split = bits(code.bits) - 1;
    for (let i = from; i < end; i++) {
      let mapped = 0;
      if (split === code.most) mapped = bits(sampleBits) >>> 0;
      else if (split >= 0) {
        let zeros = 0;
        while (bit() === 0) zeros++;
        mapped = ((zeros << split) | bits(split)) >>> 0;
      }
      const difference = mapped & 1 ? ~(mapped >>> 1) : mapped >>> 1;
      last = wrapped((last + difference) | 0);
      out[i] = last;
    }
  }
  return out;
}
