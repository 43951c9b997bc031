import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { samples } from '../demo/list';
import { fileFormats } from '../src/core/files';

const FOLDER = join('demo', 'samples');

/**
 * Makes sure that every sample image is there: they come with the sources, and one that is missing (or that a
 * checkout left as something else) is rendered anew, which takes some minutes.
 */
export function ensureSamples(): void {
  for (const { id, title, files, format } of samples) {
    const reader = fileFormats.find((f) => f.id === format)!;
    const paths = files.map((file) => join(FOLDER, file));
    if (paths.every((path) => existsSync(path) && reader.matches(readFileSync(path)))) continue;
    process.stderr.write(`Rendering the sample “${title}”, which takes some minutes …\n`);
    mkdirSync(FOLDER, { recursive: true });
    const { status } = spawnSync(process.execPath, ['--import', 'tsx', 'demo/make-sample.ts', id, FOLDER], {
      stdio: ['ignore', 2, 2]
    });
    if (status !== 0) throw new Error(`The sample “${title}” could not be rendered. See above for why.`);
  }
}
