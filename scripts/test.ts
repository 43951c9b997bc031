import { spawnSync } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync } from 'node:fs';
import { buildIfChanged } from './build';
import { ensureChromium } from './chromium';
import { command } from './command';
import { ensurePartners } from './partners';
import { ensureSamples } from './samples';

interface Counted {
  readonly passed: number;
  readonly failed: number;
}

const UNIT = '.cache/unit.json';
const BROWSER = '.cache/e2e.json';

/** Runs a package's program with Node, its output to be seen. */
function run(title: string, args: readonly string[]): boolean {
  process.stdout.write(`\n== ${title}\n`);
  return spawnSync(process.execPath, args, { stdio: ['ignore', 'inherit', 'inherit'] }).status === 0;
}

/** A run that counts as one. */
const one = (title: string, args: readonly string[]): Counted => {
  const passed = run(title, args);
  return { passed: passed ? 1 : 0, failed: passed ? 0 : 1 };
};

/** A run that counts its tests itself, in a file; one that leaves no count, or fails without one, failed. */
function counted(
  title: string,
  args: readonly string[],
  file: string,
  read: (json: never) => Counted
): Counted {
  rmSync(file, { force: true });
  const passed = run(title, args);
  try {
    const count = read(JSON.parse(readFileSync(file, 'utf8')) as never);
    return passed || count.failed > 0 ? count : { ...count, failed: 1 };
  } catch {
    return { passed: 0, failed: 1 };
  }
}

await command(async () => {
  mkdirSync('.cache', { recursive: true });
  ensureChromium();
  await ensureSamples();
  const unchecked = ensurePartners();
  const results: Counted[] = [
    one('Lint', ['node_modules/eslint/bin/eslint.js', '.']),
    one('Circles of imports', [
      'node_modules/dependency-cruiser/bin/dependency-cruise.mjs',
      'src',
      '--config',
      '.dependency-cruiser.cjs'
    ]),
    one('Format', ['node_modules/prettier/bin/prettier.cjs', '--check', '.', '--log-level', 'warn']),
    one('Types', ['node_modules/svelte-check/bin/svelte-check', '--fail-on-warnings', '--output', 'human']),
    counted(
      'Unit tests',
      [
        'node_modules/vitest/vitest.mjs',
        'run',
        '--reporter=default',
        '--reporter=json',
        `--outputFile.json=${UNIT}`
      ],
      UNIT,
      (json: { numPassedTests: number; numFailedTests: number }) => ({
        passed: json.numPassedTests,
        failed: json.numFailedTests
      })
    )
  ];
  process.stdout.write('\n== Build\n');
  buildIfChanged();
  results.push(
    counted(
      'Browser tests',
      ['node_modules/@playwright/test/cli.js', 'test'],
      BROWSER,
      (json: { stats: { expected: number; unexpected: number; flaky: number } }) => ({
        passed: json.stats.expected + json.stats.flaky,
        failed: json.stats.unexpected
      })
    )
  );
  const passed = results.reduce((sum, r) => sum + r.passed, 0);
  const failed = results.reduce((sum, r) => sum + r.failed, 0);
  if (unchecked.length > 0) process.stdout.write(`\n${unchecked.join('\n')}\n`);
  process.stdout.write(`\n${passed} passed, ${failed} failed\n`);
  if (failed > 0) process.exitCode = 1;
});
