import { damaged } from './image';
import { partOf } from './wasm';

const decoders = partOf('reads the inks of JPEG files', () => import('geotiff'));

/** How often a component is sampled across and down, against the others (T.81, A.1.1). */
export interface Sampling {
  readonly h: number;
  readonly v: number;
}

/** TIFF's number for JPEG, by which the decoder is known. */
const JPEG_IN_TIFF = 7;

/**
 * The inks of a four-channel JPEG, interleaved, 0 no ink to 255 full ink. They are stored turned over, as everyone does,
 * with Adobe's marker or without; its transform 2 (Technical Note 5116) says that the first three went through YCbCr.
 * @param transform of Adobe's marker; null where there is none
 * @throws FileError
 */
export async function readInks(
  bytes: Uint8Array,
  width: number,
  height: number,
  samplings: readonly Sampling[],
  transform: number | null
): Promise<Uint8Array> {
  const inks = await decode(bytes, width * height * 4);
  for (let c = 0; c < 4; c++) spread(inks, width, height, c, samplings);
  if (transform === 2) fromYcc(inks);
  for (let i = 0; i < inks.length; i++) inks[i] = 255 - inks[i];
  return inks;
}

/** Each component as stored; one that is sampled less often repeats its samples. */
async function decode(bytes: Uint8Array, length: number): Promise<Uint8Array> {
  const { getDecoder } = await decoders();
  try {
    const decoder = (await getDecoder(JPEG_IN_TIFF, {} as never)) as unknown as {
      decodeBlock(buffer: ArrayBuffer): ArrayBuffer;
    };
    const decoded = new Uint8Array(decoder.decodeBlock(new Uint8Array(bytes).buffer));
    if (decoded.length === length) return decoded;
  } catch {
    // Told below: the decoder's own words are not for a person.
  }
  throw damaged('its compressed data makes no sense');
}

/** The first of a pair lies a quarter of a sample before the middle, the second as far behind it: weights 3 and 1. */
const NEAR = 3;

/**
 * Fills in what lies between the samples of a component that has half as many across or down: each is three parts of the
 * nearest and one of the next, as the Independent JPEG Group's decoder does it ("fancy upsampling").
 */
function spread(
  inks: Uint8Array,
  width: number,
  height: number,
  c: number,
  samplings: readonly Sampling[]
): void {
  const across = Math.max(...samplings.map((s) => s.h)) / samplings[c].h;
  const down = Math.max(...samplings.map((s) => s.v)) / samplings[c].v;
  const halfAcross = across === 2 && Math.ceil(width / 2) > 2;
  const halfDown = down === 2;
  if (!halfAcross && !halfDown) return;
  const columns = halfAcross ? Math.ceil(width / 2) : width;
  const rows = halfDown ? Math.ceil(height / 2) : height;
  const stepX = halfAcross ? 2 : 1;
  const stepY = halfDown ? 2 : 1;
  const stored = new Uint8Array(columns * rows);
  for (let y = 0, i = 0; y < rows; y++) {
    for (let x = 0; x < columns; x++) stored[i++] = inks[(y * stepY * width + x * stepX) * 4 + c];
  }
  const column = new Uint16Array(columns);
  const unit = (halfAcross ? 4 : 1) * (halfDown ? 4 : 1);
  for (let y = 0; y < height; y++) {
    const row = Math.floor(y / stepY);
    const beside = Math.min(rows - 1, Math.max(0, row + (y % 2 === 0 ? -1 : 1)));
    for (let x = 0; x < columns; x++) {
      const here = stored[row * columns + x];
      column[x] = halfDown ? NEAR * here + stored[beside * columns + x] : here;
    }
    for (let x = 0; x < width; x++) {
      const at = Math.floor(x / stepX);
      const next = Math.min(columns - 1, Math.max(0, at + (x % 2 === 0 ? -1 : 1)));
      const sum = halfAcross ? NEAR * column[at] + column[next] : column[at];
      // The halves are rounded up and down in turn, so that the mean stays.
      const odd = halfAcross ? x % 2 === 1 : y % 2 === 1;
      const half = unit / 2 - (halfAcross && halfDown ? Number(odd) : Number(!odd));
      inks[(y * width + x) * 4 + c] = (sum + half) / unit;
    }
  }
}

/** YCbCr of BT.601 at full range to the turned-over inks: C = 255 − R, and likewise M and Y. */
function fromYcc(inks: Uint8Array): void {
  const clamp = (v: number): number => Math.min(255, Math.max(0, Math.round(v)));
  for (let i = 0; i < inks.length; i += 4) {
    const y = inks[i];
    const cb = inks[i + 1] - 128;
    const cr = inks[i + 2] - 128;
    inks[i] = 255 - clamp(y + 1.402 * cr);
    inks[i + 1] = 255 - clamp(y - 0.344136286 * cb - 0.714136286 * cr);
    inks[i + 2] = 255 - clamp(y + 1.772 * cb);
  }
}
