import { dirname, join } from 'node:path';
import type { KrombaDocument, Look } from '../src/core/document';
import {
  documentOf,
  readLook,
  Resolver,
  titleOf,
  usedByStep,
  type PictureSource
} from '../src/core/document';
import { readTable } from '../src/core/files/table';
import type { Table } from '../src/core/lut/table';
import type { Frame } from '../src/core/raster/frame';
import { readInput } from './command';

/** Puts the file's name before what is wrong with it. */
export async function about<T>(file: string, work: () => T | Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    throw new Error(`${file}: ${(error as Error).message}`, { cause: error });
  }
}

/** The tables of a document, by id. @param file gives the file of one @throws Error naming the file that can't be read */
export async function tablesOf(
  { tables }: Pick<KrombaDocument, 'tables'>,
  file: (id: string, name: string) => Promise<Uint8Array>
): Promise<Map<string, Table>> {
  const opened = new Map<string, Table>();
  for (const { id, file: name } of tables) {
    const bytes = await file(id, name);
    opened.set(id, await about(name, () => readTable(bytes)));
  }
  return opened;
}

/** Reads a look from a file. @throws Error with the file's name */
export async function lookIn(path: string): Promise<Look> {
  const text = new TextDecoder().decode(await readInput(path));
  return about(path, () => readLook(text));
}

/** What puts a look on frames by their keys; files of tables lie beside the look's. @throws Error with the file's name */
export async function lookOn(
  path: string,
  look: Look
): Promise<(key: string, frame: Pick<Frame, 'encoding'>) => PictureSource> {
  const taker = look.steps.find((step) => usedByStep(step).some(({ used }) => 'picture' in used));
  if (taker)
    throw new Error(`${path}: “${titleOf(taker)}” takes from another picture, which a look does not hold.`);
  const made = await about(path, () => documentOf(look, { file: 'frame', encoding: 'coded' }));
  const tables = await tablesOf(made, (_, name) => readInput(join(dirname(path), name)));
  return (key, { encoding }) => {
    const document = documentOf(look, { file: 'frame', encoding });
    const files = { frame: key, ...Object.fromEntries(document.tables.map((t) => [t.id, t.file])) };
    return new Resolver(document, files, tables).whole(document.pictures[0]);
  };
}
