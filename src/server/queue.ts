import { readFile } from 'node:fs/promises';
import { availableParallelism, hostname } from 'node:os';
import { join } from 'node:path';
import type { Job as Queued, Queue, QueueEvents, Worker } from 'bullmq';
import { z } from 'zod';
import { placeOf, withFiles, type Files } from './files';
import type { Limits, QueueOptions } from './limits';
import { problemOf, type Job, type Made } from './perform';
import { Problem, PROBLEMS, type ProblemCode } from './problem';
import { LocalRunner, Places, type Place, type Runner } from './runner';

const NAME = 'kromba';
/** Work that fails for no reason of its own is tried so often; so many workers may it bring down. */
const ATTEMPTS = 3;
const MOST_DEATHS = 3;
/** How many of those that were done, or set aside, are remembered; seconds. */
const DONE = { count: 1000, age: 3600 };
const SET_ASIDE = { count: 1000, age: 7 * 86_400 };

interface Data {
  readonly job: Job;
  /** Where what is made goes. */
  readonly out: string;
}

/** What a worker answers: where it is a problem that is no fault of the worker's, trying again would not help. */
type Answer =
  | { readonly notices: readonly string[] }
  | { readonly problem: { readonly code: ProblemCode; readonly message: string; readonly field?: string } };

/** @throws Error in words where the address is none, or nobody answers there */
async function connected(url: string): Promise<{ readonly url: string }> {
  const { protocol } = z.url().safeParse(url).success ? new URL(url) : { protocol: '' };
  if (!/^rediss?:$/.test(protocol))
    throw new Error(`KROMBA_QUEUE=${url} is no address of a Redis server, such as redis://127.0.0.1:6379.`);
  const { Redis } = await import('ioredis');
  const trial = new Redis(url, { lazyConnect: true, maxRetriesPerRequest: 0, retryStrategy: () => null });
  trial.on('error', () => undefined);
  try {
    await trial.connect();
    await trial.ping();
  } catch (error) {
    const { host } = new URL(url);
    throw new Error(
      `There is no Redis server at ${host} (${(error as Error).message}). Begin it, or leave KROMBA_QUEUE out.`,
      { cause: error }
    );
  } finally {
    trial.disconnect();
  }
  return { url };
}

const tellTrouble = (error: Error): void => void process.stderr.write(`The queue: ${error.message}\n`);

/** Puts work on the queue, and waits for what workers on any machine make of it. */
export class QueueRunner implements Runner {
  private readonly places: Places;
  private made = 0;

  private constructor(
    private readonly queue: Queue<Data, Answer>,
    private readonly events: QueueEvents,
    limits: Limits
  ) {
    this.places = new Places(limits.waiting);
  }

  static async begun(options: QueueOptions, limits: Limits): Promise<QueueRunner> {
    const connection = await connected(options.url);
    const { Queue, QueueEvents } = await import('bullmq');
    const queue = new Queue<Data, Answer>(NAME, {
      connection: { ...connection, maxRetriesPerRequest: 1, enableOfflineQueue: false },
      defaultJobOptions: { attempts: ATTEMPTS, removeOnComplete: DONE, removeOnFail: SET_ASIDE }
    });
    const events = new QueueEvents(NAME, { connection });
    // Each piece of work listens for its end.
    queue.setMaxListeners(0);
    events.setMaxListeners(0);
    queue.on('error', tellTrouble);
    events.on('error', tellTrouble);
    await Promise.all([queue.waitUntilReady(), events.waitUntilReady()]);
    return new QueueRunner(queue, events, limits);
  }

  get state(): Runner['state'] {
    return this.places.state;
  }

  reserve(count: number, folder: string): Place {
    return this.places.reserve(count, (job, signal) => this.run(job, folder, signal));
  }

  private async run(job: Job, folder: string, signal: AbortSignal): Promise<Made> {
    const all = join(folder, '..', '..');
    const out = join(folder, `made-${this.made++}`);
    const data = {
      job: withFiles(job, (file) => ({ ...file, path: placeOf(all, file.path) })),
      out: placeOf(all, out)
    };
    signal.throwIfAborted();
    const queued = await this.queue.add('work', data).catch((error: Error) => {
      tellTrouble(error);
      throw new Problem('no-queue', 'The queue of work can’t be reached.');
    });
    const gone = new Promise<never>((_, reject) =>
      signal.addEventListener('abort', () => reject(signal.reason as Error), { once: true })
    );
    try {
      const answer = await Promise.race([queued.waitUntilFinished(this.events), gone]);
      if ('problem' in answer) {
        const { code, message, field } = answer.problem;
        throw new Problem(code in PROBLEMS ? code : 'failed', message, field);
      }
      return { file: new Blob([await readFile(out)]), notices: answer.notices };
    } catch (error) {
      if (signal.aborted) {
        // One that is being worked on can't be taken away: what it comes to is not wanted, which its worker learns then.
        await queued.remove().catch(() => undefined);
        throw signal.reason;
      }
      if (error instanceof Problem) throw error;
      throw setAside(error as Error);
    }
  }

  async close(): Promise<void> {
    await Promise.all([this.queue.close(), this.events.close()]);
  }
}

/** What failed on every attempt. */
function setAside(error: Error): Problem {
  tellTrouble(error);
  return /stalled/.test(error.message)
    ? new Problem('failed', `The work brought down ${MOST_DEATHS} workers, and was set aside.`)
    : new Problem('failed', 'The computing failed, and was set aside. It was told to who runs the workers.');
}

/** Takes work from the queue, as much at once as there are cores, until it is closed. @throws Error in words */
export async function startWorker(
  { url, signSeconds }: QueueOptions,
  files: Files,
  limits: Limits
): Promise<{ close(): Promise<void> }> {
  const connection = await connected(url);
  const { Worker } = await import('bullmq');
  const cores = availableParallelism();
  const runner = new LocalRunner(limits);
  const work = async ({ data }: Queued<Data, Answer>): Promise<Answer> => {
    const { job, free } = await files.fetch(data.job);
    const place = runner.reserve(1);
    try {
      const made = await place.run(job, new AbortController().signal);
      await files.keep(data.out, made.file);
      return { notices: made.notices };
    } catch (error) {
      const problem = problemOf(error);
      if (!(problem instanceof Problem)) throw error;
      return { problem: problem.told.error };
    } finally {
      place.free();
      await free();
    }
  };
  const worker: Worker<Data, Answer> = new Worker(NAME, work, {
    connection: { ...connection, maxRetriesPerRequest: null },
    concurrency: cores,
    name: `${hostname()}-${process.pid}`,
    lockDuration: signSeconds * 1000,
    stalledInterval: signSeconds * 1000,
    maxStalledCount: MOST_DEATHS - 1
  });
  worker.on('error', tellTrouble);
  worker.on('failed', (_, error) => tellTrouble(error));
  await worker.waitUntilReady();
  return {
    async close() {
      // What is under way is done; nothing more is taken.
      await worker.close();
      runner.close();
    }
  };
}
