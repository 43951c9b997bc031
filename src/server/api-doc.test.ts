import { execFile, spawnSync } from 'node:child_process';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { unzipSync } from 'fflate';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readDocument } from '../core/document';
import { packBundle } from '../core/files/bundle';
import { limitsIn, LIMIT_NAMES } from './limits';
import { PROBLEMS } from './problem';
import { PIXELS, png, SWAP, swapped, testServer, type TestServer } from './testing';

const run = promisify(execFile);
const hasCurl = spawnSync('curl', ['--version']).status === 0;

let page = '';
let folder = '';
let here: TestServer;
const made = (name: string): Promise<Buffer> => readFile(join(folder, name));
const json = async (name: string): Promise<Record<string, unknown>> =>
  JSON.parse((await made(name)).toString()) as Record<string, unknown>;

beforeAll(async () => {
  page = await readFile(new URL('../../docs/api.md', import.meta.url), 'utf8');
  folder = await mkdtemp(join(tmpdir(), 'kromba-test-'));
  here = await testServer();
  const tile = new Uint8Array(await png());
  await writeFile(join(folder, 'look.json'), SWAP);
  for (const name of ['old-print.jpg', 'woven-cloth.jpg']) await writeFile(join(folder, name), tile);
  const document = readDocument(
    JSON.stringify({
      ...{ kromba: 1, kind: 'document', name: 'Cloth' },
      frames: [{ id: 'f1', name: 'cloth', file: 'cloth.png' }],
      pictures: [{ id: 'p1', name: 'Cloth', head: { kind: 'frame', frame: 'f1' } }]
    })
  );
  const bundle = await packBundle({ document, files: new Map([['f1', new Blob([tile])]]) });
  await writeFile(join(folder, 'cloth.kromba'), new Uint8Array(await bundle.arrayBuffer()));
});
afterAll(async () => {
  await here.close();
  await rm(folder, { recursive: true, force: true });
});

// Without curl, of Debian, its lines are not run.
describe.skipIf(!hasCurl)('the lines of the page about the server', () => {
  it('do what it says', async () => {
    const blocks = [...page.matchAll(/```sh\n([\s\S]*?)```/g)].map(([, block]) => block);
    expect(blocks.length).toBeGreaterThan(5);
    for (const block of blocks) {
      await run('bash', ['-ec', block], { cwd: folder, env: { ...process.env, KROMBA: here.address } });
      for (const [, name] of block.matchAll(/-o (\S+)/g))
        expect((await made(name)).length, name).toBeGreaterThan(0);
    }
    const print = sharp(await made('old-print.png'));
    expect((await print.metadata()).depth).toBe('ushort');
    expect(await print.raw().toBuffer()).toEqual(Buffer.from(swapped(PIXELS)));
    expect(Object.keys(unzipSync(new Uint8Array(await made('pictures.zip')))).sort()).toEqual([
      '1-old-print.webp',
      '2-woven-cloth.webp'
    ]);
    expect(
      await sharp(await made('cloth.tif'), { ignoreIcc: true })
        .raw()
        .toBuffer()
    ).toEqual(Buffer.from(PIXELS));
    expect((await made('look.cube')).toString()).toContain('LUT_3D_SIZE 17');
    expect(await json('measured.json')).toMatchObject({ width: 40, height: 30, at: { x: 10, y: 20 } });
    expect(await json('health.json')).toMatchObject({ ok: true });
    expect(await json('problem.json')).toMatchObject({ error: { code: 'field', field: 'look' } });
  });
});

describe('the page about the server', () => {
  const rows = (): string[][] =>
    page
      .split('\n')
      .filter((line) => line.startsWith('| '))
      .map((line) => line.split('|').map((cell) => cell.trim()));

  it('tells every problem under its status', () => {
    const told = rows().flatMap(([, status, codes]) =>
      /^\d+$/.test(status) ? codes.split(', ').map((code) => [code.replace(/`/g, ''), Number(status)]) : []
    );
    expect(Object.fromEntries(told)).toEqual(
      Object.fromEntries(Object.entries(PROBLEMS).map(([code, [status]]) => [code, status]))
    );
  });

  it('tells every limit, and what it is where nothing is said', () => {
    const told = Object.fromEntries(
      rows()
        .filter(([, name, , usual]) => name.startsWith('`KROMBA_') && /^\d+$/.test(usual))
        .map(([, name, , usual]) => [name.replace(/`/g, ''), usual])
    );
    expect(Object.keys(told).sort()).toEqual([...LIMIT_NAMES].sort());
    expect(limitsIn(told)).toEqual(limitsIn({}));
  });
});
