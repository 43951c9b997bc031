import { randomUUID } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { mkdtemp, rename, rm, stat } from 'node:fs/promises';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { tmpdir } from 'node:os';
import { basename, join, relative, sep } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { SentFile } from './form';
import type { Job } from './perform';
import { Problem } from './problem';

/** Where files lie below the folder of all: a server's own folder, a request's, the file. */
const PLACE = /^kromba-server-[\w.-]+\/request-[0-9a-f]+\/(made-)?\d+$/;
const ROUTE = '/api/work/';

/** A job with each of its files somewhere else. */
export function withFiles(job: Job, moved: (file: SentFile) => SentFile): Job {
  const copy = { ...job } as Record<string, unknown>;
  for (const name of ['image', 'document', 'profile'])
    if (copy[name] !== undefined) copy[name] = moved(copy[name] as SentFile);
  if (copy['tables'] !== undefined) copy['tables'] = (copy['tables'] as SentFile[]).map(moved);
  return copy as unknown as Job;
}

/** The files of a job. */
export function filesOf(job: Job): SentFile[] {
  const found: SentFile[] = [];
  withFiles(job, (file) => (found.push(file), file));
  return found;
}

/** A place below the folder of all, as it is told to other machines. */
export const placeOf = (folder: string, path: string): string => relative(folder, path).split(sep).join('/');

/** @throws Error where it is none */
function pathOf(folder: string, place: string): string {
  if (!PLACE.test(place)) throw new Error(`“${place}” is no place of a file.`);
  return join(folder, ...place.split('/'));
}

/** How a worker comes by files, and where what it made goes. */
export interface Files {
  /** The job with its files at hand; `free` lets go of them. */
  fetch(job: Job): Promise<{ readonly job: Job; free(): Promise<void> }>;
  /** @returns whether it is still wanted */
  keep(place: string, made: Blob): Promise<boolean>;
}

/** In a folder that the server sees as well. */
export const sharedFolder = (folder: string): Files => ({
  fetch: (job) =>
    Promise.resolve({
      job: withFiles(job, (file) => ({ ...file, path: pathOf(folder, file.path) })),
      free: () => Promise.resolve()
    }),
  keep: (place, made) => keepAt(pathOf(folder, place), Readable.fromWeb(made.stream() as never))
});

/** Whole or not at all; false where its folder is gone: nobody waits for it any more. */
async function keepAt(path: string, made: Readable): Promise<boolean> {
  // Two may bring it at once, where one was taken for dead.
  const partial = `${path}.${randomUUID()}.partial`;
  try {
    await pipeline(made, createWriteStream(partial));
    await rename(partial, path);
    return true;
  } catch (error) {
    await rm(partial, { force: true });
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') return false;
    throw error;
  }
}

/** By HTTP, from and to the server. */
export function overHttp(server: string, token: string | undefined): Files {
  const headers: Record<string, string> = token === undefined ? {} : { authorization: `Bearer ${token}` };
  const address = (place: string): string => new URL(ROUTE + place, server).href;
  return {
    async fetch(job) {
      const folder = await mkdtemp(join(tmpdir(), 'kromba-worker-'));
      const free = (): Promise<void> => rm(folder, { recursive: true, force: true });
      try {
        const paths = new Map<string, string>();
        for (const { path: place } of filesOf(job)) {
          const answer = await fetch(address(place), { headers });
          if (!answer.ok || !answer.body) throw new Error(`${address(place)}: ${answer.status}`);
          const path = join(folder, String(paths.size));
          await pipeline(Readable.fromWeb(answer.body as never), createWriteStream(path));
          paths.set(place, path);
        }
        return { job: withFiles(job, (file) => ({ ...file, path: paths.get(file.path)! })), free };
      } catch (error) {
        await free();
        throw error;
      }
    },
    async keep(place, made) {
      const answer = await fetch(address(place), { method: 'PUT', headers, body: made });
      if (!answer.ok && answer.status !== 404) throw new Error(`${address(place)}: ${answer.status}`);
      return answer.ok;
    }
  };
}

/** Whether a request is a worker's, for a file. */
export const isForFiles = (pathname: string): boolean => pathname.startsWith(ROUTE);

/**
 * Gives a worker a file of a request, or takes what it made.
 * @param folder the server's own @throws Problem where it is none of this server's, or nobody waits for it
 */
export async function serveFile(
  folder: string,
  request: IncomingMessage,
  response: ServerResponse,
  pathname: string
): Promise<void> {
  const place = pathname.slice(ROUTE.length);
  if (!PLACE.test(place) || !place.startsWith(`${basename(folder)}/`))
    throw new Problem('unknown', 'There is no such file.');
  const path = pathOf(join(folder, '..'), place);
  if (request.method === 'PUT') {
    if (!basename(place).startsWith('made-')) throw new Problem('unknown', 'What was sent stays as it is.');
    if (!(await keepAt(path, request))) throw new Problem('unknown', 'Nobody waits for it any more.');
    response.writeHead(204).end();
    return;
  }
  const found = await stat(path).catch(() => null);
  if (!found) throw new Problem('unknown', 'There is no such file.');
  response.writeHead(200, { 'content-type': 'application/octet-stream', 'content-length': found.size });
  await pipeline(createReadStream(path), response);
}
