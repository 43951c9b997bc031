import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { hashOf } from './content.mjs';

const STAMP = join('.cache', 'build-of');
const SOURCES = ['src', 'static', 'demo/list.ts', 'package-lock.json', 'svelte.config.js', 'vite.config.ts'];

/** Builds the application where its sources have changed since the last build. @throws Error when it fails */
export function buildIfChanged(): void {
  const hash = hashOf(SOURCES);
  if (existsSync('build/handler.js') && existsSync(STAMP) && readFileSync(STAMP, 'utf8') === hash) return;
  process.stderr.write('Building …\n');
  const { status } = spawnSync(
    process.execPath,
    ['node_modules/vite/bin/vite.js', 'build', '--logLevel', 'warn'],
    {
      stdio: ['ignore', 2, 2]
    }
  );
  if (status !== 0) throw new Error('The build failed. See above for why.');
  mkdirSync('.cache', { recursive: true });
  writeFileSync(STAMP, hash);
}
