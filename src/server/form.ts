import { createWriteStream } from 'node:fs';
import type { IncomingMessage } from 'node:http';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import busboy from 'busboy';
import { MOST_FIELDS, type Limits } from './limits';
import { Problem } from './problem';

/** A file that was sent, where it lies. */
export interface SentFile {
  readonly name: string;
  readonly path: string;
  readonly bytes: number;
}

export interface Form {
  readonly texts: ReadonlyMap<string, string>;
  readonly files: ReadonlyMap<string, readonly SentFile[]>;
}

/** What a form may hold: names of fields of text, and of files with how many of them. */
export interface FormShape {
  readonly texts: readonly string[];
  readonly files: Readonly<Record<string, number>>;
}

const MB = 2 ** 20;
const TOO_MANY_PARTS = 'There are more fields and files than are taken.';

/** Looks at what is known of a form before it is there. @throws Problem */
export function checkForm({ headers }: IncomingMessage, { requestBytes }: Limits): void {
  const type = headers['content-type'] ?? '';
  if (!/^multipart\/form-data\b/i.test(type))
    throw new Problem('type', 'Send the fields and files as multipart/form-data.');
  if (Number(headers['content-length'] ?? 0) > requestBytes)
    throw new Problem('too-large', `A request may be ${Math.floor(requestBytes / MB)} MB at most.`);
}

/**
 * Reads a multipart form while it arrives: text into memory, files into `folder`, which is there and belongs to it alone.
 * @param request whose head `checkForm` has seen
 * @throws Problem as soon as something can't be taken: what still arrives is left unread
 */
export async function readForm(
  request: IncomingMessage,
  folder: string,
  shape: FormShape,
  limits: Limits
): Promise<Form> {
  const known = [...new Set([...shape.texts, ...Object.keys(shape.files)])];
  const texts = new Map<string, string>();
  const files = new Map<string, SentFile[]>();
  const writing: Promise<void>[] = [];
  const stop = new AbortController();
  let parser: busboy.Busboy;
  const mostFiles = Object.values(shape.files).reduce((sum, most) => sum + most, 1);
  try {
    parser = busboy({
      headers: request.headers,
      defParamCharset: 'utf8',
      limits: {
        fieldNameSize: 100,
        fieldSize: limits.fieldBytes,
        fields: MOST_FIELDS,
        fileSize: limits.fileBytes,
        files: mostFiles,
        parts: MOST_FIELDS + mostFiles,
        headerPairs: 20
      }
    });
  } catch {
    throw new Problem('malformed', 'The form says no boundary between its parts.');
  }
  let count = 0;
  const parsed = new Promise<void>((resolve, reject) => {
    const fail = (problem: Problem): void => {
      stop.abort(problem);
      reject(problem);
    };
    const checkName = (name: string | undefined, kind: readonly string[], sentAs: string): string => {
      if (name !== undefined && kind.includes(name)) return name;
      const told = name?.slice(0, 60);
      if (name !== undefined && known.includes(name))
        throw new Problem('field', `“${told}” must be sent as ${sentAs}.`, told);
      const what = told === undefined ? 'A part has no name' : `There is no field “${told}”`;
      throw new Problem('field', `${what}: use ${known.join(', ')}.`, told);
    };
    const guarded =
      <A extends unknown[]>(work: (...args: A) => void) =>
      (...args: A): void => {
        if (stop.signal.aborted) return;
        try {
          work(...args);
        } catch (error) {
          fail(error as Problem);
        }
      };
    parser
      .on(
        'field',
        guarded((given: string | undefined, value, { valueTruncated, nameTruncated }) => {
          const name = checkName(given, shape.texts, 'a file');
          if (valueTruncated || nameTruncated)
            throw new Problem(
              'too-large',
              `A field of text may be ${Math.floor(limits.fieldBytes / MB)} MB at most.`,
              name
            );
          if (texts.has(name)) throw new Problem('field', `“${name}” is given twice.`, name);
          texts.set(name, value);
        })
      )
      .on('file', (given: string | undefined, stream, { filename }) => {
        // One that is not taken is read to its end by nobody: the whole of the request is left.
        stream.on('error', () => undefined);
        guarded(() => {
          const name = checkName(given, Object.keys(shape.files), 'text');
          const sent = files.get(name) ?? [];
          const most = shape.files[name];
          if (sent.length >= most)
            throw new Problem('too-large', `“${name}” may be given ${most} times at most.`, name);
          const path = join(folder, String(count++));
          const shown = filename || `${name} ${sent.length + 1}`;
          const file = { name: shown, path, bytes: 0 };
          files.set(name, [...sent, file]);
          stream.on('limit', () =>
            fail(
              new Problem(
                'too-large',
                `“${shown}” is larger than ${Math.floor(limits.fileBytes / MB)} MB.`,
                name
              )
            )
          );
          stream.on('data', (chunk: Buffer) => (file.bytes += chunk.length));
          const written = pipeline(stream, createWriteStream(path), { signal: stop.signal });
          writing.push(
            written.catch((error: NodeJS.ErrnoException) => {
              if (!stop.signal.aborted) fail(notKept(error));
            })
          );
        })();
      })
      .on('filesLimit', () => fail(new Problem('too-large', TOO_MANY_PARTS)))
      .on('fieldsLimit', () => fail(new Problem('too-large', TOO_MANY_PARTS)))
      .on('partsLimit', () => fail(new Problem('too-large', TOO_MANY_PARTS)))
      .on('error', () => fail(new Problem('malformed', 'The form is not complete, or is none.')))
      .on('close', () => resolve());
    let bytes = 0;
    request.on('data', (chunk: Buffer) => {
      bytes += chunk.length;
      if (bytes > limits.requestBytes)
        fail(
          new Problem('too-large', `A request may be ${Math.floor(limits.requestBytes / MB)} MB at most.`)
        );
    });
    // Who is gone takes along what had come in and was not read yet.
    const brokeOff = (): void => {
      if (!request.readableEnded) fail(new Problem('malformed', 'The request broke off.'));
    };
    request.on('close', brokeOff);
    // Who asked may be gone before anything of it was read: then nothing is told any more.
    if (request.destroyed) brokeOff();
  });
  const ended = watched(request, limits, (problem) => stop.abort(problem));
  const stopped = new Promise<never>((_, reject) =>
    stop.signal.addEventListener('abort', () => reject(stop.signal.reason as Problem))
  );
  request.pipe(parser);
  try {
    await Promise.race([parsed, stopped]);
    await Promise.all(writing);
    stop.signal.throwIfAborted();
    return { texts, files };
  } finally {
    ended();
    request.unpipe(parser);
    // Nothing is written any more when this is left.
    if (!stop.signal.aborted) stop.abort();
    parser.destroy();
    parsed.catch(() => undefined);
    stopped.catch(() => undefined);
    await Promise.allSettled(writing);
  }
}

const notKept = (error: NodeJS.ErrnoException): Problem =>
  error.code === 'ENOSPC'
    ? new Problem('no-room', 'The server’s disk is full.')
    : new Problem('failed', 'What was sent can’t be kept.');

/** Tells who is silent for too long, or takes too long in all. @returns what ends the watch */
function watched(
  request: IncomingMessage,
  { arriveSeconds, silentSeconds }: Limits,
  slow: (problem: Problem) => void
): () => void {
  const late = (): void => slow(new Problem('slow', 'The request took too long to arrive.'));
  const all = setTimeout(late, arriveSeconds * 1000);
  const silence = setTimeout(late, silentSeconds * 1000);
  const heard = (): void => void silence.refresh();
  request.on('data', heard);
  return () => {
    clearTimeout(all);
    clearTimeout(silence);
    request.off('data', heard);
  };
}
