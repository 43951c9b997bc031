import { availableParallelism } from 'node:os';
import pLimit from 'p-limit';
import { nodePool } from '../engine/node/pool';
import type { Pool } from '../engine/pool';
import type { Limits } from './limits';
import { perform, type Job, type Made } from './perform';
import { Problem } from './problem';

/** Who does the work that is asked for. */
export interface Runner {
  /**
   * Keeps places for so many pieces of work.
   * @param folder of the request, in that of the server @throws Problem when as much waits as may
   */
  reserve(count: number, folder: string): Place;
  readonly state: { readonly working: number; readonly waiting: number };
  /** Ends it, and what is still under way. */
  close(): void | Promise<void>;
}

export interface Place {
  /** @throws Problem; the signal's reason; what else went wrong */
  run(job: Job, signal: AbortSignal): Promise<Made>;
  /** Gives back what was not run. */
  free(): void;
}

type Run = (job: Job, signal: AbortSignal) => Promise<Made>;

/** The places of what waits and what is worked on. */
export class Places {
  private reserved = 0;
  private working = 0;

  constructor(private readonly most: number) {}

  get state(): { working: number; waiting: number } {
    return { working: this.working, waiting: this.reserved - this.working };
  }

  /** @param run begins when its turn has come, which it tells by `inTurn` */
  reserve(count: number, run: Run): Place {
    if (this.state.waiting + count > this.most)
      throw new Problem('busy', 'As much waits to be computed as may wait. Ask again in a while.');
    this.reserved += count;
    let left = count;
    const free = (some: number): void => {
      const given = Math.min(some, left);
      left -= given;
      this.reserved -= given;
    };
    return { run: (job, signal) => run(job, signal).finally(() => free(1)), free: () => free(left) };
  }

  async inTurn<T>(work: () => Promise<T>): Promise<T> {
    this.working++;
    try {
      return await work();
    } finally {
      this.working--;
    }
  }
}

/** Does it in this process, as many pieces at once as there are cores. */
export class LocalRunner implements Runner {
  private readonly cores = availableParallelism();
  private readonly limit = pLimit(this.cores);
  private readonly places: Places;
  private pool: Pool | null = null;

  constructor(private readonly limits: Limits) {
    this.places = new Places(limits.waiting);
  }

  get state(): Runner['state'] {
    return this.places.state;
  }

  reserve(count: number): Place {
    return this.places.reserve(count, (job, signal) =>
      this.limit(() => this.places.inTurn(() => this.run(job, signal)))
    );
  }

  private async run(job: Job, asked: AbortSignal): Promise<Made> {
    asked.throwIfAborted();
    const { seconds, pixels, fileBytes } = this.limits;
    const late = new AbortController();
    const timer = setTimeout(
      () => late.abort(new Problem('too-long', `The work takes longer than ${seconds} s, and was stopped.`)),
      seconds * 1000
    );
    try {
      // Begun by the first who needs it: most only look at the pages.
      this.pool ??= nodePool(this.cores, { mostPixels: pixels });
      const signal = AbortSignal.any([asked, late.signal]);
      return await perform(job, { pool: this.pool, signal, fileBytes });
    } finally {
      clearTimeout(timer);
    }
  }

  close(): void {
    this.pool?.close();
  }
}
