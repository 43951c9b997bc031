import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { isMade, samples } from '../demo/list';
import { fileFormats } from '../src/core/files';
import { spawned } from './spawned';

const FOLDER = join('demo', 'samples');

/** Where the frames of the sky lie once they are made; they do not come with the sources. */
const FRAMES = join('demo', 'frames');
const MAKERS = join('demo', 'sky');

/** Makes the frames of the sky from their seeds, where they are not there as their makers have them now. */
async function ensureFrames(): Promise<void> {
  const makers = [
    ...readdirSync(MAKERS)
      .filter((name) => !name.endsWith('.test.ts'))
      .sort()
      .map((name) => join(MAKERS, name)),
    join('demo', 'make-frames.ts')
  ];
  const hash = createHash('sha256');
  for (const path of makers) hash.update(readFileSync(path));
  const made = hash.digest('hex');
  const stamp = join(FRAMES, 'made');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === made) return;
  const wanted = samples.filter(({ format }) => format === 'fits');
  process.stderr.write(`Making the frames of ${wanted.map(({ title }) => `“${title}”`).join(' and ')} …\n`);
  await Promise.all(wanted.map(({ id, title }) => make('demo/make-frames.ts', id, FRAMES, title)));
  writeFileSync(stamp, made);
}

async function make(script: string, id: string, folder: string, title: string): Promise<void> {
  mkdirSync(folder, { recursive: true });
  const args = ['--import', 'tsx', script, id, folder];
  if (!(await spawned(process.execPath, args, ['ignore', 2, 2])))
    throw new Error(`The sample “${title}” could not be made. See above for why.`);
}

/**
 * Makes sure that every sample image is there: they come with the sources, and one that is missing (or that a
 * checkout left as something else) is rendered anew, which takes some minutes.
 */
export async function ensureSamples(): Promise<void> {
  for (const { id, title, files, format } of samples) {
    if (isMade({ format })) continue;
    const reader = fileFormats.find((f) => f.id === format)!;
    const paths = files.map((file) => join(FOLDER, file));
    if (paths.every((path) => existsSync(path) && reader.matches(readFileSync(path)))) continue;
    process.stderr.write(`Rendering the sample “${title}”, which takes some minutes …\n`);
    await make('demo/make-sample.ts', id, FOLDER, title);
  }
  await ensureFrames();
}
