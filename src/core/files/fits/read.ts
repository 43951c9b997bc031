import { sharedSamples, type Samples } from '../../raster/frame';
import { checkSize, damaged, FileError, truncated, type DecodedImage, type ReadChoices } from '../image';
import { rangeFor, scalingOf, storedOf, type Scaling } from './samples';
import { gzipSource, plainSource, type ByteSource } from './source';
import { tilesOf } from './tiles';
import { depthOf, imagesOf, type ImageUnit } from './units';

/** FITS Standard 4.0 (2018), read: images of every depth, in extensions, tile-compressed and in a gzip. */

const isGzip = (bytes: Uint8Array): boolean => bytes[0] === 0x1f && bytes[1] === 0x8b;
const SIGNATURE = 'SIMPLE  =';

export const isFits = (bytes: Uint8Array): boolean =>
  isGzip(bytes) || [...SIGNATURE].every((letter, i) => bytes[i] === letter.charCodeAt(0));

/** @throws FileError */
export async function readFits(bytes: Uint8Array, choices: ReadChoices = {}): Promise<DecodedImage> {
  if (!isGzip(bytes)) return readFrom(plainSource(bytes), choices);
  const source = gzipSource(bytes);
  const head = await source.upTo(SIGNATURE.length);
  if (!isFits(head) || isGzip(head)) {
    throw new FileError('The file is a gzip that holds no FITS picture. Unpack it, and open what it holds.');
  }
  return readFrom(source, choices);
}

function chosenUnit(images: readonly ImageUnit[], { hdu }: ReadChoices): ImageUnit {
  if (images.length === 0) throw new FileError('The file is a FITS without a picture in it.');
  const chosen = hdu === undefined ? images[0] : images.find(({ index }) => index === hdu);
  if (!chosen) throw new FileError(`The file has no picture in its part ${hdu! + 1}. Choose another part.`);
  return chosen;
}

/** The planes that make the picture, counted from 0: three as red, green and blue, else one. */
function chosenPlanes({ planes }: ImageUnit, { plane }: ReadChoices): readonly number[] {
  if (plane === undefined) return planes === 3 ? [0, 1, 2] : [0];
  if (plane > planes)
    throw new FileError(`The picture has ${planes} planes, and no plane ${plane}. Choose another one.`);
  return [plane - 1];
}

async function readFrom(source: ByteSource, choices: ReadChoices): Promise<DecodedImage> {
  const images = await imagesOf(source);
  const unit = chosenUnit(images, choices);
  const { width, height, header, planes } = unit;
  checkSize(width, height);
  if (planes < 1) throw damaged('one of its axes is empty');
  const chosen = chosenPlanes(unit, choices);
  const bits = depthOf(header, unit.packed ? 'ZBITPIX' : 'BITPIX');
  const blank = header.value('BLANK');
  const scaling = scalingOf(
    bits,
    header.number('BSCALE', 1),
    header.number('BZERO', 0),
    typeof blank === 'number' ? blank : null
  );
  const bytes = (await source.upTo(unit.at + unit.bytes)).subarray(unit.at, unit.at + unit.bytes);
  if (bytes.length < unit.bytes) throw truncated();
  const values = { unit, chosen, bits, scaling, bytes, upward: isUpward(unit) };
  const { samples, range } = samplesOf(values, choices.range);
  const notices = [
    ...(images.length > 1
      ? [`The file has ${images.length} pictures; “${unit.name}” is shown. Source has the others.`]
      : []),
    ...(planes > 1 && chosen.length === 1 && choices.plane === undefined
      ? [`The picture has ${planes} planes; the first is shown. Source has the others.`]
      : [])
  ];
  return {
    ...{ width, height, samples, notices },
    layout: chosen.length === 3 ? 'rgb' : 'grey',
    alpha: false,
    sampleType: samples instanceof Float32Array ? 'f32' : samples instanceof Uint16Array ? 'u16' : 'u8',
    encoding: 'linear',
    profile: null,
    orientation: 1,
    fits: {
      ...{ range, planes },
      cards: header.texts,
      hdu: unit.index,
      plane: chosen.length === 1 && planes > 1 ? chosen[0] + 1 : null,
      parts: images.map((one) => ({ hdu: one.index, name: one.name, width: one.width, height: one.height }))
    }
  };
}

/** The first row stands at the bottom, but where the file says otherwise. */
const isUpward = ({ header }: ImageUnit): boolean =>
  header.text('ROWORDER')?.trim().toUpperCase() !== 'TOP-DOWN';

interface Values {
  readonly unit: ImageUnit;
  readonly chosen: readonly number[];
  readonly bits: number;
  readonly scaling: Scaling;
  readonly bytes: Uint8Array;
  readonly upward: boolean;
}

interface Row {
  readonly channel: number;
  readonly x: number;
  /** As it stands in the picture, from the top. */
  readonly y: number;
  /** Stored numbers; those that are missing are none. */
  readonly values: Float64Array;
}

/** The rows of the chosen planes, or parts of rows, in any order; each is valid until the next is asked for. */
function* rowsOf({ unit, chosen, bits, scaling: { blank }, bytes, upward }: Values): Generator<Row> {
  const { width, height } = unit;
  const place = (y: number): number => (upward ? height - 1 - y : y);
  if (unit.packed) {
    const wanted = (plane: number): boolean => chosen.includes(plane);
    for (const tile of tilesOf(unit, bytes, wanted))
      for (let y = 0; y < tile.height; y++)
        yield {
          channel: chosen.indexOf(tile.plane),
          x: tile.x,
          y: place(tile.y + y),
          values: tile.values.subarray(y * tile.width, (y + 1) * tile.width)
        };
    return;
  }
  const each = Math.abs(bits) / 8;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const read = storedOf[bits];
  const values = new Float64Array(width);
  for (let channel = 0; channel < chosen.length; channel++) {
    for (let y = 0; y < height; y++) {
      let at = (chosen[channel] * height + y) * width * each;
      for (let x = 0; x < width; x++, at += each) {
        const v = read(view, at);
        values[x] = v === blank ? Number.NaN : v;
      }
      yield { channel, x: 0, y: place(y), values };
    }
  }
}

/** @param wanted the range that was chosen */
function samplesOf(values: Values, wanted: number | undefined): { samples: Samples; range: number } {
  const { unit, chosen, bits, scaling } = values;
  const { scale, zero, natural } = scaling;
  const channels = chosen.length;
  const count = unit.width * unit.height * channels;
  const isInteger = (natural === 255 && bits === 8) || (natural === 65535 && bits === 16);
  if (isInteger && (wanted === undefined || wanted === natural) && scaling.blank === null && !unit.packed) {
    const samples = sharedSamples(bits === 8 ? 'u8' : 'u16', count);
    for (const row of rowsOf(values)) lay(row, samples, unit.width, channels, 1, zero);
    return { samples, range: natural };
  }
  const samples = sharedSamples('f32', count) as Float32Array;
  const known = wanted ?? natural;
  if (known !== null) {
    // In one division, so that it is rounded once.
    for (const row of rowsOf(values)) lay(row, samples, unit.width, channels, scale, zero, known);
    return { samples, range: known };
  }
  for (const row of rowsOf(values)) lay(row, samples, unit.width, channels, scale, zero);
  let [smallest, largest] = [Infinity, -Infinity];
  for (const v of samples) {
    if (!Number.isFinite(v)) continue;
    if (v < smallest) smallest = v;
    if (v > largest) largest = v;
  }
  const range = smallest > largest ? 1 : rangeFor(smallest, largest);
  if (range !== 1) for (let i = 0; i < count; i++) samples[i] /= range;
  return { samples, range };
}

function lay(
  { channel, x, y, values }: Row,
  samples: Samples,
  width: number,
  channels: number,
  scale: number,
  zero: number,
  range = 1
): void {
  let to = (y * width + x) * channels + channel;
  for (let i = 0; i < values.length; i++, to += channels) samples[to] = (values[i] * scale + zero) / range;
}
