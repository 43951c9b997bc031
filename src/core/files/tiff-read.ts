import { sharedSamples, type Layout, type Samples } from '../raster/frame';
import {
  checkSize,
  damaged,
  FileError,
  PROFILE_DAMAGED,
  truncated,
  type DecodedImage,
  type ReadChoices
} from './image';
import { readPages, type TiffDirectory } from './tiff-directory';
import { JPEG, readJpegPart, YCC } from './tiff-jpeg';
import {
  bytesOfRow,
  isPartial,
  nativeSamples,
  spread,
  storedSamples,
  type StoredSamples
} from './tiff-samples';
import { fewestPacked, unpacker } from './tiff-unpack';

/** Tags of TIFF 6.0. */
const TAG = {
  width: 256,
  height: 257,
  bits: 258,
  compression: 259,
  photometric: 262,
  stripOffsets: 273,
  orientation: 274,
  samples: 277,
  rowsPerStrip: 278,
  stripBytes: 279,
  planar: 284,
  pageName: 285,
  predictor: 317,
  colourMap: 320,
  tileWidth: 322,
  tileHeight: 323,
  tileOffsets: 324,
  tileBytes: 325,
  extra: 338,
  format: 339,
  jpegTables: 347,
  profile: 34675
};
const PALETTE = 3;
const LAYOUTS: Record<number, Layout> = { 0: 'grey', 1: 'grey', 2: 'rgb', [PALETTE]: 'grey', 5: 'cmyk' };
const COLOURS: Record<Layout, number> = { grey: 1, rgb: 3, cmyk: 4 };
const MOST_CHANNELS = 32;
const MOST_BLOCKS = 2 ** 20;
/** Tiles may hang over a small picture, but not by far. */
const LARGEST_TILE_BESIDE = 4096;
const MOST_PROFILE = 2 ** 24;
/** Rows are made samples of this many bytes at a time. */
const BAND = 2 ** 20;

interface Shape {
  width: number;
  height: number;
  /** Samples a pixel as stored, and how many of the first are kept. */
  stored: number;
  kept: number;
  samples: StoredSamples;
  planar: boolean;
}

/** A block as stored: a strip or a tile, of all channels or of one. */
interface Block {
  x: number;
  y: number;
  width: number;
  /** Rows of it that lie in the picture; what hangs over is not unpacked. */
  rows: number;
  /** The one channel it holds, or −1 for all interleaved. */
  channel: number;
  offset: number;
  length: number;
}

/** @throws FileError */
export async function readTiff(bytes: Uint8Array, { hdu = 0 }: ReadChoices = {}): Promise<DecodedImage> {
  const pages = readPages(bytes);
  const directory = pages[hdu];
  if (!directory) throw new FileError(`The file has no picture in its part ${hdu + 1}. Choose another part.`);
  const image = await readPage(bytes, directory);
  if (pages.length === 1) return image;
  const parts = pages.map((page, i) => ({
    hdu: i,
    name: nameOf(page) || `Picture ${i + 1}`,
    width: page.value(TAG.width) ?? 0,
    height: page.value(TAG.height) ?? 0
  }));
  const notice = `The file holds ${pages.length} pictures; this is number ${hdu + 1}. Source has the choice.`;
  return { ...image, pages: { hdu, parts }, notices: [...image.notices, notice] };
}

const LONGEST_NAME = 80;
/** What a page is called in the file. */
function nameOf(page: TiffDirectory): string {
  const bytes = page.values(TAG.pageName, LONGEST_NAME);
  const end = bytes.indexOf(0);
  return new TextDecoder().decode(Uint8Array.from(end < 0 ? bytes : bytes.slice(0, end))).trim();
}

async function readPage(bytes: Uint8Array, directory: TiffDirectory): Promise<DecodedImage> {
  const width = directory.first(TAG.width);
  const height = directory.first(TAG.height);
  checkSize(width, height);
  const photometric = directory.first(TAG.photometric, 1);
  const compression = directory.first(TAG.compression, 1);
  const layout = compression === JPEG && photometric === YCC ? 'rgb' : LAYOUTS[photometric];
  if (!layout) {
    throw new FileError(
      `Its colour space (TIFF number ${photometric}) can’t be read. Save it as grey, RGB or CMYK.`
    );
  }
  const shape = readShape(directory, width, height, COLOURS[layout]);
  if (compression === JPEG && shape.samples.depth !== 8)
    throw new FileError(
      'Its JPEG is of more than 8 bits, and can’t be read. Save it with ZIP or without compression.'
    );
  const alphaKind = shape.kept > COLOURS[layout] ? directory.value(TAG.extra) : 0;
  const cut = readCut(directory, shape);
  checkBlocks(directory, shape, cut, compression, bytes.length);
  const samples = sharedSamples(shape.samples.type, width * height * shape.kept);
  await (compression === JPEG
    ? fillFromJpegs(bytes, directory, shape, cut, photometric, samples)
    : fill(bytes, directory, shape, cut, unpacker(compression), samples));
  if (photometric === PALETTE) return fromPalette(directory, shape, samples);
  if (isPartial(shape.samples)) spread(samples, shape.samples);
  if (photometric === 0) turnOver(samples, shape.kept, COLOURS[layout]);
  if (alphaKind === 1) return dividedByAlpha(imageOf(directory, layout, shape, samples));
  return imageOf(directory, layout, shape, samples);
}

/** Strips and tiles, each unpacked in bands of rows. */
async function fill(
  bytes: Uint8Array,
  directory: TiffDirectory,
  shape: Shape,
  cut: Cut,
  unpack: ReturnType<typeof unpacker>,
  samples: Samples
): Promise<void> {
  const across = shape.planar ? 1 : shape.stored;
  const rowLength = cut.width * across;
  const rowBytes = bytesOfRow(shape.samples, rowLength);
  const band = Math.max(1, Math.floor(BAND / rowBytes)) * rowBytes;
  const native = nativeSamples(rowLength, across, shape.samples);
  for (const block of blocksOf(directory, shape, cut)) {
    const packed = bytes.subarray(block.offset, block.offset + block.length);
    let row = 0;
    for await (const raw of unpack(packed, rowBytes * block.rows, band)) {
      place(native(raw), block, row, across, shape, samples);
      row += raw.length / rowBytes;
    }
  }
}

/** Strips and tiles that are JPEGs. */
async function fillFromJpegs(
  bytes: Uint8Array,
  directory: TiffDirectory,
  shape: Shape,
  cut: Cut,
  photometric: number,
  samples: Samples
): Promise<void> {
  const tables = directory.bytes(TAG.jpegTables);
  for (const block of blocksOf(directory, shape, cut)) {
    const part = bytes.subarray(block.offset, block.offset + block.length);
    const channels = block.channel < 0 ? shape.stored : 1;
    const { width, rows } = block;
    const read = await readJpegPart(part, tables, { width, rows, channels, photometric });
    place(read, block, 0, channels, shape, samples);
  }
}

/** Numbers of colours as these: red, green and blue of all of them stand in a table, as 16-bit integers. */
function fromPalette(directory: TiffDirectory, shape: Shape, numbers: Samples): DecodedImage {
  const { depth } = shape.samples;
  const colours = 2 ** depth;
  const map = directory.values(TAG.colourMap, 3 * colours);
  if (depth > 8 || shape.stored !== 1 || map.length < 3 * colours)
    throw damaged('its palette does not fit its samples');
  // Some programs write bytes there.
  const scale = map.every((v) => v < 256) ? 257 : 1;
  const bytes = map.every((v) => (v * scale) % 257 === 0);
  const samples = sharedSamples(bytes ? 'u8' : 'u16', 3 * numbers.length);
  for (let i = 0; i < numbers.length; i++)
    for (let c = 0; c < 3; c++) {
      const value = map[c * colours + numbers[i]] * scale;
      samples[3 * i + c] = bytes ? value / 257 : value;
    }
  const image = imageOf(directory, 'rgb', { ...shape, kept: 3 }, samples);
  return { ...image, sampleType: bytes ? 'u8' : 'u16' };
}

function imageOf(directory: TiffDirectory, layout: Layout, shape: Shape, samples: Samples): DecodedImage {
  const orientation = directory.first(TAG.orientation, 1);
  const profile = directory.bytes(TAG.profile);
  return {
    width: shape.width,
    height: shape.height,
    layout,
    alpha: shape.kept > COLOURS[layout],
    sampleType: shape.samples.type,
    samples,
    profile: profile && profile.length <= MOST_PROFILE ? profile.slice() : null,
    orientation: orientation >= 1 && orientation <= 8 ? orientation : 1,
    notices: profile && profile.length > MOST_PROFILE ? [PROFILE_DAMAGED] : []
  };
}

function readShape(directory: TiffDirectory, width: number, height: number, colours: number): Shape {
  const stored = directory.first(TAG.samples, 1);
  if (stored > MOST_CHANNELS) {
    throw new FileError(
      `It has ${stored} channels a pixel, and up to ${MOST_CHANNELS} can be read. Save it as grey, RGB or CMYK.`
    );
  }
  const bits = directory.values(TAG.bits, stored);
  const depth = bits[0] ?? 1;
  const format = directory.first(TAG.format, 1);
  if (stored < colours) throw damaged(`it has ${stored} channels where its colour space needs ${colours}`);
  if (bits.some((b) => b !== depth))
    throw new FileError('Its channels have different bit depths. Save it with one depth.');
  const samples = storedSamples({
    ...{ depth, format, littleEndian: directory.littleEndian },
    predictor: directory.first(TAG.predictor, 1)
  });
  const extra = directory.value(TAG.extra);
  const hasAlpha = stored > colours && (extra === 1 || extra === 2);
  const kept = colours + (hasAlpha ? 1 : 0);
  const planar = directory.first(TAG.planar, 1) === 2 && stored > 1;
  return { width, height, stored, kept, samples, planar };
}

/** How a picture is cut into strips or tiles. */
interface Cut {
  readonly tiled: boolean;
  readonly width: number;
  readonly height: number;
  readonly across: number;
  readonly down: number;
  /** How many blocks hold channels that are kept. */
  readonly count: number;
}

function readCut(directory: TiffDirectory, { width, height, stored, kept, planar }: Shape): Cut {
  const tiled = directory.has(TAG.tileOffsets);
  const blockWidth = tiled ? directory.first(TAG.tileWidth) : width;
  const blockHeight = tiled
    ? directory.first(TAG.tileHeight)
    : Math.min(height, directory.first(TAG.rowsPerStrip, height));
  if (!(blockWidth > 0 && blockHeight > 0)) throw damaged('its strips or tiles have no size');
  if (tiled && blockWidth > 2 * Math.max(width, LARGEST_TILE_BESIDE)) {
    throw damaged(`its tiles are ${blockWidth} pixels wide, far wider than its ${width}×${height} pixels`);
  }
  const across = Math.ceil(width / blockWidth);
  const down = Math.ceil(height / blockHeight);
  const all = across * down * (planar ? stored : 1);
  if (all > MOST_BLOCKS) {
    throw new FileError(
      `It is cut into ${all} strips or tiles, and up to ${MOST_BLOCKS} can be read. Save it with larger ones.`
    );
  }
  const [offsets, lengths] = tiled ? [TAG.tileOffsets, TAG.tileBytes] : [TAG.stripOffsets, TAG.stripBytes];
  if (directory.count(offsets) < all || directory.count(lengths) < all)
    throw damaged('some of its strips or tiles are missing');
  const count = across * down * (planar ? kept : 1);
  return { tiled, width: blockWidth, height: blockHeight, across, down, count };
}

function* blocksOf(
  directory: TiffDirectory,
  { height, planar }: Shape,
  { tiled, width, height: most, across, down, count }: Cut
): Generator<Block> {
  const [offsets, lengths] = tiled ? [TAG.tileOffsets, TAG.tileBytes] : [TAG.stripOffsets, TAG.stripBytes];
  for (let i = 0; i < count; i++) {
    const inPlane = i % (across * down);
    const y = Math.floor(inPlane / across) * most;
    yield {
      x: (inPlane % across) * width,
      y,
      width,
      rows: Math.min(most, height - y),
      channel: planar ? Math.floor(i / (across * down)) : -1,
      offset: directory.value(offsets, i)!,
      length: directory.value(lengths, i)!
    };
  }
}

/** Before anything is allocated: the blocks lie in the file, each by itself, and can hold what they claim. */
function checkBlocks(
  directory: TiffDirectory,
  shape: Shape,
  cut: Cut,
  compression: number,
  fileBytes: number
): void {
  let held = 0;
  for (const block of blocksOf(directory, shape, cut)) {
    if (block.offset + block.length > fileBytes) throw truncated();
    held += block.length;
    if (held > fileBytes) throw damaged('its strips or tiles lie over each other');
    const rowLength = block.width * (block.channel < 0 ? shape.stored : 1);
    const claimed = block.rows * bytesOfRow(shape.samples, rowLength);
    if (block.length < fewestPacked(compression, claimed)) {
      throw damaged(`a part of it claims ${claimed} bytes of picture in ${block.length} bytes`);
    }
  }
}

/** Puts rows of a block, from its row `first` on, where they belong; what hangs over the picture's side is left out. */
function place(from: Samples, block: Block, first: number, across: number, shape: Shape, out: Samples): void {
  const { width, kept } = shape;
  const columns = Math.min(block.width, width - block.x);
  const rows = from.length / (block.width * across);
  for (let y = 0; y < rows; y++) {
    const source = y * block.width * across;
    const target = ((block.y + first + y) * width + block.x) * kept;
    if (across === kept && block.channel < 0) {
      out.set(from.subarray(source, source + columns * across), target);
      continue;
    }
    const channel = Math.max(0, block.channel);
    const count = block.channel < 0 ? kept : 1;
    for (let x = 0; x < columns; x++) {
      for (let c = 0; c < count; c++) out[target + x * kept + channel + c] = from[source + x * across + c];
    }
  }
}

/** White is zero. */
function turnOver(samples: Samples, channels: number, colours: number): void {
  const white = samples instanceof Float32Array ? 1 : samples instanceof Uint16Array ? 65535 : 255;
  for (let i = 0; i < samples.length; i += channels) {
    for (let c = 0; c < colours; c++) samples[i + c] = white - samples[i + c];
  }
}

/** Colours that were stored multiplied by their alpha, as floats divided by it again. */
function dividedByAlpha(image: DecodedImage): DecodedImage {
  const colours = COLOURS[image.layout];
  const white = image.sampleType === 'f32' ? 1 : image.sampleType === 'u16' ? 65535 : 255;
  const samples = sharedSamples('f32', image.samples.length);
  for (let i = 0; i < samples.length; i += colours + 1) {
    const alpha = image.samples[i + colours] / white;
    for (let c = 0; c < colours; c++) samples[i + c] = alpha > 0 ? image.samples[i + c] / white / alpha : 0;
    samples[i + colours] = alpha;
  }
  return { ...image, samples, sampleType: 'f32' };
}
