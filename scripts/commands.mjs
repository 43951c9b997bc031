// The headless commands as programs that Node runs as they are: with TypeScript compiled anew by every thread, the smallest
// picture would take seconds.
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, renameSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { hashOf } from './content.mjs';

const SOURCES = ['src/core', 'src/engine', 'scripts', 'package-lock.json', 'vite.commands.config.ts'];

/** The commands that are bundled. */
export const commands = ['render', 'measure', 'bake'];

/** Whether another process is still building this; who was broken off has left it. @param {string} name */
function beingMade(name) {
  const [, maker] = /^making-(\d+)$/.exec(name) ?? [];
  if (!maker) return false;
  try {
    process.kill(Number(maker), 0);
    return true;
  } catch {
    return false;
  }
}

/**
 * The folder with the programs of the present sources, which are built where they are not there. It is named after their
 * content and appears whole, so that commands that begin at once do not disturb each other.
 * @param {string} root @throws Error where the build fails
 */
export function builtCommands(root) {
  const all = join(root, '.cache', 'commands');
  const hash = hashOf(SOURCES, root);
  const folder = join(all, hash);
  if (existsSync(folder)) return folder;
  process.stderr.write('Building the commands …\n');
  mkdirSync(all, { recursive: true });
  const older = readdirSync(all);
  const making = join(all, `making-${process.pid}`);
  const vite = join(root, 'node_modules', 'vite', 'bin', 'vite.js');
  const config = join(root, 'vite.commands.config.ts');
  const { status } = spawnSync(
    process.execPath,
    [vite, 'build', root, '--config', config, '--outDir', making, '--logLevel', 'warn'],
    { cwd: root, stdio: ['ignore', 2, 2] }
  );
  if (status !== 0) {
    rmSync(making, { recursive: true, force: true });
    throw new Error('The commands could not be built. See above for why.');
  }
  try {
    renameSync(making, folder);
  } catch {
    // Another was as quick.
    rmSync(making, { recursive: true, force: true });
  }
  for (const name of older) if (!beingMade(name)) rmSync(join(all, name), { recursive: true, force: true });
  return folder;
}
