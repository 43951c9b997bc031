import type { Frame } from '../core/raster/frame';
import { DocumentError, type SourceStep } from '../core/document';
import { FileError } from '../core/files';
import type { Answer, FromWorker, Job, JobKind, Jobs, ToWorker } from './jobs';

/** A worker as the pool sees it, whatever host it runs in. */
export interface Port {
  post(message: ToWorker): void;
  onMessage(listener: (message: FromWorker) => void): void;
  /** Called when the worker is gone without having been asked to go. */
  onDeath(listener: () => void): void;
  terminate(): void;
}

export interface RunOptions {
  /** Smaller goes first. */
  readonly priority?: number;
  /** Takes the request back: it leaves the queue, or its answer is ignored. */
  readonly signal?: AbortSignal;
  readonly onProgress?: (part: number) => void;
}

interface Request extends RunOptions {
  readonly number: number;
  readonly job: Job;
  /** Frames of other pictures without which it can't begin. */
  readonly needs: readonly string[];
  readonly resolve: (answer: Answer) => void;
  readonly reject: (error: unknown) => void;
  deaths: number;
}

interface Member {
  port: Port;
  request: Request | null;
}

/** A request that brings down so many workers is given up. */
const MOST_DEATHS = 3;

/**
 * Workers that share frames and take jobs from one queue, one at a time each, so that a request that is taken
 * back costs at most the tile being computed. A worker that dies is replaced and its job asked again.
 */
export class Pool {
  private readonly members: Member[];
  private readonly frames = new Map<string, Frame>();
  private queue: Request[] = [];
  private readonly watched = new WeakMap<AbortSignal, Request[]>();
  private spare: Port | null = null;
  private count = 0;
  private closed = false;

  /** @param keepsSpare has a worker standing by, so that a long job need not wait for one to start */
  constructor(
    private readonly spawn: () => Port,
    size: number,
    private readonly keepsSpare = false
  ) {
    this.standBy();
    this.members = Array.from({ length: size }, () => this.enlist({ request: null } as Member));
  }

  register(id: string, frame: Frame): void {
    this.frames.set(id, frame);
    for (const { port } of this.members) port.post({ type: 'frame', id, frame });
    this.dispatch();
  }

  forget(id: string): void {
    this.frames.delete(id);
    for (const { port } of this.members) port.post({ type: 'forget', id });
  }

  /** @throws what the job threw, or the signal's reason when it was taken back */
  run<K extends JobKind>(kind: K, ask: Jobs[K]['ask'], options: RunOptions = {}): Promise<Jobs[K]['answer']> {
    return this.promise({ kind, ask } as Job, options, (request) => {
      const { priority = 0 } = options;
      const later = this.queue.findIndex((other) => (other.priority ?? 0) > priority);
      this.queue.splice(later < 0 ? this.queue.length : later, 0, request);
      this.dispatch();
    });
  }

  /** Runs a long job in a worker of its own, which ends with it or as soon as it is taken back. */
  runApart<K extends JobKind>(
    kind: K,
    ask: Jobs[K]['ask'],
    options: RunOptions = {}
  ): Promise<Jobs[K]['answer']> {
    const port = this.spare ?? this.spawn();
    this.spare = null;
    const running = this.promise({ kind, ask } as Job, options, (request) => {
      port.onMessage((message) => answer(request, message));
      port.onDeath(() => request.reject(new Error('The worker ended before its work was done.')));
      for (const [id, frame] of this.frames) port.post({ type: 'frame', id, frame });
      port.post({ type: 'job', number: request.number, job: request.job });
    });
    return running.finally(() => {
      port.terminate();
      this.standBy();
    });
  }

  /** Has a spare worker ready, and another one should it die while it waits. */
  private standBy(): void {
    if (!this.keepsSpare || this.closed || this.spare) return;
    const port = this.spawn();
    this.spare = port;
    port.onDeath(() => {
      if (this.spare !== port) return;
      this.spare = null;
      this.standBy();
    });
  }

  close(): void {
    this.closed = true;
    this.spare?.terminate();
    for (const { port } of this.members) port.terminate();
  }

  private promise<A extends Answer>(
    job: Job,
    options: RunOptions,
    start: (request: Request) => void
  ): Promise<A> {
    const { signal } = options;
    return new Promise<A>((resolve, reject) => {
      if (signal?.aborted) return reject(signal.reason as Error);
      const request: Request = {
        ...options,
        job,
        needs: framesOf(job),
        reject,
        number: ++this.count,
        deaths: 0,
        resolve: resolve as (answer: Answer) => void
      };
      if (signal) this.watch(signal, request);
      start(request);
    });
  }

  /** Takes requests back when their signal says so; one listener a signal, however many requests. */
  private watch(signal: AbortSignal, request: Request): void {
    const known = this.watched.get(signal);
    if (known) return void known.push(request);
    const requests = [request];
    this.watched.set(signal, requests);
    signal.addEventListener('abort', () => {
      this.queue = this.queue.filter((other) => !requests.includes(other));
      for (const { reject } of requests) reject(signal.reason as Error);
    });
  }

  private enlist(member: Member): Member {
    member.port = this.spawn();
    for (const [id, frame] of this.frames) member.port.post({ type: 'frame', id, frame });
    member.port.onMessage((message) => {
      if (!member.request || message.number !== member.request.number) return;
      const { request } = member;
      if (message.type !== 'progress') {
        member.request = null;
        this.dispatch();
      }
      answer(request, message);
    });
    member.port.onDeath(() => this.replace(member));
    return member;
  }

  private replace(member: Member): void {
    if (this.closed) return;
    const { request } = member;
    member.request = null;
    member.port.terminate();
    this.enlist(member);
    if (request && !request.signal?.aborted) {
      if (++request.deaths >= MOST_DEATHS)
        request.reject(new Error('The work brought its worker down three times.'));
      else this.queue.unshift(request);
    }
    this.dispatch();
  }

  private dispatch(): void {
    for (const member of this.members) {
      if (member.request) continue;
      // What waits for a frame that is still being opened lets others pass.
      const next = this.queue.findIndex(({ needs }) => needs.every((id) => this.frames.has(id)));
      if (next < 0) return;
      const [request] = this.queue.splice(next, 1);
      member.request = request;
      member.port.post({ type: 'job', number: request.number, job: request.job });
    }
  }
}

/** The frames of other pictures that a job needs beside its own. */
function framesOf({ ask }: Job): string[] {
  const found: string[] = [];
  const visit = (steps: readonly SourceStep[]): void => {
    for (const { beside } of steps) {
      for (const { frame, steps } of Object.values(beside?.pictures ?? {})) {
        found.push(frame);
        visit(steps);
      }
    }
  };
  if ('steps' in ask) visit(ask.steps);
  if ('other' in ask) {
    found.push(ask.other.frame);
    visit(ask.other.steps);
  }
  return found;
}

const ERRORS: Record<string, new (message: string) => Error> = { FileError, DocumentError };

function answer(request: Request, message: FromWorker): void {
  if (message.type === 'progress') request.onProgress?.(message.part);
  else if (message.type === 'answer') request.resolve(message.answer);
  else request.reject(new (ERRORS[message.error.name] ?? Error)(message.error.message));
}
