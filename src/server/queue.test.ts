import { execFileSync, spawn, type ChildProcess } from 'node:child_process';
import { existsSync } from 'node:fs';
import { mkdtemp, readdir, rm } from 'node:fs/promises';
import { connect, createServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { setTimeout as wait } from 'node:timers/promises';
import { fileURLToPath } from 'node:url';
import { Redis } from 'ioredis';
import sharp from 'sharp';
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { builtCommands } from '../../scripts/commands.mjs';
import { randomStream } from '../core/random';
import { limitsIn } from './limits';
import { QueueRunner } from './queue';
import { formOf, PIXELS, png, SWAP, testServer, type Part, type TestServer } from './testing';

const REDIS = '/usr/bin/redis-server';
const ROOT = fileURLToPath(new URL('../..', import.meta.url));
const FILES = 100;
/** A worker that gives no sign for so long has its work taken. */
const SIGN_SECONDS = 2;

const enlarged = (bytes: Buffer): Promise<Buffer> =>
  sharp(bytes).resize(3000, 2000, { kernel: 'nearest' }).png().toBuffer();

/** Until a worker has taken the first piece of work for so many a time. */
async function isTaken(url: string, times: number): Promise<void> {
  const redis = new Redis(url);
  while (Number(await redis.hget('bull:kromba:1', 'ats')) < times) await wait(20);
  redis.disconnect();
}

const freePort = (): Promise<number> =>
  new Promise((done) => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const { port } = server.address() as AddressInfo;
      server.close(() => done(port));
    });
  });

/** Until somebody answers there. */
async function answers(port: number): Promise<void> {
  for (;;) {
    const there = await new Promise((done) =>
      connect(port, '127.0.0.1')
        .on('connect', () => done(true))
        .on('error', () => done(false))
    );
    if (there) return;
    await wait(50);
  }
}

// Without Debian's redis-server nothing of this is tried.
describe.skipIf(!existsSync(REDIS))('more than one machine', () => {
  let redis: ChildProcess;
  let url = '';
  let folder = '';
  let here: TestServer;
  let workers: ChildProcess[] = [];
  let built = '';

  beforeAll(() => {
    built = builtCommands(ROOT);
  });
  beforeEach(async () => {
    const port = await freePort();
    redis = spawn(
      REDIS,
      ['--port', String(port), '--bind', '127.0.0.1', '--save', '', '--appendonly', 'no'],
      { stdio: 'ignore' }
    );
    await answers(port);
    url = `redis://127.0.0.1:${port}`;
    folder = await mkdtemp(join(tmpdir(), 'kromba-test-store-'));
  });
  afterEach(async () => {
    for (const worker of workers) worker.kill('SIGKILL');
    workers = [];
    await here?.close();
    redis.kill('SIGKILL');
    await rm(folder, { recursive: true, force: true });
  });

  const serve = async (filesByHttp: boolean): Promise<void> => {
    const runner = await QueueRunner.begun({ url, signSeconds: SIGN_SECONDS }, limitsIn({}));
    here = await testServer(
      { requests: 2 * FILES },
      {
        runner,
        filesByHttp,
        folder: join(folder, `kromba-server-test-1-${filesByHttp ? 'a' : 'b'}`),
        token: 'wheel'
      }
    );
  };
  async function worker(env: Record<string, string>): Promise<ChildProcess> {
    const running = spawn(process.execPath, [join(built, 'worker.js')], {
      cwd: ROOT,
      env: { ...process.env, KROMBA_QUEUE: url, KROMBA_SIGN_SECONDS: String(SIGN_SECONDS), ...env },
      stdio: ['ignore', 'pipe', 'ignore']
    });
    workers.push(running);
    for await (const line of createInterface(running.stdout!))
      if (line.includes('takes work')) return running;
    throw new Error('It ended before it was there.');
  }
  const ask = (parts: readonly Part[]): Promise<Response> =>
    fetch(`${here.address}/api/render`, {
      method: 'POST',
      body: formOf(parts),
      headers: { authorization: 'Bearer wheel' }
    });
  const bytes = async (answer: Response): Promise<Buffer> => Buffer.from(await answer.arrayBuffer());

  it.each([
    ['a folder that all see', false],
    ['HTTP', true]
  ])(
    `renders ${FILES} files by way of %s, each once, while one of two workers is killed`,
    async (_, byHttp) => {
      await serve(byHttp);
      const env: Record<string, string> = byHttp
        ? { KROMBA_SERVER: here.address, KROMBA_TOKEN: 'wheel' }
        : { KROMBA_STORE: folder };
      const [first] = await Promise.all([worker(env), worker(env)]);
      const random = randomStream(5);
      const pictures = await Promise.all(
        Array.from({ length: FILES }, () => png(PIXELS.map(() => random() * 256)))
      );
      const parts = (i: number): Part[] => [
        ['look', SWAP],
        ['image', { name: `${i}.png`, bytes: pictures[i] }]
      ];
      let done = 0;
      const asked = pictures.map(async (__, i) => {
        // As many at once as requests may be under way.
        await wait(i * 20);
        const answer = await ask(parts(i));
        expect(
          answer.status,
          await answer
            .clone()
            .text()
            .catch(() => '')
        ).toBe(200);
        if (++done === 20) first.kill('SIGKILL');
        return bytes(answer);
      });
      const made = await Promise.all(asked);
      expect(first.killed).toBe(true);
      // Against those that are made here.
      const local = await testServer();
      try {
        for (const [i, one] of made.entries()) {
          const answer = await fetch(`${local.address}/api/render`, {
            method: 'POST',
            body: formOf(parts(i))
          });
          expect(one.equals(await bytes(answer)), String(i)).toBe(true);
        }
      } finally {
        await local.close();
      }
      for (let i = 0; i < 50 && (await here.left()).length > 0; i++) await wait(20);
      expect(await here.left()).toEqual([]);
    }
  );

  it('tells problems as a server alone does, and serves files to nobody without the token', async () => {
    await serve(true);
    const env = { KROMBA_SERVER: here.address, KROMBA_TOKEN: 'wheel' };
    await worker(env);
    const answer = await ask([
      ['look', SWAP],
      ['image', { name: 'a.png', bytes: 'only text' }]
    ]);
    expect(answer.status).toBe(415);
    expect(await answer.json()).toEqual({
      error: { code: 'type', field: 'image', message: '“a.png” is no picture that Kromba reads.' }
    });
    const place = `${here.address}/api/work/kromba-server-test-1-a/request-00/0`;
    expect((await fetch(place)).status).toBe(401);
    const headers = { authorization: 'Bearer wheel' };
    for (const path of ['request-00/0', '../x', 'request-00/..%2f..%2fx', 'request-00/made-0'])
      expect(
        (await fetch(`${here.address}/api/work/kromba-server-test-1-a/${path}`, { headers })).status,
        path
      ).toBe(404);
    expect((await fetch(place, { method: 'PUT', body: 'x', headers })).status).toBe(404);
  });

  it('sets aside what brings down three workers', { timeout: 120_000 }, async () => {
    await serve(false);
    const env = { KROMBA_STORE: folder };
    // Long to write.
    const asked = ask([
      ['look', SWAP],
      ['format', 'avif'],
      ['depth', '16'],
      ['image', { name: 'a.png', bytes: await enlarged(await png()) }]
    ]);
    for (let killed = 0; killed < 3; killed++) {
      const one = await worker(env);
      await isTaken(url, killed + 1);
      one.kill('SIGKILL');
      await wait(100);
    }
    await worker(env);
    const answer = await asked;
    expect(answer.status).toBe(500);
    expect(await answer.json()).toMatchObject({
      error: { code: 'failed', message: 'The work brought down 3 workers, and was set aside.' }
    });
  });

  it('says what is wrong with how a worker is begun', () => {
    const said = (env: Record<string, string>): string => {
      try {
        execFileSync(process.execPath, [join(built, 'worker.js')], {
          cwd: ROOT,
          env: { ...process.env, ...env },
          stdio: 'pipe'
        });
        return '';
      } catch (error) {
        return String((error as { stderr: Buffer }).stderr);
      }
    };
    expect(said({})).toMatch(/^Say where the work is: KROMBA_QUEUE/);
    expect(said({ KROMBA_QUEUE: url })).toMatch(/^Say where the pictures are: KROMBA_STORE/);
    expect(said({ KROMBA_QUEUE: 'kiln', KROMBA_STORE: folder })).toMatch(/is no address of a Redis server/);
    expect(said({ KROMBA_QUEUE: 'redis://127.0.0.1:1', KROMBA_STORE: folder })).toMatch(
      /^There is no Redis server at 127\.0\.0\.1:1/
    );
    expect(said({ KROMBA_QUEUE: url, KROMBA_SERVER: 'kiln' })).toMatch(/is no address, such as/);
  });

  afterAll(async () => {
    expect((await readdir(tmpdir())).filter((name) => name.startsWith('kromba-test-store-'))).toEqual([]);
  });
});
