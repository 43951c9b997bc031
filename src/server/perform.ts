import { readFile } from 'node:fs/promises';
import { channelsAt } from '../core/colour';
import { atStrength, DocumentError, type Look, type LookOn } from '../core/document';
import { fileFormats, FileError, SizeError } from '../core/files';
import { headOf, type SourceHead } from '../core/heads';
import { unshared } from '../core/files/deflate';
import { isBundle } from '../core/files/bundle';
import { titleOfAsking } from '../core/lut/bake';
import type { Table } from '../core/lut/table';
import { greyPixel, type Frame } from '../core/raster/frame';
import type { Pool } from '../engine/pool';
import { openFor, renderFile, type RenderSettings } from '../engine/render-file';
import { inOwnProfile, type IntoProfile } from '../engine/settings';
import { statisticsInParts } from '../engine/statistics';
import { lookWith, renderWork, workOf } from '../engine/work';
import type { SentFile } from './form';
import { inSettings, Problem } from './problem';

/** A profile that is written by, and how colours are brought into it. */
export interface ByProfile {
  readonly profile?: SentFile;
  readonly into?: IntoProfile;
}

/** A piece of work, as it can be handed to another process. */
export type Job =
  | (ByProfile & {
      readonly kind: 'render';
      readonly look: string;
      /** 0…1 of the look. */
      readonly strength: number;
      readonly tables: readonly SentFile[];
      readonly image: SentFile;
      readonly settings: RenderSettings;
    })
  | (ByProfile & {
      readonly kind: 'document';
      readonly document: SentFile;
      readonly picture: string;
      readonly settings: RenderSettings;
    })
  | {
      readonly kind: 'bake';
      readonly look: string;
      readonly tables: readonly SentFile[];
      readonly image?: SentFile;
      readonly size: number;
      readonly title?: string;
      readonly domain: readonly [low: number, high: number];
      readonly plain: boolean;
    }
  | { readonly kind: 'measure'; readonly image: SentFile; readonly at?: readonly [x: number, y: number] };

/** What came of it. */
export interface Made {
  readonly file: Blob;
  readonly notices: readonly string[];
}

export interface Performing {
  readonly pool: Pool;
  readonly signal: AbortSignal;
  /** Bytes of one file. */
  readonly fileBytes: number;
}

const PRIORITY = 9;
let count = 0;
/** What no other frame of this process is called. */
const unique = (): string => `${++count}/`;

const read = async ({ path }: SentFile): Promise<Blob> => new Blob([await readFile(path)]);

/** A picture file, by its first bytes. @throws Problem where it is none that is read */
async function readImage(image: SentFile): Promise<Blob> {
  const file = await read(image);
  const head = new Uint8Array(await file.slice(0, 4096).arrayBuffer());
  if (file.size === 0) throw new Problem('file', `“${image.name}” is empty.`, 'image');
  if (!fileFormats.some((format) => format.matches(head)))
    throw new Problem('type', `“${image.name}” is no picture that Kromba reads.`, 'image');
  return file;
}

/** A file that was sent under a name. @throws Problem */
const sentAs =
  (files: readonly SentFile[], field: string) =>
  (name: string): Promise<Blob> => {
    const found = files.find((file) => file.name === name);
    if (!found)
      throw new Problem('field', `The look needs the file “${name}”: send it as “${field}”.`, field);
    return read(found);
  };

/** A look that was sent, with its tables: opened by the workers. @throws Problem */
async function openLook(
  { look: text, strength = 1, tables }: { look: string; strength?: number; tables: readonly SentFile[] },
  { pool, signal }: Performing
): Promise<{ readonly look: Look; readonly sourceOf: LookOn }> {
  const options = { priority: PRIORITY, signal };
  return inField('look', async () => {
    const look = atStrength((await pool.run('look', { text }, options)).look, strength);
    const openTable = async (file: Blob): Promise<Table> =>
      (await pool.run('table', { file }, options)).table;
    return { look, sourceOf: await lookWith(look, sentAs(tables, 'table'), openTable) };
  });
}

/** What goes wrong meanwhile is told of the field. @throws Problem */
async function inField<T>(field: string, work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    throw problemOf(error, field);
  }
}

/** Errors that are made for a person, also where another one was put around them. */
function meant(error: unknown): Error | null {
  for (let one = error; one instanceof Error; one = one.cause)
    if (one instanceof FileError || one instanceof DocumentError) return one;
  return null;
}

/** @param field where it went wrong, if it is a file's or a document's fault */
export function problemOf(error: unknown, field?: string): unknown {
  if (error instanceof Problem) return error;
  const cause = meant(error);
  if (!cause) return error;
  const { message } = error as Error;
  if (cause instanceof SizeError) return new Problem('too-many-pixels', message, field);
  return new Problem(cause instanceof FileError ? 'file' : 'field', message, field);
}

/** How a file is written, by a profile where one was sent. @throws Problem */
async function settingsFor(
  { settings, profile, into = {} }: ByProfile & { readonly settings: RenderSettings },
  { pool, signal }: Performing
): Promise<RenderSettings> {
  if (!profile) return settings;
  const ask = { file: await read(profile), name: profile.name };
  const own = await inField('profile', () => pool.run('profile', ask, { priority: PRIORITY, signal }));
  return inSettings(() => inOwnProfile(settings, own.profile, into));
}

type Of<K extends Job['kind']> = Extract<Job, { kind: K }>;
type Perform<K extends Job['kind']> = (job: Of<K>, how: Performing) => Promise<Made>;

const render: Perform<'render'> = async (job, how) => {
  const { sourceOf } = await openLook(job, how);
  const given = await readImage(job.image);
  const image = { key: unique(), file: () => Promise.resolve(given) };
  const settings = await settingsFor(job, how);
  return inField('image', () => renderFile(how.pool, image, sourceOf, settings, how.signal));
};

const document: Perform<'document'> = async ({ document: sent, picture, ...job }, how) => {
  const { pool, signal, fileBytes } = how;
  const options = { priority: PRIORITY, signal };
  const work = await inField('document', async () => {
    const file = await read(sent);
    if (!isBundle(new Uint8Array(await file.slice(0, 4).arrayBuffer())))
      throw new Problem(
        'field',
        'Send the document as a bundle: a .kromba with its pictures in it.',
        'document'
      );
    const bundle = await pool.runApart('unpack', { file, most: 2 * fileBytes }, { signal });
    if (!bundle.document.pictures.some(({ name }) => name === picture)) {
      const names = bundle.document.pictures.map(({ name }) => `“${name}”`).join(', ');
      throw new Problem('field', `The document has no picture “${picture}”: it has ${names}.`, 'picture');
    }
    const openTable = async (table: Blob): Promise<Table> =>
      (await pool.run('table', { file: table }, options)).table;
    const missing = (name: string): Promise<Blob> =>
      Promise.reject(new FileError(`The file “${name}” is missing.`));
    return workOf(bundle.document, picture, bundle.files, missing, { unique: unique(), open: openTable });
  });
  const settings = await settingsFor(job, how);
  return inField('document', () => renderWork(pool, work, settings, signal));
};

/** The frame that is being looked at, and lets go of it. */
async function withFrame<T>(
  { pool, signal }: Performing,
  image: SentFile,
  work: (key: string, frame: Frame, notices: readonly string[]) => Promise<T>
): Promise<T> {
  const key = unique();
  const file = await readImage(image);
  try {
    const { frame, notices } = await inField('image', () => openFor(pool, key, file, signal, true));
    return await work(key, frame, notices);
  } finally {
    pool.forget(key);
  }
}

const bake: Perform<'bake'> = async (job, how) => {
  const { pool, signal } = how;
  const { look, sourceOf } = await openLook(job, how);
  const title = job.title ?? look.name;
  const [low, high] = job.domain;
  const baking = { title, size: job.size, low, high, curves: !job.plain };
  const baked = async (key: string, frame: Frame): Promise<Made> => {
    const options = { priority: PRIORITY, signal };
    const { baked: made } = await pool.run('bake', { ...sourceOf(key, frame), baking }, options);
    const { bytes } = await pool.run('writeTable', { table: made.table, as: 'cube' }, options);
    const left = made.steps.filter(({ why }) => why.length > 0);
    const notices = left.map(({ title: name, why }) => `“${name}” is left out: ${why.join('; ')}.`);
    return { file: new Blob([unshared(bytes)]), notices };
  };
  if (job.image)
    return withFrame(how, job.image, async (key, frame, notices) => {
      const made = await baked(key, frame);
      return { ...made, notices: [...notices, ...made.notices] };
    });
  const asks = titleOfAsking(look.steps);
  if (asks !== null)
    throw new Problem('field', `“${asks}” is solved from a picture: send one as “image”.`, 'image');
  const key = unique();
  const frame = greyPixel();
  pool.register(key, frame);
  try {
    return await baked(key, frame);
  } finally {
    pool.forget(key);
  }
};

/** Every channel at a pixel. */
async function readAt(
  { pool, signal }: Performing,
  head: SourceHead,
  { encoding }: Frame,
  [x, y]: readonly [number, number]
): Promise<object> {
  const ask = { head, steps: [], pins: [], places: ['head' as const], spots: [{ x, y, size: 1 }] };
  const { values } = await pool.run('read', ask, { priority: PRIORITY, signal });
  return { x, y, ...channelsAt(values[0][0] ?? [Number.NaN, Number.NaN, Number.NaN], encoding) };
}

const measure: Perform<'measure'> = ({ image, at }, how) =>
  withFrame(how, image, async (key, frame, notices) => {
    const { pool, signal } = how;
    const options = { priority: PRIORITY, signal };
    const head = headOf(key, frame.encoding);
    const { width, height, sampleType, missing } = frame;
    if (at && (at[0] >= width || at[1] >= height))
      throw new Problem(
        'field',
        `The picture is ${width}×${height}, so x goes to ${width - 1} and y to ${height - 1}.`,
        'at'
      );
    const planes = await statisticsInParts(pool, head, frame, options);
    const told = { width, height, sampleType, missing, notices, planes };
    const values = at && (await readAt(how, head, frame, at));
    const text = JSON.stringify({ ...told, ...(values && { at: values }) });
    return { file: new Blob([text]), notices: [] };
  });

const PERFORM: { readonly [K in Job['kind']]: Perform<K> } = { render, document, bake, measure };

/** Does a piece of work. @throws Problem; the signal's reason; what else went wrong */
export const perform = (job: Job, how: Performing): Promise<Made> =>
  (PERFORM[job.kind] as Perform<Job['kind']>)(job, how);
