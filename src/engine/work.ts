import {
  lookOn,
  pictureNamed,
  readFrameKey,
  Resolver,
  type KrombaDocument,
  type Look,
  type LookOn,
  type PictureSource
} from '../core/document';
import { contentHash } from '../core/files/content-hash';
import { readTable } from '../core/files/table';
import type { Table } from '../core/lut/table';
import type { Frame } from '../core/raster/frame';
import type { Pool } from './pool';
import { openFor, renderPicture, type Rendered, type RenderSettings } from './render-file';

/** Opens a file of a table. */
type OpenTable = (file: Blob) => Promise<Table>;
const openHere: OpenTable = async (file) => readTable(new Uint8Array(await file.arrayBuffer()));

/** A file by the name that a document or a look calls it by. @throws Error where it is not there */
export type FileNamed = (name: string) => Promise<Blob>;

/** A picture that is to be made, and what its frames are read from. */
export interface Work {
  /** The picture, of frames that are open. */
  readonly source: PictureSource;
  /** The files of its frames, by their keys, and what these are called. */
  readonly images: ReadonlyMap<string, { readonly name: string; readonly file: Blob }>;
}

/** Puts the file's name before what is wrong with it. */
export async function about<T>(file: string, work: () => T | Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    throw new Error(`${file}: ${(error as Error).message}`, { cause: error });
  }
}

interface Tables {
  /** By their ids. */
  readonly opened: ReadonlyMap<string, Table>;
  readonly hashes: Readonly<Record<string, string>>;
}

/** @throws Error naming the file that can't be read */
async function tablesOf(
  tables: readonly { readonly id: string; readonly file: string }[],
  file: (id: string, name: string) => Promise<Blob>,
  open: OpenTable
): Promise<Tables> {
  const opened = new Map<string, Table>();
  const hashes: Record<string, string> = {};
  for (const { id, file: name } of tables) {
    const given = await file(id, name);
    hashes[id] = await contentHash(given);
    opened.set(id, await about(name, () => open(given)));
  }
  return { opened, hashes };
}

/** What puts a look on frames by their keys. @throws Error naming the table that can't be read */
export async function lookWith(look: Look, file: FileNamed, open = openHere): Promise<LookOn> {
  const { opened, hashes } = await tablesOf(look.tables ?? [], (_, name) => file(name), open);
  return lookOn(look, opened, hashes);
}

/**
 * A picture of a document.
 * @param files of its frames and tables, by their ids; the others are asked for by name
 * @param options `unique` is put before the keys of its frames, so that those of documents that are open at once are told apart; `open` opens tables
 * @throws Error where there is no picture of the name, or a file is not there
 */
export async function workOf(
  document: KrombaDocument,
  picture: string,
  files: ReadonlyMap<string, Blob>,
  file: FileNamed,
  { unique = '', open = openHere } = {}
): Promise<Work> {
  const wanted = pictureNamed(document, picture);
  const fileOf = async (id: string, name: string): Promise<Blob> => files.get(id) ?? (await file(name));
  const { opened, hashes } = await tablesOf(document.tables, fileOf, open);
  // By their places: a name may hold signs that a key has for itself.
  const firstOf = (name: string): number => document.frames.findIndex((frame) => frame.file === name);
  const names = Object.fromEntries(document.frames.map(({ id, file: name }) => [id, unique + firstOf(name)]));
  const resolver = new Resolver(document, { ...names, ...hashes }, opened);
  const images = new Map<string, { name: string; file: Blob }>();
  for (const key of resolver.framesOf(wanted)) {
    const { id, file: name } = document.frames[Number(readFrameKey(key).file.slice(unique.length))];
    images.set(key, { name, file: await fileOf(id, name) });
  }
  return { source: resolver.whole(wanted), images };
}

/** Makes it; its frames are open no longer than that. @throws Error with the file's name; the signal's reason */
export async function renderWork(
  pool: Pool,
  { source, images }: Work,
  settings: RenderSettings,
  signal?: AbortSignal
): Promise<Rendered> {
  const frames = new Map<string, Frame>();
  const told: string[] = [];
  try {
    for (const [key, { name, file }] of images) {
      const { frame, notices } = await about(name, () => openFor(pool, key, file, signal)).catch(
        (error: Error) => {
          signal?.throwIfAborted();
          throw error;
        }
      );
      told.push(...notices.map((notice) => `${name}: ${notice}`));
      frames.set(key, frame);
    }
    const made = await renderPicture(pool, source, (key) => frames.get(key)!, settings, signal);
    return { ...made, notices: [...told, ...made.notices] };
  } finally {
    for (const key of frames.keys()) pool.forget(key);
  }
}
