import { mkdirSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import { hostname, tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import { Api } from './api';
import { guardHeaders, isolationHeaders } from './headers';
import { limitsIn, queueIn } from './limits';
import { QueueRunner } from './queue';
import { LocalRunner } from './runner';

/** Names by which this machine is asked; another one is a page elsewhere that has its name lead here. */
const OWN_NAMES = ['127.0.0.1', 'localhost', '[::1]'];
const OWN_HOSTS = ['127.0.0.1', 'localhost', '::1'];
/** A request's head, and all of one that is no form, must be there within so many ms; looked after every so often. */
const HEAD_WITHIN = 10_000;
const ALL_WITHIN = 30_000;
const LOOK_AFTER = 1000;
/** What is under way at the end may take so many ms. */
const END_WITHIN = 60_000;
/** Of this machine, in a folder that others may share. */
const FOLDERS = `kromba-server-${hostname().replace(/[^\w.]/g, '_')}-`;

type Handler = (request: IncomingMessage, response: ServerResponse, next: () => void) => void;

interface Guarding {
  readonly headWithin?: number;
  readonly allWithin?: number;
  /** Names that it answers to; all where it is left out. */
  readonly names?: readonly string[];
  readonly api?: Pick<Api, 'handle'>;
  /** Forms may take as many ms. */
  readonly formsWithin?: number;
}

/** A server that guards its responses, refuses foreign names, and closes who is slow to ask. */
export function guarded(
  handler: Handler,
  { headWithin = HEAD_WITHIN, allWithin = ALL_WITHIN, names = OWN_NAMES, api, formsWithin = 0 }: Guarding = {}
): Server {
  const timing = {
    headersTimeout: headWithin,
    // Forms are watched by who reads them.
    requestTimeout: Math.max(allWithin, formsWithin + 2 * LOOK_AFTER),
    connectionsCheckingInterval: Math.min(LOOK_AFTER, headWithin)
  };
  const server = createServer(timing, (request, response) => {
    for (const [name, value] of Object.entries({ ...isolationHeaders, ...guardHeaders }))
      response.setHeader(name, value);
    const name = (request.headers.host ?? '').replace(/:\d+$/, '').toLowerCase();
    if (names.length > 0 && !names.includes(name)) {
      response.statusCode = 421;
      response.end(`Kromba answers on this machine alone, under ${names.join(', ')}.`);
      return;
    }
    if (api && Api.isFor(request)) return void api.handle(request, response);
    const late = setTimeout(() => void (request.complete || request.destroy()), allWithin);
    request.on('close', () => clearTimeout(late));
    if (request.headers.expect !== undefined) response.writeContinue();
    handler(request, response, () => {
      response.statusCode = 404;
      response.end('Not found');
    });
  });
  return server.on('checkContinue', (request, response) => server.emit('request', request, response));
}

export interface Serving {
  readonly server: Server;
  readonly address: string;
  /** Takes nothing more on; resolves when what was under way is answered and nothing is left behind. */
  end(): Promise<void>;
}

export interface ServeOptions {
  /** The next free one is taken where it is in use, unless `exactly` it is wanted. */
  readonly port: number;
  readonly exactly?: boolean;
  readonly env?: Readonly<Record<string, string | undefined>>;
}

/** A folder for what is sent, in that for all; those of servers of this machine that were killed go. */
function ownFolder(all: string): string {
  mkdirSync(all, { recursive: true });
  for (const name of readdirSync(all)) {
    if (!name.startsWith(FOLDERS)) continue;
    const maker = Number(name.slice(FOLDERS.length).split('-')[0]);
    if (!runs(maker)) rmSync(join(all, name), { recursive: true, force: true });
  }
  return mkdtempSync(join(all, `${FOLDERS}${process.pid}-`));
}

function runs(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
}

/**
 * Serves the built application and the API, with the isolation headers on every response: the adapter's own server
 * leaves static files without them, and then no worker starts.
 * @throws Error where it can't, in words
 */
export async function serve({ port: wanted, exactly = false, env = {} }: ServeOptions): Promise<Serving> {
  const host = env['HOST'] || OWN_HOSTS[0];
  const token = env['KROMBA_TOKEN'] || undefined;
  const own = OWN_HOSTS.includes(host);
  if (!own && token === undefined)
    throw new Error(
      `HOST=${host} lets other machines in. Set KROMBA_TOKEN to a secret that they have to send, or leave HOST out.`
    );
  const limits = limitsIn(env);
  const { handler } = (await import(pathToFileURL('build/handler.js').href)) as { handler: Handler };
  const queue = queueIn(env);
  const store = env['KROMBA_STORE'] || undefined;
  const runner = queue ? await QueueRunner.begun(queue, limits) : new LocalRunner(limits);
  const folder = ownFolder(resolve(store ?? tmpdir()));
  const filesByHttp = queue !== null && store === undefined;
  const api = new Api({ limits, runner, folder, token, filesByHttp });
  const formsWithin = limits.arriveSeconds * 1000;
  const server = guarded(handler, { api, formsWithin, ...(own ? {} : { names: [] }) });
  const listen = (port: number): Promise<number> =>
    new Promise((done, reject) => {
      server.once('error', reject);
      server.listen(port, host, () => done((server.address() as { port: number }).port));
    });
  const port = await listen(wanted).catch(async (error: NodeJS.ErrnoException) => {
    const taken = error.code === 'EADDRINUSE' || error.code === 'EACCES';
    if (taken && !exactly) return listen(0);
    rmSync(folder, { recursive: true, force: true });
    await runner.close();
    if (taken)
      throw new Error(`Port ${wanted} is taken or not allowed: set PORT to another.`, { cause: error });
    throw error;
  });
  const end = async (): Promise<void> => {
    // Who asks meanwhile is told so; and workers still come for files.
    await api.end(END_WITHIN);
    server.close();
    server.closeAllConnections();
    rmSync(folder, { recursive: true, force: true });
  };
  return { server, address: `http://${host.includes(':') ? `[${host}]` : host}:${port}`, end };
}
