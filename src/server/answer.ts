import { Readable, Writable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { ServerResponse } from 'node:http';
import pLimit from 'p-limit';
import { zip } from '../core/files/bundle';
import { problemOf, type Made } from './perform';
import { Problem } from './problem';
import type { Task } from './routes';

export function tell(response: ServerResponse, status: number, body: object): void {
  response.writeHead(status, {
    'content-type': 'application/json; charset=utf-8',
    'cache-control': 'no-store'
  });
  response.end(JSON.stringify(body));
}

/** What went wrong, as a problem; what is nobody's fault who asks is told to who runs the server. */
function asProblem(error: unknown): Problem {
  const known = problemOf(error);
  if (known instanceof Problem) return known;
  process.stderr.write(`${(error as Error).stack ?? String(error)}\n`);
  return new Problem('failed', 'The computing failed. It was told to who runs the server.');
}

/** A problem as JSON. What still arrives of the request is left: the line is closed behind it. */
export function tellProblem(response: ServerResponse, error: unknown): void {
  // Nobody is there who could be told.
  if (response.destroyed) return;
  const problem = asProblem(error);
  if (response.headersSent) return void response.destroy();
  const { status, retryAfter, told } = problem;
  if (retryAfter !== undefined) response.setHeader('retry-after', String(retryAfter));
  if (status === 401) response.setHeader('www-authenticate', 'Bearer');
  tell(response, status, told);
}

/** A name as a header holds it (RFC 6266, RFC 8187). */
const attached = (name: string): string => {
  const plain = name.replace(/[^\x20-\x7e]|["\\%]/g, '-');
  const coded = encodeURIComponent(name).replace(
    /['()*]/g,
    (c) => `%${c.charCodeAt(0).toString(16).toUpperCase()}`
  );
  return `attachment; filename="${plain}"; filename*=UTF-8''${coded}`;
};

/** What is to be known of what was made, as a JSON list in percent code. */
const NOTICES = 'kromba-notices';

export async function answerOne(response: ServerResponse, { name, mime }: Task, made: Made): Promise<void> {
  if (made.notices.length > 0) response.setHeader(NOTICES, encodeURIComponent(JSON.stringify(made.notices)));
  response.writeHead(200, {
    'content-type': mime,
    'content-length': made.file.size,
    'content-disposition': attached(name),
    'cache-control': 'no-store'
  });
  await pipeline(Readable.fromWeb(made.file.stream() as never), response);
}

/** What became of pictures that came to none. */
interface Failed {
  readonly name: string;
  readonly problem: Problem;
}

/**
 * A zip of all that is made, sent while it is made, a few at a time. What could not be made is told in it.
 * @throws Problem where none is made
 */
export async function answerZip(
  response: ServerResponse,
  tasks: readonly Task[],
  atOnce: number,
  make: (task: Task) => Promise<Made>,
  signal: AbortSignal
): Promise<void> {
  const { BlobReader, TextReader, ZipWriter } = await zip();
  let writer: InstanceType<typeof ZipWriter> | null = null;
  const failed: Failed[] = [];
  const notices: Record<string, readonly string[]> = {};
  const begin = (): InstanceType<typeof ZipWriter> => {
    response.writeHead(200, {
      'content-type': 'application/zip',
      'content-disposition': attached('pictures.zip'),
      'cache-control': 'no-store'
    });
    return new ZipWriter(Writable.toWeb(response) as WritableStream, { useWebWorkers: false });
  };
  // One after the other into the zip; what is made meanwhile waits.
  const adding = pLimit(1);
  const working = pLimit(atOnce);
  await Promise.all(
    tasks.map((task) =>
      working(async () => {
        let made: Made;
        try {
          made = await make(task);
        } catch (error) {
          signal.throwIfAborted();
          failed.push({ name: task.name, problem: asProblem(error) });
          return;
        }
        if (made.notices.length > 0) notices[task.name] = made.notices;
        await adding(() => (writer ??= begin()).add(task.name, new BlobReader(made.file), { level: 0 }));
      })
    )
  );
  const done = writer as InstanceType<typeof ZipWriter> | null;
  if (!done) throw noneOf(failed);
  const told = { failed: failed.map(({ name, problem }) => ({ name, ...problem.told.error })), notices };
  if (failed.length > 0 || Object.keys(notices).length > 0)
    await done.add('report.json', new TextReader(JSON.stringify(told, null, 2)));
  await done.close();
}

/** What all failed of, or the first of them. */
function noneOf(failed: readonly Failed[]): Problem {
  const [{ name, problem }] = failed;
  if (failed.every((other) => other.problem.message === problem.message)) return problem;
  return new Problem(
    problem.code,
    `None of the ${failed.length} pictures could be made. The first, ${name}: ${problem.message}`,
    problem.field
  );
}
