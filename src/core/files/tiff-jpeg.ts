import { joined } from './deflate';
import { damaged } from './image';
import { decodeJpeg } from './jpeg';

/** TIFF's number for JPEG (Technical Note 2). */
export const JPEG = 7;
/** TIFF's number for YCbCr, which comes out of a JPEG as RGB. */
export const YCC = 6;

/** What says whether three channels went through YCbCr: Adobe's segment. Without it decoders guess. */
const adobe = (transform: 0 | 1): Uint8Array =>
  Uint8Array.of(
    0xff,
    0xee,
    0,
    14,
    ...[...'Adobe'].map((c) => c.charCodeAt(0)),
    0,
    100,
    0,
    0,
    0,
    0,
    transform
  );
const START = Uint8Array.of(0xff, 0xd8);

/** A stream without its start and, where it has one, its end. */
function inside(stream: Uint8Array): Uint8Array {
  if (stream[0] !== 0xff || stream[1] !== 0xd8) throw damaged('a part of it is no JPEG');
  const ends = stream.at(-2) === 0xff && stream.at(-1) === 0xd9;
  return stream.subarray(2, ends ? -2 : undefined);
}

interface Part {
  readonly width: number;
  /** Rows that are wanted; a tile may hold more. */
  readonly rows: number;
  readonly channels: number;
  readonly photometric: number;
}

/**
 * The samples of a strip or tile that is a JPEG.
 * @param tables what all of them have in common; null where there is none @throws FileError
 */
export async function readJpegPart(
  part: Uint8Array,
  tables: Uint8Array | null,
  { width, rows, channels, photometric }: Part
): Promise<Uint8Array> {
  if (part[0] !== 0xff || part[1] !== 0xd8) throw damaged('a part of it is no JPEG');
  const whole = joined([
    START,
    ...(tables ? [inside(tables)] : []),
    adobe(photometric === YCC ? 1 : 0),
    part.subarray(2)
  ]);
  const found = await decodeJpeg(whole);
  if (found.width !== width || found.height < rows || found.channels !== channels)
    throw damaged(
      `a part of it is ${found.width}×${found.height} pixels of ${found.channels} channels where ${width}×${rows} of ${channels} belong`
    );
  const samples = found.samples.subarray(0, width * rows * channels);
  // Four channels are taken to be stored turned over, as they are in files of their own.
  return channels === 4 ? samples.map((v) => 255 - v) : samples;
}
