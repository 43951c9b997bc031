import { DocumentError, framesOf } from '../core/document';
import { FileError, SizeError } from '../core/files';
import { TILE, type Rect } from '../core/raster/raster';
import type { Answer, FromWorker, Job, JobKind } from './jobs';

export interface RunOptions {
  /** Smaller goes first. */
  readonly priority?: number;
  /** Takes the request back: it leaves the queue, or its answer is ignored. */
  readonly signal?: AbortSignal;
  readonly onProgress?: (part: number) => void;
  /** Work of the same home goes to the same worker where it can: that one has kept what it needs for it. */
  readonly home?: number;
}

/** Work that was asked for and is not answered yet. */
export interface Request extends RunOptions {
  readonly number: number;
  readonly job: Job;
  /** Frames without which it can't begin. */
  readonly needs: readonly string[];
  readonly resolve: (answer: Answer) => void;
  readonly reject: (error: unknown) => void;
  deaths: number;
}

/**
 * How many jobs a worker is given at once where it is quick to stop, and of how many samples: while the page takes in an
 * answer, or is busy laying itself out, it goes on with the next tile. What is most urgent has nobody waiting behind it.
 */
const MOST_AT_ONCE = 4;
const URGENT = 1;
const samplesAtOnce = (requests: readonly Request[]): number =>
  (requests.every(({ priority = 0 }) => priority <= URGENT) ? 4 : 2) * TILE ** 2;

/** Kinds that look before each step of each tile whether they were taken back. */
const STOPPING: readonly JobKind[] = [
  'tile',
  'measure',
  'clipped',
  'takenOut',
  'differ',
  'outside',
  'render',
  'settle',
  'stage',
  'solve'
];
/** A worker that is at it, and is told that it was taken back, stops within a step of it. */
export const stopsSoon = ({ job }: Request): boolean => STOPPING.includes(job.kind);
/** Nothing is put behind work that may take long. */
const isShort = (request: Request): boolean =>
  stopsSoon(request) && !['stage', 'solve'].includes(request.job.kind);

/** Whether another request may be put behind those that a worker has. */
export const hasRoom = (requests: readonly Request[]): boolean =>
  requests.length < MOST_AT_ONCE && requests.every(isShort) && samplesOf(requests) < samplesAtOnce(requests);

/** How many samples of the picture some requests are for; one that does not say counts as a tile. */
const samplesOf = (requests: readonly Request[]): number =>
  requests.reduce((sum, { job }) => sum + ('rect' in job.ask ? areaOf(job.ask.rect) : TILE ** 2), 0);
const areaOf = ({ width, height }: Rect): number => width * height;

/** The frames that a job needs. */
export const framesNeeded = ({ ask }: Job): string[] =>
  framesOf([
    ...('steps' in ask ? [ask] : []),
    // A step that is solved may look at pictures that it takes from.
    ...('step' in ask && typeof ask.step === 'object' ? [{ head: ask.head, steps: [ask.step] }] : []),
    ...('other' in ask && ask.other ? [ask.other] : [])
  ]);

const ERRORS: Record<string, new (message: string) => Error> = { FileError, SizeError, DocumentError };

/** A bitmap that nobody waits for any more gives its memory back at once. */
export function discard(message: FromWorker): void {
  if (message.type !== 'answer' || !message.answer || !('pixels' in message.answer)) return;
  const { pixels } = message.answer;
  if ('close' in pixels) pixels.close();
}

/** Tells whoever asked what a worker says. */
export function answer(request: Request, message: FromWorker): void {
  if (message.type === 'ready' || message.type === 'unsolved' || message.type === 'unsettled') return;
  if (message.type === 'progress') request.onProgress?.(message.part);
  else if (message.type === 'answer') request.resolve(message.answer);
  else request.reject(new (ERRORS[message.error.name] ?? Error)(message.error.message));
}
