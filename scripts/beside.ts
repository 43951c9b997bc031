import { dirname, join } from 'node:path';
import { readLook, type Look, type LookOn } from '../src/core/document';
import { about, lookWith, type FileNamed } from '../src/engine/work';
import { inputFile, readInput } from './command';

/** The files that lie in a file's folder. */
export const besideFile =
  (path: string): FileNamed =>
  (name) =>
    inputFile(join(dirname(path), name));

/** Reads a look from a file. @throws Error with the file's name */
export async function lookIn(path: string): Promise<Look> {
  const text = new TextDecoder().decode(await readInput(path));
  return about(path, () => readLook(text));
}

/** What puts a look on frames by their keys; files of tables lie beside the look's. @throws Error with the file's name */
export const lookOnFrames = (path: string, look: Look): Promise<LookOn> => lookWith(look, besideFile(path));
