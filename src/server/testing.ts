import { mkdir, mkdtemp, readdir, rm } from 'node:fs/promises';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { randomStream } from '../core/random';
import { Api, type ApiOptions } from './api';
import { limitsIn, type Limits } from './limits';
import { guarded } from './listen';
import { LocalRunner, type Runner } from './runner';

/** A server of its own for a test. */
export interface TestServer {
  readonly server: Server;
  readonly address: string;
  readonly port: number;
  readonly api: Api;
  readonly runner: Runner;
  /** What is left of what was sent. */
  left(): Promise<string[]>;
  close(): Promise<void>;
}

export async function testServer(
  limits: Partial<Limits> = {},
  options: Partial<Omit<ApiOptions, 'limits'>> = {}
): Promise<TestServer> {
  const folder = options.folder ?? (await mkdtemp(join(tmpdir(), 'kromba-test-server-')));
  await mkdir(folder, { recursive: true });
  const all = { ...limitsIn({}), ...limits };
  const runner = options.runner ?? new LocalRunner(all);
  const api = new Api({ ...options, limits: all, runner, folder });
  const server = guarded((_, __, next) => next(), { api, formsWithin: all.arriveSeconds * 1000 });
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  const { port } = server.address() as AddressInfo;
  return {
    ...{ server, api, runner, port, address: `http://127.0.0.1:${port}` },
    left: () => readdir(folder),
    async close() {
      server.closeAllConnections();
      server.close();
      await runner.close();
      await rm(folder, { recursive: true, force: true });
    }
  };
}

export const WIDTH = 40;
export const HEIGHT = 30;
const random = randomStream(17);
/** RGB of 8 bits. */
export const PIXELS = Uint8Array.from({ length: WIDTH * HEIGHT * 3 }, () => Math.floor(random() * 256));

export const png = (pixels = PIXELS): Promise<Buffer> =>
  sharp(pixels, { raw: { width: WIDTH, height: HEIGHT, channels: 3 } })
    .png()
    .toBuffer();

/** A look that has red and blue change places, and what it makes of pixels. */
export const SWAP = JSON.stringify({
  ...{ kromba: 1, kind: 'look', name: 'Swap' },
  steps: [{ id: 's1', op: 'mix', params: { rows: { r: { b: 1 }, b: { r: 1 } } } }]
});
export const swapped = (pixels: Uint8Array): Uint8Array =>
  Uint8Array.from(pixels, (_, i) => pixels[i - (i % 3) + 2 - (i % 3)]);

/** A form of fields, some of them files: a file is a name and its bytes. */
export type Part = readonly [
  field: string,
  value: string | { readonly name: string; readonly bytes: Uint8Array | string }
];

export function formOf(parts: readonly Part[]): FormData {
  const form = new FormData();
  for (const [field, value] of parts)
    if (typeof value === 'string') form.append(field, value);
    else form.append(field, new Blob([value.bytes as Uint8Array<ArrayBuffer>]), value.name);
  return form;
}
