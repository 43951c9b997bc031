import { mkdirSync, readFileSync, rmSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import pLimit from 'p-limit';
import { buildIfChanged } from './build';
import { ensureForTests } from './chromium';
import { command } from './command';
import { ensurePartners } from './partners';
import { ensureSamples } from './samples';
import { spawned, spawnedBeside } from './spawned';

interface Counted {
  readonly passed: number;
  readonly failed: number;
}

const UNIT = '.cache/unit.json';
const BROWSER = '.cache/e2e.json';

const titled = (title: string, said = ''): void => void process.stdout.write(`\n== ${title}\n${said}`);

/** A run that counts as one. */
async function one(title: string, args: readonly string[]): Promise<Counted> {
  const { passed, said } = await spawnedBeside(process.execPath, args);
  titled(title, said);
  return { passed: passed ? 1 : 0, failed: passed ? 0 : 1 };
}

/** A run that counts its tests itself, in a file; one that leaves no count, or fails without one, failed. */
async function counted(
  title: string,
  args: readonly string[],
  file: string,
  read: (json: never) => Counted
): Promise<Counted> {
  rmSync(file, { force: true });
  titled(title);
  const passed = await spawned(process.execPath, args, ['ignore', 'inherit', 'inherit']);
  try {
    const count = read(JSON.parse(readFileSync(file, 'utf8')) as never);
    return passed || count.failed > 0 ? count : { ...count, failed: 1 };
  } catch {
    return { passed: 0, failed: 1 };
  }
}

/** What is checked of the sources, the slowest first. */
const CHECKS: readonly (readonly [title: string, ...args: string[]])[] = [
  ['Types', 'node_modules/svelte-check/bin/svelte-check', '--fail-on-warnings', '--output', 'human'],
  ['Lint', 'node_modules/eslint/bin/eslint.js', '.'],
  ['Format', 'node_modules/prettier/bin/prettier.cjs', '--check', '.', '--log-level', 'warn'],
  [
    'Circles of imports',
    'node_modules/dependency-cruiser/bin/dependency-cruise.mjs',
    'src',
    '--config',
    '.dependency-cruiser.cjs'
  ]
];

/** What comes from Debian, one after the other: its packages are put there by one at a time. */
async function ensureFromDebian(): Promise<string[]> {
  await ensureForTests();
  return ensurePartners();
}

await command(async () => {
  mkdirSync('.cache', { recursive: true });
  const limit = pLimit(availableParallelism());
  const [unchecked, checks] = await Promise.all([
    ensureFromDebian(),
    Promise.all(CHECKS.map(([title, ...args]) => limit(() => one(title, args)))),
    ensureSamples()
  ]);
  const results = [
    ...checks,
    await counted(
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
  titled('Build');
  buildIfChanged();
  results.push(
    await counted(
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
