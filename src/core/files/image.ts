import type { Encoding } from '../colour';
import {
  layoutChannels,
  type FilePages,
  type FitsFacts,
  type Layout,
  type Samples,
  type SampleType,
  type Metadata
} from '../raster/frame';

/** A file that can't be read or written; the message is for a person and says what to do. */
export class FileError extends Error {
  override readonly name: string = 'FileError';
}

/** A picture of more pixels than are taken. */
export class SizeError extends FileError {
  override readonly name = 'SizeError';
}

/** What of a file with several pictures is read, and how (FITS; of TIFF the part alone); kept with the frame. */
export interface ReadChoices {
  /** The part of the file, counted from 0. */
  readonly hdu?: number;
  /** One of several planes, counted from 1. */
  readonly plane?: number;
  /** What samples are divided by to come to 0…1. */
  readonly range?: number;
}

/** What a file format's reader gives: samples as stored, before orientation and profile. */
export interface DecodedImage {
  readonly width: number;
  readonly height: number;
  readonly layout: Layout;
  readonly alpha: boolean;
  readonly sampleType: SampleType;
  /** Interleaved, row by row, in shared memory. */
  readonly samples: Samples;
  /** What the samples hold, where the file says so. */
  readonly encoding?: Encoding;
  /** Embedded ICC profile. */
  readonly profile: Uint8Array | null;
  /** EXIF orientation, 1 (upright) to 8. */
  readonly orientation: number;
  /** What a person should know about how the file was read. */
  readonly notices: readonly string[];
  readonly fits?: FitsFacts;
  /** Where the file has several pictures. */
  readonly pages?: FilePages;
}

/** How samples lie in a file. */
export const COMPRESSIONS = ['deflate', 'none'] as const;
export type Compression = (typeof COMPRESSIONS)[number];

/** What a writer takes: interleaved RGB or RGBA, or one plane of greys. */
export interface FinishedImage {
  readonly width: number;
  readonly height: number;
  readonly alpha: boolean;
  readonly grey?: boolean;
  /** What the samples hold; coded where it is left out. */
  readonly encoding?: Encoding;
  /** ICC profile of the space that they are in; that of sRGB where it is left out. */
  readonly profile?: Uint8Array;
  /** As it is to stand in the file; formats leave out what they have no place for. */
  readonly metadata?: Metadata;
  /** How its samples lie in the file, where its format leaves that open; deflated where it is left out. */
  readonly compression?: Compression;
  readonly samples: Samples;
}

/** Samples a pixel of what a writer takes. */
export const finishedChannels = ({ alpha, grey }: Pick<FinishedImage, 'alpha' | 'grey'>): number =>
  grey ? 1 : alpha ? 4 : 3;

export const MOST_PIXELS = 2 ** 28;
/** Longer sides are no picture; each row costs time of its own. */
const LONGEST_SIDE = 2 ** 18;

export const PROFILE_DAMAGED = 'Its colour profile is damaged; the picture was read as sRGB.';

let mostPixels = MOST_PIXELS;
/** Has this thread open no picture of more pixels. */
export const allowPixels = (most: number): void => void (mostPixels = most);

/** @throws SizeError for more pixels than are taken */
export function checkPixels(width: number, height: number, most = mostPixels): void {
  if (width * height > most) {
    throw new SizeError(
      `The picture is ${width}×${height} pixels. Kromba opens up to ${Math.floor(most / 2 ** 20)} million; make it smaller first.`
    );
  }
}

/** @throws FileError for sizes that are no picture or that can't be held in memory */
export function checkSize(width: number, height: number): void {
  if (!(width > 0 && height > 0)) {
    throw new FileError(`The file says that the picture is ${width}×${height} pixels, which is no picture.`);
  }
  if (Math.max(width, height) > LONGEST_SIDE) {
    throw new FileError(
      `The picture is ${width}×${height} pixels. Kromba opens pictures of up to ${LONGEST_SIDE} pixels a side; cut it first.`
    );
  }
  checkPixels(width, height);
}

/** For a file that ends too early. */
export const truncated = (): FileError =>
  new FileError('The file ends before the picture is complete. Copy it again from where it came.');

/** For a file whose content contradicts itself. */
export const damaged = (what: string): FileError =>
  new FileError(`The file is damaged: ${what}. Copy it again from where it came.`);

export const channelsOf = (image: Pick<DecodedImage, 'layout' | 'alpha'>): number =>
  layoutChannels(image.layout) + (image.alpha ? 1 : 0);
