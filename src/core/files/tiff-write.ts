import { finishedChannels, type FinishedImage } from './image';
import { greyProfile, srgbProfile } from './srgb-profile';

const SHORT = 3;
const LONG = 4;
const UNDEFINED = 7;

/**
 * Baseline TIFF 6.0 in one strip, uncompressed, little endian: 8 or 16-bit integers or 32-bit floats by the
 * samples' type, with their profile; one plane of greys with that of their curve.
 * @throws RangeError for more than 4 GB
 */
export function writeTiff({
  width,
  height,
  alpha,
  grey,
  encoding = 'coded',
  profile = grey ? greyProfile(encoding) : srgbProfile(encoding),
  samples
}: FinishedImage): Uint8Array {
  const channels = finishedChannels({ alpha, grey });
  const bits = samples.BYTES_PER_ELEMENT * 8;
  const float = samples instanceof Float32Array;
  const fields: [tag: number, type: number, values: readonly number[] | Uint8Array][] = [
    [256, LONG, [width]],
    [257, LONG, [height]],
    [258, SHORT, Array<number>(channels).fill(bits)],
    [259, SHORT, [1]],
    [262, SHORT, [grey ? 1 : 2]],
    [273, LONG, [0]],
    [274, SHORT, [1]],
    [277, SHORT, [channels]],
    [278, LONG, [height]],
    [279, LONG, [samples.byteLength]],
    [284, SHORT, [1]],
    ...(alpha && !grey ? [[338, SHORT, [2]] as [number, number, number[]]] : []),
    [339, SHORT, Array<number>(channels).fill(float ? 3 : 1)],
    [34675, UNDEFINED, profile]
  ];
  const BYTES = { [SHORT]: 2, [LONG]: 4, [UNDEFINED]: 1 };
  const sizeOf = (type: number, values: { length: number }): number => BYTES[type as 3] * values.length;
  const directory = 8;
  let extra = directory + 2 + 12 * fields.length + 4;
  const outside = fields.reduce(
    (sum, [, type, values]) => sum + (sizeOf(type, values) > 4 ? sizeOf(type, values) + 1 : 0),
    0
  );
  const strip = Math.ceil((extra + outside) / 16) * 16;
  if (strip + samples.byteLength > 2 ** 32 - 1) throw new RangeError('A TIFF holds at most 4 GB.');
  const out = new Uint8Array(strip + samples.byteLength);
  const view = new DataView(out.buffer);
  out.set([0x49, 0x49, 42, 0]);
  view.setUint32(4, directory, true);
  view.setUint16(directory, fields.length, true);
  fields.forEach(([tag, type, values], i) => {
    const at = directory + 2 + 12 * i;
    view.setUint16(at, tag, true);
    view.setUint16(at + 2, type, true);
    view.setUint32(at + 4, values.length, true);
    let to = at + 8;
    if (sizeOf(type, values) > 4) {
      view.setUint32(to, extra, true);
      to = extra;
      extra += sizeOf(type, values) + (sizeOf(type, values) & 1);
    }
    (tag === 273 ? [strip] : values).forEach((v: number, k: number) => {
      if (type === SHORT) view.setUint16(to + 2 * k, v, true);
      else if (type === LONG) view.setUint32(to + 4 * k, v, true);
      else view.setUint8(to + k, v);
    });
  });
  out.set(new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength), strip);
  return out;
}
