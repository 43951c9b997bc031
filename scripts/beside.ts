import { dirname, join } from 'node:path';
import { lookOn, readLook, type KrombaDocument, type Look, type LookOn } from '../src/core/document';
import { readTable } from '../src/core/files/table';
import type { Table } from '../src/core/lut/table';
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
export async function lookOnFrames(path: string, look: Look): Promise<LookOn> {
  const made = { tables: look.tables ?? [] };
  const tables = await tablesOf(made, (_, name) => readInput(join(dirname(path), name)));
  return about(path, () => lookOn(look, tables));
}
