import { SPACE_IDS, type SpaceId } from '../colour/output';
import type { OutputSpace } from '../colour/own';
import type { Metadata, SampleType } from '../raster/frame';
import { isFits, readFits } from './fits/read';
import { writeFits, type FitsNotes } from './fits/write';
import { damaged, FileError, type DecodedImage, type FinishedImage, type ReadChoices } from './image';
import { isJpeg, readJpeg, writeJpeg } from './jpeg';
import { AVIF_BITS, isAvif, readAvif, writeAvif, type AVIF_PRIMARIES } from './avif';
import { isJxl, jxlMetadata, readJxl, writeJxl } from './jxl';
import { avifMetadata } from './metadata/avif';
import { jpegMetadata, JPEG_MOST_EXIF } from './metadata/jpeg';
import { pngMetadata } from './metadata/png';
import { tiffMetadata } from './metadata/tiff';
import { isPng, readPng } from './png-read';
import { writeParts, type FileParts } from './parts';
import { pngParts } from './png-write';
import { isTiff } from './tiff-directory';
import { readTiff } from './tiff-read';
import { isWebp, readWebp, webpMetadata, writeWebp } from './webp';
import { tiffParts, writeTiff } from './tiff-write';

export {
  allowPixels,
  checkPixels,
  COMPRESSIONS,
  FileError,
  MOST_PIXELS,
  SizeError,
  type Compression,
  type FinishedImage,
  type ReadChoices
} from './image';
export { provideWasm, type WasmName } from './wasm';

export interface WriteOptions {
  /** Of what loses something, 1…100. */
  readonly quality?: number;
  /** Of the samples; sRGB where it is left out. */
  readonly space?: OutputSpace;
  /** FITS only. */
  readonly notes?: FitsNotes;
  /** Is told the part that is done; may throw to stop. */
  readonly onProgress?: (part: number) => void;
}

export interface FileFormat {
  readonly id: 'png' | 'jpeg' | 'tiff' | 'webp' | 'avif' | 'jxl' | 'fits';
  readonly title: string;
  readonly mime: string;
  /** The first is given to new files. */
  readonly extensions: readonly string[];
  /** Whether the bytes begin as this format does. */
  matches(bytes: Uint8Array): boolean;
  /** @throws FileError */
  read(bytes: Uint8Array, choices?: ReadChoices): Promise<DecodedImage>;
  /**
   * What a file that was read tells of its picture; left out where the format has no place for it. May throw where it is damaged.
   * @param notices is told what a person should know
   */
  metadata?(bytes: Uint8Array, notices: string[], choices: ReadChoices): Metadata | Promise<Metadata>;
  /** Blocks of metadata that it has a place for, each of so many bytes at most. */
  readonly blocks?: Readonly<Partial<Record<keyof Metadata, number>>>;
  /** Sample types it can be written in, the usual one first. */
  readonly depths: readonly SampleType[];
  /** Bits that are written of samples of 16, where these are fewer. */
  readonly deepBits?: number;
  /** Sample types that it can hold deflated or not; left out where each is written in one way. */
  readonly compresses?: readonly SampleType[];
  /** Writing takes many times as long as computing. */
  readonly slow?: boolean;
  /** What 100 of 1…100 means; null where it has no quality. */
  readonly quality: 'best' | 'lossless' | null;
  /** Sample types in which a linear picture stays linear; in the others it is encoded. */
  readonly linearDepths: readonly SampleType[];
  /** Colour spaces it can be written in. */
  readonly spaces: readonly SpaceId[];
  /** It has a place for any profile of RGB. */
  readonly ownSpaces?: boolean;
  /** A picture of greys is written with one channel. */
  readonly greys?: boolean;
  /** Floats of it can say that a sample is missing. */
  readonly keepsMissing?: boolean;
  /** It has no place for alpha. */
  readonly opaque?: boolean;
  write(image: FinishedImage, options: WriteOptions): Promise<Uint8Array>;
  /** The same file in parts that can be made side by side; left out where it is made whole. */
  readonly parts?: FileParts;
}

const NO_IPTC = { exif: Infinity, xmp: Infinity };
const ALL_BLOCKS = { ...NO_IPTC, iptc: Infinity };

/** An image with what its file tells of it. */
export interface ReadImage extends DecodedImage {
  readonly metadata?: Metadata;
}

export const fileFormats: readonly FileFormat[] = [
  {
    id: 'png',
    greys: true,
    title: 'PNG',
    mime: 'image/png',
    extensions: ['png'],
    depths: ['u16', 'u8'],
    quality: null,
    linearDepths: [],
    spaces: SPACE_IDS,
    ownSpaces: true,
    matches: isPng,
    read: readPng,
    metadata: pngMetadata,
    blocks: ALL_BLOCKS,
    write: (image, { onProgress }) => writeParts(pngParts, image, onProgress),
    parts: pngParts as unknown as FileParts
  },
  {
    id: 'jpeg',
    opaque: true,
    title: 'JPEG',
    mime: 'image/jpeg',
    extensions: ['jpg', 'jpeg'],
    depths: ['u8'],
    quality: 'best',
    linearDepths: [],
    spaces: SPACE_IDS,
    ownSpaces: true,
    matches: isJpeg,
    read: readJpeg,
    metadata: jpegMetadata,
    blocks: { ...ALL_BLOCKS, exif: JPEG_MOST_EXIF },
    write: (image, { quality = 92 }) => writeJpeg(image, quality)
  },
  {
    id: 'tiff',
    greys: true,
    title: 'TIFF',
    mime: 'image/tiff',
    extensions: ['tif', 'tiff'],
    depths: ['u16', 'u8', 'f32'],
    compresses: ['u16'],
    quality: null,
    linearDepths: ['f32'],
    spaces: SPACE_IDS,
    ownSpaces: true,
    matches: isTiff,
    read: readTiff,
    metadata: tiffMetadata,
    blocks: ALL_BLOCKS,
    write: (image, { onProgress }) => writeTiff(image, onProgress),
    parts: tiffParts
  },
  {
    id: 'webp',
    slow: true,
    title: 'WebP',
    mime: 'image/webp',
    extensions: ['webp'],
    depths: ['u8'],
    quality: 'lossless',
    linearDepths: [],
    spaces: SPACE_IDS,
    ownSpaces: true,
    matches: isWebp,
    read: readWebp,
    metadata: webpMetadata,
    blocks: NO_IPTC,
    write: (image, { quality = 92 }) => writeWebp(image, quality)
  },
  {
    id: 'avif',
    slow: true,
    title: 'AVIF',
    mime: 'image/avif',
    extensions: ['avif'],
    depths: ['u8', 'u16'],
    deepBits: AVIF_BITS,
    quality: 'best',
    linearDepths: [],
    spaces: ['srgb', 'display-p3'],
    matches: isAvif,
    read: readAvif,
    metadata: avifMetadata,
    blocks: NO_IPTC,
    write: (image, { quality = 92, space = 'srgb' }) =>
      writeAvif(image, quality, space as keyof typeof AVIF_PRIMARIES)
  },
  {
    id: 'jxl',
    slow: true,
    title: 'JPEG XL',
    mime: 'image/jxl',
    extensions: ['jxl'],
    depths: ['u8'],
    quality: 'lossless',
    linearDepths: [],
    spaces: ['srgb'],
    matches: isJxl,
    read: readJxl,
    metadata: jxlMetadata,
    blocks: NO_IPTC,
    write: (image, { quality = 92 }) => writeJxl(image, quality)
  },
  {
    id: 'fits',
    title: 'FITS',
    mime: 'image/fits',
    extensions: ['fits', 'fit', 'fts'],
    depths: ['f32', 'u16'],
    quality: null,
    linearDepths: ['f32', 'u16'],
    spaces: ['srgb'],
    keepsMissing: true,
    opaque: true,
    matches: isFits,
    read: readFits,
    write: (image, { notes }) => Promise.resolve(writeFits(image, notes))
  }
];

/** The format of a file name's extension. */
export function formatForName(name: string): FileFormat | undefined {
  const extension = /\.([a-z0-9]+)$/i.exec(name)?.[1].toLowerCase();
  return fileFormats.find((f) => f.extensions.includes(extension ?? ''));
}

/** The formats that are read, in words. */
export const READABLE = `${fileFormats
  .slice(0, -1)
  .map(({ title }) => title)
  .join(', ')} or ${fileFormats.at(-1)!.title}`;

const LEFT_BEHIND = 'What it tells of the picture (EXIF, IPTC, XMP) is damaged, and was left behind.';

/** What a file tells of its picture, in memory of its own, which would else be all of the file's; a damaged one is told, and is no reason not to open it. */
async function metadataOf(
  file: Uint8Array,
  { metadata }: Pick<FileFormat, 'metadata'>,
  notices: string[],
  choices: ReadChoices
): Promise<Metadata | undefined> {
  try {
    const blocks = Object.entries((await metadata?.(file, notices, choices)) ?? {}) as [
      string,
      Uint8Array | undefined
    ][];
    const held = blocks.flatMap(([key, block]) => (block?.length ? [[key, block.slice()]] : []));
    return held.length > 0 ? (Object.fromEntries(held) as Metadata) : undefined;
  } catch {
    notices.push(LEFT_BEHIND);
    return undefined;
  }
}

/** Reads an image by what its bytes say, whatever its name. @throws FileError */
export async function decodeImage(file: Uint8Array, choices: ReadChoices = {}): Promise<ReadImage> {
  // A plain view: subclasses (Node's Buffer) give `slice` another meaning.
  const bytes = new Uint8Array(file.buffer, file.byteOffset, file.byteLength);
  if (bytes.length === 0) throw new FileError('The file is empty.');
  const format = fileFormats.find((f) => f.matches(bytes));
  if (!format) throw new FileError(`The file is no picture that Kromba reads. Save it as ${READABLE}.`);
  try {
    const image = await format.read(bytes, choices);
    const notices = [...image.notices];
    const metadata = await metadataOf(bytes, format, notices, choices);
    return { ...image, notices, metadata };
  } catch (error) {
    if (error instanceof FileError) throw error;
    if (error instanceof RangeError && /allocation|memory|length/i.test(error.message)) {
      throw new FileError(
        'There is not enough memory for this picture. Close other documents or make it smaller.'
      );
    }
    throw damaged('its content makes no sense');
  }
}
