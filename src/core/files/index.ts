import type { SampleType } from '../raster/frame';
import { isFits, readFits } from './fits/read';
import { writeFits, type FitsNotes } from './fits/write';
import { damaged, FileError, type DecodedImage, type FinishedImage, type ReadChoices } from './image';
import { isJpeg, readJpeg, writeJpeg } from './jpeg';
import { isPng, readPng } from './png-read';
import { writeParts, type FileParts } from './parts';
import { pngParts } from './png-write';
import { isTiff } from './tiff-directory';
import { readTiff } from './tiff-read';
import { writeTiff } from './tiff-write';

export { FileError, type FinishedImage, type ReadChoices } from './image';
export { provideWasm, type WasmName } from './wasm';

export interface WriteOptions {
  /** JPEG only, 1…100. */
  readonly quality?: number;
  /** FITS only. */
  readonly notes?: FitsNotes;
  /** Is told the part that is done; may throw to stop. */
  readonly onProgress?: (part: number) => void;
}

export interface FileFormat {
  readonly id: 'png' | 'jpeg' | 'tiff' | 'fits';
  readonly title: string;
  readonly mime: string;
  /** The first is given to new files. */
  readonly extensions: readonly string[];
  /** Whether the bytes begin as this format does. */
  matches(bytes: Uint8Array): boolean;
  /** @throws FileError */
  read(bytes: Uint8Array, choices?: ReadChoices): Promise<DecodedImage>;
  /** Sample types it can be written in, the usual one first. */
  readonly depths: readonly SampleType[];
  /** Sample types in which a linear picture stays linear; in the others it is encoded. */
  readonly linearDepths: readonly SampleType[];
  /** Floats of it can say that a sample is missing. */
  readonly keepsMissing?: boolean;
  write(image: FinishedImage, options: WriteOptions): Promise<Uint8Array>;
  /** The same file in parts that can be made side by side; left out where it is made whole. */
  readonly parts?: FileParts;
}

export const fileFormats: readonly FileFormat[] = [
  {
    id: 'png',
    title: 'PNG',
    mime: 'image/png',
    extensions: ['png'],
    depths: ['u16', 'u8'],
    linearDepths: [],
    matches: isPng,
    read: readPng,
    write: (image, { onProgress }) => writeParts(pngParts, image, onProgress),
    parts: pngParts as unknown as FileParts
  },
  {
    id: 'jpeg',
    title: 'JPEG',
    mime: 'image/jpeg',
    extensions: ['jpg', 'jpeg'],
    depths: ['u8'],
    linearDepths: [],
    matches: isJpeg,
    read: readJpeg,
    write: (image, { quality = 92 }) => writeJpeg(image, quality)
  },
  {
    id: 'tiff',
    title: 'TIFF',
    mime: 'image/tiff',
    extensions: ['tif', 'tiff'],
    depths: ['u16', 'u8', 'f32'],
    linearDepths: ['f32'],
    matches: isTiff,
    read: readTiff,
    write: (image) => Promise.resolve(writeTiff(image))
  },
  {
    id: 'fits',
    title: 'FITS',
    mime: 'image/fits',
    extensions: ['fits', 'fit', 'fts'],
    depths: ['f32', 'u16'],
    linearDepths: ['f32', 'u16'],
    keepsMissing: true,
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

const READABLE = 'PNG, JPEG, TIFF or FITS';

/** Reads an image by what its bytes say, whatever its name. @throws FileError */
export async function decodeImage(file: Uint8Array, choices: ReadChoices = {}): Promise<DecodedImage> {
  // A plain view: subclasses (Node's Buffer) give `slice` another meaning.
  const bytes = new Uint8Array(file.buffer, file.byteOffset, file.byteLength);
  if (bytes.length === 0) throw new FileError('The file is empty.');
  const format = fileFormats.find((f) => f.matches(bytes));
  if (!format) throw new FileError(`The file is no picture that Kromba reads. Save it as ${READABLE}.`);
  try {
    return await format.read(bytes, choices);
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
