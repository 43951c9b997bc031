// The headless commands as programs that Node runs as they are: with TypeScript compiled anew by every thread, the smallest
// picture would take seconds.
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { hashOf } from './content.mjs';

const SOURCES = [
  'src/core',
  'src/engine',
  'src/server',
  'scripts',
  'package-lock.json',
  'vite.commands.config.ts'
];

/** The commands that are bundled. */
export const commands = ['render', 'measure', 'bake', 'serve', 'worker'];

/** @param {number} pid */
function runs(pid) {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return /** @type {NodeJS.ErrnoException} */ (error).code === 'EPERM';
  }
}

/** The process that a name is of, if it runs: who was broken off has left it. @param {string} name @param {string} mark */
const isOfRunning = (name, mark) => name.startsWith(mark) && runs(Number(name.slice(mark.length)));
const MAKING = 'making-';
const USED = 'used-by-';

/** Whether a process still builds a folder, or runs a program that lies there. @param {string} all @param {string} name */
function isNeeded(all, name) {
  if (isOfRunning(name, MAKING)) return true;
  const folder = join(all, name);
  return existsSync(folder) && readdirSync(folder).some((file) => isOfRunning(file, USED));
}

/** Keeps a folder as long as this process runs: its threads may begin late. @param {string} folder */
function keep(folder) {
  const mark = join(folder, `${USED}${process.pid}`);
  try {
    writeFileSync(mark, '');
    process.once('exit', () => rmSync(mark, { force: true }));
  } catch {
    // Where nothing can be written, nothing is built anew either.
  }
  return folder;
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
  if (existsSync(folder)) return keep(folder);
  process.stderr.write('Building the commands …\n');
  mkdirSync(all, { recursive: true });
  const older = readdirSync(all);
  const making = join(all, `${MAKING}${process.pid}`);
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
  for (const name of older)
    if (!isNeeded(all, name)) rmSync(join(all, name), { recursive: true, force: true });
  return keep(folder);
}
