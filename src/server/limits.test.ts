import { request } from 'node:http';
import { connect } from 'node:net';
import { setTimeout as wait } from 'node:timers/promises';
import { zipSync } from 'fflate';
import sharp from 'sharp';
import { afterAll, afterEach, beforeAll, expect, it } from 'vitest';
import { randomStream } from '../core/random';
import { limitsIn } from './limits';
import { formOf, PIXELS, png, SWAP, swapped, testServer, type Part, type TestServer } from './testing';

/** So many requests that can't be served; more for one who asks for them. */
const RANDOM = Number(process.env['KROMBA_RANDOM'] ?? 200);
const LIMITS = {
  fileBytes: 20_000,
  requestBytes: 60_000,
  fieldBytes: 2000,
  images: 4,
  pixels: 5000,
  silentSeconds: 1,
  arriveSeconds: 2.5
};

let here: TestServer;
let tile: Buffer;
beforeAll(async () => {
  tile = await png();
  here = await testServer(LIMITS);
});
afterAll(() => here.close());
afterEach(async () => {
  for (let i = 0; i < 100 && (await here.left()).length > 0; i++) await wait(20);
  expect(await here.left()).toEqual([]);
  expect(here.runner.state).toEqual({ working: 0, waiting: 0 });
});

const image = (name = 'tile.png', bytes: Uint8Array | string = tile): Part => ['image', { name, bytes }];
const good = (at = here): Promise<Response> =>
  fetch(`${at.address}/api/render`, {
    method: 'POST',
    body: formOf([['look', SWAP], image(), ['depth', '8']])
  });
async function isServed(at = here): Promise<void> {
  const answer = await good(at);
  expect(answer.status).toBe(200);
  const made = sharp(Buffer.from(await answer.arrayBuffer())).raw();
  expect((await made.toBuffer()).equals(Buffer.from(swapped(PIXELS)))).toBe(true);
}

interface Answered {
  readonly status: number;
  readonly code: string;
}

/** Sent as it is; answered, or the line closed. */
function sent(text: string | Buffer, ends: boolean): Promise<string> {
  return new Promise((resolve) => {
    const socket = connect(here.port, '127.0.0.1', () => {
      socket.write(text);
      if (ends) socket.end();
    });
    let answer = '';
    socket.on('data', (data) => (answer += data.toString()));
    socket.on('error', () => undefined);
    socket.on('close', () => resolve(answer));
  });
}
async function rawly(text: string | Buffer, ends = false): Promise<Answered> {
  const answer = await sent(text, ends);
  const body = answer.slice(answer.indexOf('{'), answer.lastIndexOf('}') + 1);
  const { error } = JSON.parse(body || '{"error":{"code":""}}') as { error: { code: string } };
  return { status: Number(/^HTTP\/1\.1 (\d+)/.exec(answer)?.[1]), code: error.code };
}

const head = (headers: string): string =>
  `POST /api/render HTTP/1.1\r\nHost: localhost\r\n${headers}\r\n\r\n`;
const FORM = 'Content-Type: multipart/form-data; boundary=edge';
const part = (name: string, file: string): string =>
  `--edge\r\nContent-Disposition: form-data; name="${name}"; filename="${file}"\r\n\r\n`;

async function asked(parts: readonly Part[], path = 'render'): Promise<Answered> {
  const answer = await fetch(`${here.address}/api/${path}`, { method: 'POST', body: formOf(parts) });
  const { error } = (await answer.json()) as { error: { code: string } };
  return { status: answer.status, code: error.code };
}

type Bad = (random: () => number) => Promise<Answered>;
const any = (random: () => number, from: number, to: number): number =>
  Math.floor(from + random() * (to - from));
const noise = (random: () => number, n: number): Uint8Array =>
  Uint8Array.from({ length: n }, () => random() * 256);

/** Kinds of requests that can't be served, and what each is answered. */
const BAD: Record<string, readonly [Bad, Answered]> = {
  'a claim of many bytes': [
    (random) =>
      rawly(head(`${FORM}\r\nContent-Length: ${any(random, 60_001, 2 ** 31)}`) + part('image', 'a.png')),
    { status: 413, code: 'too-large' }
  ],
  'more than is taken, without a claim': [
    (random) =>
      new Promise((resolve) => {
        const asking = request(
          {
            port: here.port,
            method: 'POST',
            path: '/api/render',
            headers: { 'content-type': 'multipart/form-data; boundary=edge' }
          },
          (answer) => {
            let body = '';
            answer.on('data', (data: Buffer) => (body += data.toString()));
            answer.on('end', () =>
              resolve({
                status: answer.statusCode!,
                code: (JSON.parse(body) as { error: { code: string } }).error.code
              })
            );
          }
        );
        asking.on('error', () => undefined);
        for (let i = 0; i < 4; i++) {
          asking.write(part('image', `${i}.png`));
          asking.write(noise(random, any(random, 16_000, 19_000)));
          asking.write('\r\n');
        }
        asking.end('--edge--\r\n');
      }),
    { status: 413, code: 'too-large' }
  ],
  'a large file': [
    (random) => asked([image('a.png', noise(random, any(random, 20_001, 40_000)))]),
    { status: 413, code: 'too-large' }
  ],
  'a long text': [
    (random) => asked([['look', 'x'.repeat(any(random, 2001, 9000))]]),
    { status: 413, code: 'too-large' }
  ],
  'a long look in a file': [
    (random) => asked([['look', { name: 'a.json', bytes: 'x'.repeat(any(random, 2001, 9000)) }], image()]),
    { status: 413, code: 'too-large' }
  ],
  'many pictures': [
    (random) =>
      asked([['look', SWAP], ...Array.from({ length: any(random, 5, 12) }, (_, i) => image(`${i}.png`))]),
    { status: 413, code: 'too-large' }
  ],
  'many fields': [
    (random) => asked(Array.from({ length: any(random, 70, 200) }, () => ['look', 'a'] as const)),
    { status: 422, code: 'field' }
  ],
  'many pixels': [
    async (random) => {
      const create = {
        width: any(random, 80, 200),
        height: any(random, 80, 200),
        channels: 3 as const,
        background: '#345'
      };
      return asked([['look', SWAP], image('a.png', await sharp({ create }).png().toBuffer())]);
    },
    { status: 413, code: 'too-many-pixels' }
  ],
  'many pixels made': [
    (random) => {
      const steps = [
        {
          id: 's',
          op: 'straighten',
          params: { crop: { x: -30, y: -20, width: any(random, 100, 999), height: 100 } }
        }
      ];
      return asked([['look', JSON.stringify({ ...(JSON.parse(SWAP) as object), steps })], image()]);
    },
    { status: 413, code: 'too-many-pixels' }
  ],
  'another type': [
    (random) =>
      rawly(
        head(
          `Content-Type: ${['text/plain', 'application/json', 'image/png'][any(random, 0, 3)]}\r\nConnection: close\r\nContent-Length: 2`
        ) + '{}'
      ),
    { status: 415, code: 'type' }
  ],
  'a file that is no picture': [
    (random) => asked([['look', SWAP], image('a.png', noise(random, any(random, 1, 500)))]),
    { status: 415, code: 'type' }
  ],
  'an unknown step': [
    (random) => asked([['look', SWAP.replace('"mix"', `"step${any(random, 0, 99)}"`)], image()]),
    { status: 422, code: 'field' }
  ],
  'a zip of nothing': [
    () =>
      asked([
        ['document', { name: 'a.kromba', bytes: Uint8Array.of(0x50, 0x4b, 5, 6, ...new Uint8Array(18)) }],
        ['picture', 'A']
      ]),
    { status: 422, code: 'file' }
  ],
  'a bundle that unfolds': [
    (random) => {
      const document = {
        ...{ kromba: 1, kind: 'document', name: 'A' },
        frames: [{ id: 'f', name: 'f', file: 'f.png' }],
        pictures: [{ id: 'p', name: 'A', head: { kind: 'frame', frame: 'f' } }]
      };
      const files = {
        'document.kromba.json': new TextEncoder().encode(JSON.stringify(document)),
        'f.png': new Uint8Array(any(random, 40_001, 4_000_000))
      };
      return asked([
        ['document', { name: 'a.kromba', bytes: zipSync(files) }],
        ['picture', 'A']
      ]);
    },
    { status: 422, code: 'file' }
  ],
  'a form that ends early': [(random) => brokenOff(random), { status: 400, code: 'malformed' }],
  'who is silent': [
    (random) =>
      rawly(
        head(`${FORM}\r\nContent-Length: 5000`) + part('image', 'a.png') + 'x'.repeat(any(random, 0, 900))
      ),
    { status: 408, code: 'slow' }
  ]
};
/** The request is whole, and its form is not. */
function brokenOff(random: () => number): Promise<Answered> {
  const body = part('image', 'a.png') + 'x'.repeat(any(random, 0, 900));
  return rawly(head(`${FORM}\r\nConnection: close\r\nContent-Length: ${body.length}`) + body);
}

it.each(Object.entries(BAD))('refuses %s, and serves a good request after it', async (_, [bad, wanted]) => {
  expect(await bad(randomStream(3))).toEqual(wanted);
  await isServed();
});

it(
  `refuses each of ${RANDOM} random requests as it should, and serves a good one after it`,
  { timeout: 600_000 },
  async () => {
    const random = randomStream(29);
    // Some take a while here.
    const kinds = Object.entries(BAD).filter(([name]) => !/zip|bundle|silent/.test(name) || RANDOM > 900);
    for (let i = 0; i < RANDOM; i++) {
      const [name, [bad, wanted]] = kinds[any(random, 0, kinds.length)];
      expect(await bad(random), `${i}, ${name}`).toEqual(wanted);
      await isServed();
    }
  }
);

it('closes who sends drop by drop for too long', async () => {
  const socket = connect(here.port, '127.0.0.1', () =>
    socket.write(head(`${FORM}\r\nContent-Length: 5000`) + part('image', 'a.png'))
  );
  let answer = '';
  socket.on('data', (data) => (answer += data.toString()));
  socket.on('error', () => undefined);
  const drops = setInterval(() => socket.write('x'), 100);
  await new Promise((resolve) => socket.on('close', resolve));
  clearInterval(drops);
  expect(answer).toMatch(/^HTTP\/1\.1 408 /);
  await isServed();
});

it('leaves nothing of a request that breaks off', async () => {
  for (const after of [0, 10, 50]) {
    const socket = connect(here.port, '127.0.0.1', () =>
      socket.write(head(`${FORM}\r\nContent-Length: 5000`) + part('image', 'a.png') + 'x'.repeat(900))
    );
    socket.on('error', () => undefined);
    await wait(50 + after);
    socket.destroy();
  }
  await isServed();
});

it('answers or refuses each of 64 requests at once', async () => {
  const at = await testServer({ requests: 24, waiting: 8 });
  try {
    const answers = await Promise.all(Array.from({ length: 64 }, () => good(at)));
    const made = answers.filter(({ status }) => status === 200);
    const busy = answers.filter(({ status }) => status === 429);
    expect(made.length + busy.length).toBe(64);
    expect(made.length).toBeGreaterThan(0);
    expect(busy.length).toBeGreaterThan(0);
    for (const answer of busy) expect(Number(answer.headers.get('retry-after'))).toBeGreaterThan(0);
    for (const answer of made) {
      const pixels = await sharp(Buffer.from(await answer.arrayBuffer()))
        .raw()
        .toBuffer();
      expect(pixels.equals(Buffer.from(swapped(PIXELS)))).toBe(true);
    }
    await isServed(at);
    expect(at.runner.state).toEqual({ working: 0, waiting: 0 });
  } finally {
    await at.close();
  }
});

it('stops what takes too long, and what nobody waits for any more', async () => {
  const at = await testServer({ seconds: 0.001 });
  try {
    const answer = await good(at);
    expect([answer.status, answer.headers.get('retry-after')]).toEqual([503, '60']);
    const gone = new AbortController();
    const asking = fetch(`${at.address}/api/render`, {
      method: 'POST',
      body: formOf([['look', SWAP], image()]),
      signal: gone.signal
    });
    setTimeout(() => gone.abort(), 5);
    await asking.catch(() => undefined);
    // It may not have come in yet.
    await wait(300);
    for (let i = 0; i < 100 && (await at.left()).length > 0; i++) await wait(20);
    expect(at.runner.state).toEqual({ working: 0, waiting: 0 });
    expect(await at.left()).toEqual([]);
  } finally {
    await at.close();
  }
});

it('asks for its token', async () => {
  const at = await testServer({}, { token: 'wheel' });
  const measure = (headers: Record<string, string> = {}): Promise<Response> =>
    fetch(`${at.address}/api/measure`, { method: 'POST', body: formOf([['at', '0,0']]), headers });
  try {
    const answer = await measure();
    expect([answer.status, answer.headers.get('www-authenticate')]).toEqual([401, 'Bearer']);
    expect((await measure({ authorization: 'Bearer kiln' })).status).toBe(401);
    expect((await measure({ authorization: 'wheel' })).status).toBe(401);
    // It is let in: what it asks for lacks its picture.
    expect((await measure({ authorization: 'Bearer wheel' })).status).toBe(422);
    expect((await fetch(`${at.address}/api/health`)).status).toBe(200);
  } finally {
    await at.close();
  }
});

it('ends when what is under way is answered, and takes nothing more on', async () => {
  const at = await testServer();
  try {
    const asking = good(at);
    while (((await (await fetch(`${at.address}/api/health`)).json()) as { requests: number }).requests === 0)
      await wait(2);
    const ended = at.api.end(10_000);
    const late = await good(at);
    expect([late.status, late.headers.get('retry-after')]).toEqual([503, '30']);
    expect((await asking).status).toBe(200);
    await ended;
    expect(await at.left()).toEqual([]);
  } finally {
    await at.close();
  }
});

it('reads its limits from the environment, and says which can’t be', () => {
  expect(limitsIn({ KROMBA_FILE_MB: '3', KROMBA_IMAGES: '' })).toMatchObject({
    fileBytes: 3 * 2 ** 20,
    images: 100
  });
  expect(() => limitsIn({ KROMBA_WAITING: 'many' })).toThrow('KROMBA_WAITING=many must be a whole number.');
  expect(() => limitsIn({ KROMBA_SECONDS: '0' })).toThrow('KROMBA_SECONDS=0 must be at least 1.');
});
