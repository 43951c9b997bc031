import { existsSync } from 'node:fs';
import { mkdir, realpath } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { basename, join, resolve } from 'node:path';
import pLimit from 'p-limit';
import type { PictureSource } from '../src/core/document';
import { namePattern, outputNames } from '../src/core/files/name-pattern';
import type { Frame } from '../src/core/raster/frame';
import type { Pool } from '../src/engine/pool';
import { renderFile, type RenderSettings } from '../src/engine/render-file';
import { inputFile, writeOutput } from './command';

export interface Many {
  readonly files: readonly string[];
  readonly folder: string;
  /** Of the look, for the names. */
  readonly look: string;
  readonly pattern: string;
  readonly extension: string;
  readonly settings: RenderSettings;
  /** Files that are there already are written anew. */
  readonly overwrite: boolean;
  sourceOf(key: string, frame: Frame): PictureSource;
}

/** What became of one file. */
export type Outcome =
  | { readonly file: string; readonly out: string; readonly ms: number; readonly notices: readonly string[] }
  | { readonly file: string; readonly problem: string };

/** The file that each is written to. @throws Error where two would be written to one */
export function outputsOf({ files, folder, look, pattern, extension }: Omit<Many, 'settings'>): string[] {
  const { error } = namePattern.safeParse(pattern);
  if (error) throw new Error(`--name ${pattern}: ${error.issues[0].message}.`);
  const clash = (before: string, file: string, output: string): string =>
    `${before} and ${file} would both be written to ${join(folder, output)}. Nothing was written: use {n} in --name, such as --name "{name}-{n}".`;
  return outputNames(files, { pattern, look, extension }, clash).map((name) => join(folder, name));
}

/**
 * Renders many files, as many at once as there are cores, and goes on where one fails.
 * @param told what became of each, as it is done
 * @returns whether all went well @throws Error where they can't be begun; the signal's reason
 */
export async function renderMany(
  pool: Pool,
  many: Many,
  told: (outcome: Outcome, done: number) => void,
  signal: AbortSignal
): Promise<boolean> {
  const outputs = outputsOf(many);
  await mkdir(many.folder, { recursive: true }).catch((error: NodeJS.ErrnoException) => {
    throw new Error(`The folder ${many.folder} can’t be made (${error.code}).`, { cause: error });
  });
  // A file may be reached by several names; one that is not there is told when it is read.
  const inputs = new Set(
    await Promise.all(many.files.map((file) => realpath(file).catch(() => resolve(file))))
  );
  const folder = await realpath(many.folder);
  const one = async (file: string, i: number): Promise<Outcome> => {
    const start = performance.now();
    const out = outputs[i];
    try {
      const real = join(folder, basename(out));
      if (inputs.has(await realpath(real).catch(() => real)))
        throw new Error(`${out} is one of the files that are read: name another folder.`);
      if (!many.overwrite && existsSync(out))
        throw new Error(`${out} is there already and stays as it is: with --overwrite it is written anew.`);
      const given = { key: `f${i}`, file: () => inputFile(file) };
      const { file: made, notices } = await renderFile(
        pool,
        given,
        (key, frame) => many.sourceOf(key, frame),
        many.settings,
        signal
      );
      await writeOutput(out, new Uint8Array(await made.arrayBuffer()));
      return { file, out, ms: Math.round(performance.now() - start), notices };
    } catch (error) {
      signal.throwIfAborted();
      return { file, problem: (error as Error).message };
    }
  };
  const limit = pLimit(availableParallelism());
  let [done, well] = [0, true];
  await Promise.all(
    many.files.map((file, i) =>
      limit(async () => {
        signal.throwIfAborted();
        const outcome = await one(file, i);
        well &&= !('problem' in outcome);
        told(outcome, ++done);
      })
    )
  );
  return well;
}
