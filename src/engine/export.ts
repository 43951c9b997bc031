import { fileFormats, type Compression, type FileFormat, type FinishedImage } from '../core/files';
import type { FitsNotes } from '../core/files/fits/write';
import { unshared } from '../core/files/deflate';
import { finishedChannels } from '../core/files/image';
import { editedMetadata, type Metadata, type MetadataChoice } from '../core/files/metadata';
import type { Encoding } from '../core/colour';
import { spaceOf } from '../core/colour/output';
import { isOwn, type OutputSpace } from '../core/colour/own';
import { spaceProfile } from '../core/files/srgb-profile';
import { historyOf, type PictureSource } from '../core/document';
import { atFullSize } from '../core/path/smaller';
import { sharedSamples, type Frame, type Samples, type SampleType } from '../core/raster/frame';
import { TILE } from '../core/raster/raster';
import type { Pool } from './pool';

export interface ExportSettings {
  readonly format: FileFormat['id'];
  readonly depth: SampleType;
  /** Of what loses something, 1…100. */
  readonly quality?: number;
  /** How its samples lie in the file, where the format leaves that open; deflated where it is left out. */
  readonly compression?: Compression;
  /** 32-bit floats only: values outside 0…1 are kept. */
  readonly keepRange?: boolean;
  /** Whose RGB is written; sRGB where it is left out. */
  readonly space?: OutputSpace;
  /** 8 bits only: what is lost by rounding is spread, so that gradients do not band. */
  readonly dither?: boolean;
  /** One plane of greys: the first of the three. Where it is not asked for, formats that can hold one do where all are the same. */
  readonly grey?: boolean;
  /** FITS only: what goes in beside the samples. */
  readonly notes?: FitsNotes;
  /** What the picture's file told of it, for the other formats. */
  readonly told?: Metadata;
  /** What of that goes along; all of it where it is left out. */
  readonly metadata?: MetadataChoice;
  /** Writes the steps of the path into it, in words. */
  readonly history?: boolean;
  /** Pixels along the longer side; full size where it is left out. Never enlarges. */
  readonly longerSide?: number;
}

export interface ExportProgress {
  readonly doing: 'computing' | 'writing';
  /** 0…1 of the whole. */
  readonly part: number;
}

/** So many pixels are written by a worker among others, whose silence must not be taken for its death. */
const LIGHT_PIXELS = 4_000_000;
const BAND = 4 * TILE;
const PRIORITY = 9;
/** Computing counts as so much of the whole, writing as the rest. */
const COMPUTING_SHARE = 0.6;

/** Pixels of the exported image. */
export function exportSize(
  { width, height }: { readonly width: number; readonly height: number },
  longerSide?: number
): { width: number; height: number } {
  const scale = Math.min(1, (longerSide ?? Infinity) / Math.max(width, height));
  return { width: Math.max(1, Math.round(width * scale)), height: Math.max(1, Math.round(height * scale)) };
}

/** What is exported: its size at full size, and what its values are. */
export interface ExportShape {
  readonly width: number;
  readonly height: number;
  readonly alpha: boolean;
  /** Whether samples may be missing. */
  readonly mayMiss: boolean;
  readonly encoding: Encoding;
}

/** What the values of a file stand for: a linear picture stays linear where the format has a way to say so. */
export const exportEncoding = (
  picture: Encoding,
  { format, depth, space }: Pick<ExportSettings, 'format' | 'depth' | 'space'>
): Encoding =>
  picture === 'linear' &&
  !isOwn(space) &&
  fileFormats.find((f) => f.id === format)?.linearDepths.includes(depth)
    ? 'linear'
    : 'coded';

/** Whether a format can be written in a space: it says its own by their names, or has a place for a profile. */
const holdsSpace = ({ spaces, ownSpaces }: FileFormat, space: OutputSpace): boolean =>
  isOwn(space) ? Boolean(ownSpaces) : spaces.includes(space);

/** The same space with its profile in memory that all workers see. */
export function sharedSpace(space: OutputSpace = 'srgb'): OutputSpace {
  if (!isOwn(space)) return space;
  const profile = sharedSamples('u8', space.profile.length) as Uint8Array;
  profile.set(space.profile);
  return { ...space, profile };
}

/**
 * The picture at full size as a file: computed tile by tile by the pool, then written by it part by part, or by a worker of
 * its own.
 * @param shape of the picture at its end
 * @throws FileError when there is no memory for it; the signal's reason when it was cancelled
 */
export async function exportPicture(
  pool: Pool,
  shape: ExportShape,
  source: PictureSource,
  settings: ExportSettings,
  onProgress: (progress: ExportProgress) => void = () => undefined,
  signal?: AbortSignal
): Promise<Blob> {
  const { alpha, width, height, mayMiss } = shape;
  const { format, depth, quality = 92, keepRange = false, notes, dither = false } = settings;
  const space = sharedSpace(settings.space);
  // A profile of RGB says nothing of one plane.
  const grey = Boolean(settings.grey) && !isOwn(space);
  const written = fileFormats.find((f) => f.id === format && f.depths.includes(depth));
  if (!written || !holdsSpace(written, space)) throw new RangeError(`${format} can’t be written so`);
  const encoding = exportEncoding(shape.encoding, settings);
  const size = exportSize({ width, height }, settings.longerSide);
  const resized = size.width !== width || size.height !== height;
  const keepMissing = written.keepsMissing;
  const quantizing = { keepRange, keepMissing, grey, encoding, space, dither };
  // Samples that are missing, or whose light only their own profile knows, are averaged before they are what the file holds.
  const smaller = resized ? { ...size, depth, quantizing, ofFloats: mayMiss || isOwn(space) } : null;
  const full = smaller ? atFullSize(smaller) : { depth, quantizing };
  const samples = sharedSamples(full.depth, width * height * finishedChannels({ alpha, grey }));
  const tiles: Promise<{ readonly grey: boolean }>[] = [];
  const stopped = new AbortController();
  const ended = signal ? AbortSignal.any([signal, stopped.signal]) : stopped.signal;
  let done = 0;
  const count = Math.ceil(width / BAND) * Math.ceil(height / TILE);
  for (let y = 0; y < height; y += TILE) {
    for (let x = 0; x < width; x += BAND) {
      const rect = { x, y, width: Math.min(BAND, width - x), height: Math.min(TILE, height - y) };
      const ask = { ...source, rect, samples, width, quantizing: full.quantizing };
      const tile = pool.run('render', ask, { priority: PRIORITY, signal: ended });
      tiles.push(
        tile.finally(() => onProgress({ doing: 'computing', part: (COMPUTING_SHARE * ++done) / count }))
      );
    }
  }
  let onePlane = grey;
  try {
    const made = await Promise.all(tiles);
    onePlane ||= Boolean(written.greys) && !alpha && !isOwn(space) && made.every((tile) => tile.grey);
  } catch (error) {
    stopped.abort(error);
    await Promise.allSettled(tiles);
    throw error;
  }
  const writing = (part: number): void =>
    onProgress({ doing: 'writing', part: COMPUTING_SHARE + (1 - COMPUTING_SHARE) * part });
  writing(0);
  const profile = isOwn(space)
    ? space.profile
    : space === 'srgb'
      ? undefined
      : spaceProfile(spaceOf(space), encoding, onePlane);
  const metadata = written.metadata && (await metadataFor(source, settings, size));
  const image = {
    ...{ width, height, alpha: alpha && !onePlane, grey: onePlane, encoding, profile, metadata },
    compression: settings.compression,
    samples: onePlane && !grey ? await firstOfThree(samples, full.depth, signal) : samples
  };
  if (written.parts && !smaller)
    return new Blob(await inParts(pool, written, written.parts, image, writing, signal), {
      type: written.mime
    });
  const ask = { ...image, format, smaller, space, quality, notes };
  // A worker of its own costs more than what is small, and gives back what the large takes.
  const bytes =
    width * height <= LIGHT_PIXELS && !written.slow
      ? await pool.run('encode', ask, { priority: PRIORITY, signal, onProgress: writing })
      : await pool.runApart('encode', ask, { signal, onProgress: writing });
  return new Blob([unshared(bytes)], { type: written.mime });
}

/**
 * What a FITS of a picture is told: the cards of the frame that it is a picture of, its range, and what was done to it. One that is made of
 * others has no cards: those of one of them would not be true of it.
 */
export function notesOf(
  { head, steps }: Pick<PictureSource, 'head' | 'steps'>,
  frameOf: (hash: string) => Pick<Frame, 'fits'> | null | undefined
): FitsNotes {
  const [first] = head.frames;
  const fits = first && frameOf(first.hash)?.fits;
  return { cards: fits?.cards, range: fits?.range, history: historyOf(steps) };
}

/** What the file of a frame told of it, where the picture is one of it and of no others. */
export const toldOf = (
  { head }: Pick<PictureSource, 'head'>,
  frameOf: (hash: string) => Pick<Frame, 'metadata'> | null | undefined
): Metadata | undefined => head.frames[0] && frameOf(head.frames[0].hash)?.metadata;

/** What of the blocks of metadata goes along into a file of the format, and what of them and of the picture has no place there, in words. */
export function toldAlong(
  {
    format,
    told = {},
    metadata = 'keep',
    grey
  }: Pick<ExportSettings, 'format' | 'told' | 'metadata' | 'grey'>,
  { alpha }: Pick<ExportShape, 'alpha'>
): { along: string; lost: string } {
  const { blocks = {}, title, opaque = false } = fileFormats.find(({ id }) => id === format)!;
  const keys = metadata === 'none' ? [] : (Object.keys(told) as (keyof Metadata)[]);
  const fits = (key: keyof Metadata): boolean => told[key]!.length <= (blocks[key] ?? 0);
  const say = (chosen: typeof keys, one: string, more: string): string =>
    chosen.length === 0
      ? ''
      : `${AND.format(chosen.map((key) => key.toUpperCase()))} of its file ${chosen.length === 1 ? one : more}.`;
  const lostKeys = say(
    keys.filter((key) => !fits(key)),
    `has no place in ${title}, and is left out`,
    `have no place in ${title}, and are left out`
  );
  const where = opaque ? title : grey ? 'a file of one plane' : '';
  const lostAlpha = alpha && where ? `Its transparency has no place in ${where}, and is left out.` : '';
  return {
    along: say(keys.filter(fits), 'goes along', 'go along'),
    lost: [lostKeys, lostAlpha].filter((told) => told !== '').join(' ')
  };
}
const AND = new Intl.ListFormat('en-GB');

/** What of it goes into the file, as it is true of the picture that is made. */
async function metadataFor(
  { steps }: PictureSource,
  { told = {}, metadata: choice = 'keep', history = false, space = 'srgb' }: ExportSettings,
  size: { readonly width: number; readonly height: number }
): Promise<Metadata | undefined> {
  if (choice === 'none') return undefined;
  return editedMetadata(told, {
    ...size,
    space: space === 'srgb' || space === 'adobe-rgb' ? space : 'other',
    withoutPlace: choice === 'no-place',
    history: history ? historyOf(steps) : []
  });
}

/** Whether one plane holds all of a picture: its channels are the same, wherever it is looked at. */
export const isGrey = async (
  pool: Pick<Pool, 'run'>,
  { head, steps, pins }: PictureSource,
  signal?: AbortSignal
): Promise<boolean> => (await pool.run('grey', { head, steps, pins }, { priority: PRIORITY, signal })).grey;

/** So many pixels at once leave the page time between. */
const AT_ONCE = 2 ** 20;

/** The first of three channels. */
async function firstOfThree(samples: Samples, type: SampleType, signal?: AbortSignal): Promise<Samples> {
  const out = sharedSamples(type, samples.length / 3);
  for (let from = 0; from < out.length; from += AT_ONCE) {
    await new Promise((resolve) => setTimeout(resolve));
    signal?.throwIfAborted();
    const to = Math.min(out.length, from + AT_ONCE);
    for (let i = from; i < to; i++) out[i] = samples[3 * i];
  }
  return out;
}

/** A file made part by part by all workers. */
async function inParts(
  pool: Pool,
  { id: format }: FileFormat,
  { count, around }: NonNullable<FileFormat['parts']>,
  { metadata, ...image }: FinishedImage,
  onProgress: (part: number) => void,
  signal?: AbortSignal
): Promise<Uint8Array<ArrayBuffer>[]> {
  let done = 0;
  const all = count(image);
  const parts = await Promise.all(
    Array.from({ length: all }, (_, index) =>
      pool
        .run('part', { ...image, format, index }, { priority: PRIORITY, signal })
        .finally(() => onProgress(++done / all))
    )
  );
  const { before, after } = around({ ...image, metadata }, parts);
  return [before, ...parts.map(({ bytes }) => bytes), after].map(unshared);
}
