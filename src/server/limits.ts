import { z } from 'zod';
import { MOST_PIXELS } from '../core/files/image';

export interface QueueOptions {
  /** redis:// */
  readonly url: string;
  /** The work of a worker that gives no sign for so long goes to another; seconds. */
  readonly signSeconds: number;
}

/** What a request may take. */
export interface Limits {
  /** Bytes of one file, and of all that is sent. */
  readonly fileBytes: number;
  readonly requestBytes: number;
  /** Bytes of a field of text. */
  readonly fieldBytes: number;
  /** Pictures in a request. */
  readonly images: number;
  /** Pixels of a picture. */
  readonly pixels: number;
  /** Of computing, for each picture. */
  readonly seconds: number;
  /** A request may take so long to arrive, and be silent for so long. */
  readonly arriveSeconds: number;
  readonly silentSeconds: number;
  /** Pictures that may wait for their turn, and requests that may be under way. */
  readonly waiting: number;
  readonly requests: number;
}

const MB = 2 ** 20;
export const MOST_FIELDS = 64;

const whole = (usual: number, most: number): z.ZodType<number> =>
  z.coerce
    .number('must be a whole number')
    .int('must be a whole number')
    .min(1, 'must be at least 1')
    .max(most, `must be at most ${most}`)
    .default(usual);

/** The names by which they are told, and what holds where they are not. */
const told = z.object({
  KROMBA_FILE_MB: whole(512, 4096),
  KROMBA_REQUEST_MB: whole(2048, 2 ** 16),
  KROMBA_IMAGES: whole(100, 10_000),
  KROMBA_MEGAPIXELS: whole(MOST_PIXELS / MB, MOST_PIXELS / MB),
  KROMBA_SECONDS: whole(300, 86_400),
  KROMBA_ARRIVE_SECONDS: whole(600, 86_400),
  KROMBA_SILENT_SECONDS: whole(20, 3600),
  KROMBA_WAITING: whole(200, 100_000),
  KROMBA_REQUESTS: whole(32, 10_000)
});

export const LIMIT_NAMES = Object.keys(told.shape);

/** @throws Error naming what can't be */
export function limitsIn(env: Readonly<Record<string, string | undefined>>): Limits {
  const given = LIMIT_NAMES.flatMap((name) => (env[name] ? [[name, env[name]] as const] : []));
  const { data, error } = told.safeParse(Object.fromEntries(given));
  if (error) {
    const [{ path, message }] = error.issues;
    throw new Error(`${String(path[0])}=${env[String(path[0])]} ${message}.`);
  }
  return {
    fileBytes: data.KROMBA_FILE_MB * MB,
    requestBytes: data.KROMBA_REQUEST_MB * MB,
    fieldBytes: 16 * MB,
    images: data.KROMBA_IMAGES,
    pixels: data.KROMBA_MEGAPIXELS * MB,
    seconds: data.KROMBA_SECONDS,
    arriveSeconds: data.KROMBA_ARRIVE_SECONDS,
    silentSeconds: data.KROMBA_SILENT_SECONDS,
    waiting: data.KROMBA_WAITING,
    requests: data.KROMBA_REQUESTS
  };
}

/** Where work is put for workers elsewhere; null where it is done here. @throws Error naming what can't be */
export function queueIn(env: Readonly<Record<string, string | undefined>>): QueueOptions | null {
  const url = env['KROMBA_QUEUE'];
  if (!url) return null;
  const { data, error } = whole(30, 3600).safeParse(env['KROMBA_SIGN_SECONDS'] || undefined);
  if (error) throw new Error(`KROMBA_SIGN_SECONDS=${env['KROMBA_SIGN_SECONDS']} ${error.issues[0].message}.`);
  return { url, signSeconds: data };
}
