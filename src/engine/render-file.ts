import type { Encoding } from '../core/colour';
import { spaceTitle, type OutputSpace } from '../core/colour/own';
import { readFrameKey, type PictureSource } from '../core/document';
import { checkPixels, FileError } from '../core/files';
import { shapeOf } from '../core/path/shape';
import type { Frame } from '../core/raster/frame';
import {
  exportEncoding,
  exportPicture,
  isGrey,
  notesOf,
  toldAlong,
  toldOf,
  type ExportSettings,
  type ExportShape
} from './export';
import type { Pool } from './pool';

/** Behind what is looked at. */
const PRIORITY = 9;
/** Files of so many bytes are opened by a worker among others. */
const LIGHT_BYTES = 4_000_000;

/**
 * Opens a file as a frame that goes by `key`, for all workers.
 * @param among by one of them, which costs less than one of its own and does not give back what a large file takes
 * @returns with what is to be told of the file @throws FileError
 */
export async function openFor(
  pool: Pool,
  key: string,
  file: Blob,
  signal?: AbortSignal,
  among = false
): Promise<{ readonly frame: Frame; readonly notices: readonly string[] }> {
  const ask = { file, choices: readFrameKey(key).choices };
  const opened = await inMemory(() =>
    among ? pool.run('open', ask, { priority: PRIORITY, signal }) : pool.runApart('open', ask, { signal })
  );
  pool.register(key, opened.frame);
  return opened;
}

/** What can't be held in memory is told as the file's fault. @throws FileError */
async function inMemory<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (error instanceof RangeError) throw new FileError('There is not enough memory for this picture.');
    throw error;
  }
}

/** What is said of the file of a linear picture. */
const encodedAs = (encoding: Encoding, space: OutputSpace = 'srgb'): string =>
  encoding === 'linear'
    ? 'The picture is linear, and so are the values of the file.'
    : `The picture is linear; its values were encoded as ${spaceTitle(space)}.`;

/** How a picture is written: FITS of a picture that is grey hold one plane. */
export type RenderSettings = Omit<ExportSettings, 'notes' | 'told'> & {
  /** A picture of more pixels is not made. */
  readonly mostPixels?: number;
};

export interface Rendered {
  readonly file: Blob;
  readonly shape: ExportShape;
  /** What is to be told of it. */
  readonly notices: readonly string[];
}

/** A picture as a file, of frames that are open. @throws FileError; the signal's reason when it was cancelled */
export function renderPicture(
  pool: Pool,
  source: PictureSource,
  frameOf: (hash: string) => Frame,
  settings: RenderSettings,
  signal?: AbortSignal
): Promise<Rendered> {
  return inMemory(async () => {
    const grey = settings.grey || (settings.format === 'fits' && (await isGrey(pool, source, signal)));
    const shape = shapeOf(source, frameOf);
    if (settings.mostPixels) checkPixels(shape.width, shape.height, settings.mostPixels);
    const written = { ...settings, grey, notes: notesOf(source, frameOf), told: toldOf(source, frameOf) };
    const notices = [
      shape.encoding === 'linear' ? encodedAs(exportEncoding(shape.encoding, written), written.space) : '',
      toldAlong(written, shape).lost
    ].filter((notice) => notice !== '');
    return { file: await exportPicture(pool, shape, source, written, undefined, signal), shape, notices };
  });
}

/** One of many files: a key that no other has, and what it holds. */
export interface Given {
  readonly key: string;
  file(): Promise<Blob>;
  /** Pixels along the longer side of small pictures of it, as it comes and as it is made; without them where it is left out. */
  readonly small?: number;
}

export interface RenderedFile extends Rendered {
  /** JPEG. */
  readonly small: { readonly before: Uint8Array; readonly after: Uint8Array } | null;
}

/** What a path makes of one file: its frame is open no longer than that. @throws FileError; the signal's reason */
export async function renderFile(
  pool: Pool,
  { key, file, small: size }: Given,
  sourceOf: (key: string, frame: Frame) => PictureSource,
  settings: RenderSettings,
  signal?: AbortSignal
): Promise<RenderedFile> {
  const given = await file();
  signal?.throwIfAborted();
  try {
    const { frame, notices } = await openFor(pool, key, given, signal, given.size <= LIGHT_BYTES);
    const source = sourceOf(key, frame);
    const made = await renderPicture(pool, source, () => frame, settings, signal);
    const seen = async (of: PictureSource): Promise<Uint8Array> =>
      pool.run('thumbnail', { ...of, size: size! }, { priority: PRIORITY, signal });
    const small = size ? { before: await seen({ ...source, steps: [] }), after: await seen(source) } : null;
    return { ...made, notices: [...notices, ...made.notices], small };
  } finally {
    pool.forget(key);
  }
}
