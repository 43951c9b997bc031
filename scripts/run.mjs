// Does what a command needs on a fresh machine (packages, generated types, its program), then runs it.
// Uses nothing but Node itself until the packages are there.
import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { builtCommands, commands } from './commands.mjs';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const [name, ...rest] = process.argv.slice(2);

/** @param {string} command @param {string[]} args */
function must(command, args) {
  // Standard output belongs to the command itself.
  const { status } = spawnSync(command, args, { cwd: root, stdio: ['ignore', 2, 2] });
  if (status !== 0) {
    process.stderr.write(`“${command} ${args.join(' ')}” failed. See above for why.\n`);
    process.exit(1);
  }
}

const stamp = join(root, 'node_modules', '.kromba-installed');
const lock = createHash('sha256')
  .update(readFileSync(join(root, 'package-lock.json')))
  .digest('hex');
if (!existsSync(stamp) || readFileSync(stamp, 'utf8') !== lock) {
  process.stderr.write('Installing packages …\n');
  // Not `npm ci`: it refuses a lock file in which optional packages of other platforms are missing.
  must('npm', ['install', '--no-save', '--no-audit', '--no-fund']);
  writeFileSync(stamp, lock);
}
if (!existsSync(join(root, '.svelte-kit', 'tsconfig.json'))) {
  mkdirSync(join(root, '.svelte-kit'), { recursive: true });
  must(process.execPath, [join(root, 'node_modules', '@sveltejs', 'kit', 'svelte-kit.js'), 'sync']);
}
/** @returns what Node is called with for the command */
function program() {
  if (!commands.includes(name)) return ['--import', 'tsx', join(root, 'scripts', `${name}.ts`)];
  try {
    return [join(builtCommands(root), `${name}.js`)];
  } catch (error) {
    process.stderr.write(`${/** @type {Error} */ (error).message}\n`);
    process.exit(1);
  }
}
const running = spawn(process.execPath, [...program(), ...rest], { stdio: 'inherit' });
// What is asked of this process is the command's to answer; a terminal asks both itself. Nothing is done for a terminal that is closed:
// who is told to outlive that (nohup) does.
process.on('SIGINT', () => {});
process.on('SIGTERM', () => running.kill('SIGTERM'));
running.on('exit', (status, signal) => process.exit(signal ? 1 : (status ?? 1)));
