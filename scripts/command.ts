import { readFile, rename, rm, writeFile } from 'node:fs/promises';

/**
 * Runs a headless command: 0 when it is done, 1 with a sentence on standard error when it can't be.
 * A stack trace is nothing for the person at the other end.
 */
export async function command(run: () => Promise<void>): Promise<void> {
  try {
    await run();
  } catch (error) {
    process.stderr.write(`${(error as Error).message}\n`);
    process.exitCode = 1;
  }
}

/** Reads a file, with a sentence for the usual mishaps. */
export async function readInput(path: string): Promise<Uint8Array> {
  try {
    return await readFile(path);
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    if (code === 'ENOENT') throw new Error(`There is no file ${path}.`, { cause: error });
    if (code === 'EISDIR') throw new Error(`${path} is a folder; name a file.`, { cause: error });
    throw new Error(`${path} can’t be read (${code}).`, { cause: error });
  }
}

/** The same as it is handed to workers. */
export const inputFile = async (path: string): Promise<Blob> =>
  new Blob([new Uint8Array(await readInput(path))]);

/** Writes a file whole or not at all, with a sentence for the usual mishaps. */
export async function writeOutput(path: string, bytes: Uint8Array): Promise<void> {
  const partial = `${path}.partial`;
  try {
    await writeFile(partial, bytes);
    await rename(partial, path);
  } catch (error) {
    await rm(partial, { force: true });
    const { code } = error as NodeJS.ErrnoException;
    const reason = {
      ENOENT: 'its folder does not exist',
      ENOSPC: 'the disk is full',
      EACCES: 'access is denied'
    }[code ?? ''];
    throw new Error(`${path} can’t be written: ${reason ?? code}.`, { cause: error });
  }
}
