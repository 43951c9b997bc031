import type { SourceStep } from '../core/document';
import type { Frame } from '../core/raster/frame';
import { EngineError } from './engine-error';
import { Preparing, type Run } from './preparing';
import { SignsOfLife, SILENT } from './signs-of-life';
import {
  REMEMBERED_PARTS,
  type Answer,
  type FromWorker,
  type Job,
  type JobKind,
  type Jobs,
  type SharedPart,
  type ToWorker
} from './jobs';
import { answer, discard, framesNeeded, hasRoom, stopsSoon, type Request, type RunOptions } from './requests';

/** Why a worker is gone: it failed, its program could not be loaded, or it gave no sign for too long. */
export type Death = 'failed' | 'not loaded' | 'silent';

const NOT_LOADED =
  'The part of Kromba that computes could not be loaded: its server does not answer, or it was renewed. Nothing that was saved is lost. Try again, or reload the page.';
const BROUGHT_DOWN =
  'The computing was begun three times and came to no end. Undo the last change, or try again; nothing that was saved is lost.';

/** A worker as the pool sees it, whatever host it runs in. */
export interface Port {
  post(message: ToWorker): void;
  onMessage(listener: (message: FromWorker) => void): void;
  /** Called when the worker is gone without having been asked to go, and why. */
  onDeath(listener: (why: Death) => void): void;
  terminate(): void;
}

interface Member {
  port: Port;
  /** Numbers of the parts that it remembers, in the order in which it was told. */
  parts: number[];
  /** The steps that it was told last. */
  steps: { readonly part: number; readonly list: readonly SourceStep[] } | null;
  /** What is about to be sent to it. */
  outbox: ToWorker[];
  /** What it works on, and what waits behind it. */
  requests: Request[];
}

/** How many of the requests that were taken back last are remembered. */
const REMEMBERED = 1024;

/** A codec gives no sign while it unpacks a picture: a small file can hold a large one. In ms. */
const SILENT_OPENING = 180_000;
/** A request that brings down so many workers is given up. */
const MOST_DEATHS = 3;
/** So many workers in a row may fail to load before that is told; each waits a little longer, in ms. */
const MOST_UNLOADED = 4;
const LOAD_AGAIN = 250;

/**
 * Workers that share frames and take jobs from one queue, one by one, so that a request that is taken back costs at
 * most a step of the tile being computed. A worker that dies is replaced and its job asked again.
 */
export class Pool {
  private readonly members: Member[];
  private readonly frames = new Map<string, Frame>();
  private queue: Request[] = [];
  /** All that was asked for and is not answered yet. */
  private readonly unanswered = new Set<Request>();
  private readonly watched = new WeakMap<AbortSignal, Set<Request>>();
  private spare: Port | null = null;
  /** Numbers of requests that were taken back, each at its number's remainder: workers look before they begin. */
  private readonly dropped = new Int32Array(new SharedArrayBuffer(4 * REMEMBERED));
  private count = 0;
  /** What many jobs are about and was sent, by the very object. */
  private readonly parts = new WeakMap<object, number>();
  private partCount = 0;
  private closed = false;
  private dispatchIsDue = false;
  /** How many calls of `together` are under way. */
  private gathering = 0;
  private readonly life: SignsOfLife<Request>;
  /** What is known of whole pictures. */
  readonly preparing: Preparing<Request>;
  private unloaded = 0;
  /** Workers could not be loaded; the next work that is asked for tries again. */
  private broken = false;

  /**
   * @param spareAfter has a worker standing by, so that a long job need not wait for one to start: the first at once, the next
   *   so long after such a job, in ms, since what was opened is looked at first
   */
  constructor(
    private readonly spawn: () => Port,
    readonly size: number,
    private readonly spareAfter: number | null = null
  ) {
    this.life = new SignsOfLife(
      size,
      (place) => this.members[place].requests[0] ?? null,
      (place) => this.replace(this.members[place], 'silent'),
      ({ job }) => (job.kind === 'open' ? SILENT_OPENING : SILENT)
    );
    this.preparing = new Preparing<Request>(
      this.run.bind(this) as Run,
      (message) => this.members.forEach(({ port }) => port.post(message)),
      (requests) => {
        for (const request of requests) this.enqueue(request);
        this.dispatch();
      }
    );
    this.standBy();
    this.members = Array.from({ length: size }, (_, place) =>
      this.enlist({ requests: [] as Request[] } as Member, place)
    );
  }

  register(id: string, frame: Frame): void {
    this.frames.set(id, frame);
    for (const { port } of this.members) port.post({ type: 'frame', id, frame });
    this.dispatch();
  }

  /** Lets go of a frame; what needs it and is not done yet is taken back. */
  forget(id: string): void {
    this.frames.delete(id);
    const orphans = [...this.unanswered].filter(({ needs }) => needs.includes(id));
    this.takeBack(orphans, new DOMException('What it is about was closed.', 'AbortError'));
    this.preparing.forget(id);
    for (const { port } of this.members) port.post({ type: 'forget', id });
  }

  /** @throws what the job threw, or the signal's reason when it was taken back */
  run<K extends JobKind>(kind: K, ask: Jobs[K]['ask'], options: RunOptions = {}): Promise<Jobs[K]['answer']> {
    if (this.broken) this.mend();
    return this.promise({ kind, ask } as Job, options, (request) => {
      this.enqueue(request);
      this.dispatch();
    });
  }

  private enqueue(request: Request): void {
    const { priority = 0 } = request;
    const later = this.queue.findIndex((other) => (other.priority ?? 0) > priority);
    this.queue.splice(later < 0 ? this.queue.length : later, 0, request);
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
      port.onDeath((why) =>
        request.reject(
          new EngineError(
            why === 'not loaded' ? NOT_LOADED : 'The computing ended before its work was done. Try again.'
          )
        )
      );
      for (const [id, frame] of this.frames) port.post({ type: 'frame', id, frame });
      port.post({ type: 'job', number: request.number, job: request.job });
    });
    return running.finally(() => {
      port.terminate();
      if (this.spareAfter !== null) setTimeout(() => this.standBy(), this.spareAfter);
    });
  }

  /** Has a spare worker ready, and another one should it die while it waits. */
  private standBy(): void {
    if (this.spareAfter === null || this.closed || this.spare) return;
    const port = this.spawn();
    this.spare = port;
    port.onDeath((why) => {
      if (this.spare !== port) return;
      this.spare = null;
      if (why !== 'not loaded') this.standBy();
    });
  }

  close(): void {
    this.closed = true;
    this.preparing.close();
    this.life.end();
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
        needs: framesNeeded(job),
        reject: (error) => {
          this.forgetRequest(request);
          reject(error as Error);
        },
        number: ++this.count,
        deaths: 0,
        resolve: (answer) => {
          this.forgetRequest(request);
          resolve(answer as A);
        }
      };
      this.unanswered.add(request);
      if (signal) this.watch(signal, request);
      start(request);
    });
  }

  /** What was answered holds on to nothing, however long its signal lives. */
  private forgetRequest(request: Request): void {
    this.unanswered.delete(request);
    if (request.signal) this.watched.get(request.signal)?.delete(request);
  }

  /** Takes requests back when their signal says so; one listener a signal, however many requests. */
  private watch(signal: AbortSignal, request: Request): void {
    const known = this.watched.get(signal);
    if (known) return void known.add(request);
    const requests = new Set([request]);
    this.watched.set(signal, requests);
    signal.addEventListener('abort', () => this.takeBack([...requests], signal.reason as Error));
  }

  private takeBack(requests: readonly Request[], reason: Error): void {
    this.queue = this.queue.filter((other) => !requests.includes(other));
    this.preparing.drop(requests);
    for (const { number, reject } of requests) {
      Atomics.store(this.dropped, number % REMEMBERED, number);
      reject(reason);
    }
    // A worker that is at one of them stops within a step: what comes instead may go to it at once.
    for (const member of this.members)
      member.requests = member.requests.filter((other) => !requests.includes(other) || !stopsSoon(other));
    this.dispatchSoon();
  }

  /** When the page has said all that it has to say: what it takes back is often followed by what it wants instead. */
  private dispatchSoon(): void {
    if (this.dispatchIsDue) return;
    this.dispatchIsDue = true;
    queueMicrotask(() => {
      this.dispatchIsDue = false;
      this.dispatch();
    });
  }

  private enlist(member: Member, place: number): Member {
    const port = this.spawn();
    member.port = port;
    member.parts = [];
    member.steps = null;
    member.outbox = [];
    const { dropped } = this;
    port.post({ type: 'share', part: 1 / this.size, dropped, signs: this.life.signs, place });
    for (const [id, frame] of this.frames) port.post({ type: 'frame', id, frame });
    for (const message of this.preparing.toTell()) port.post(message);
    port.onMessage((message) => {
      if (message.type === 'ready') {
        this.unloaded = 0;
        return;
      }
      const request = member.requests.find(({ number }) => number === message.number);
      if (!request) return discard(message);
      if (message.type !== 'progress') {
        member.requests = member.requests.filter((other) => other !== request);
        this.prepare(request, message);
        this.dispatch();
      }
      answer(request, message);
    });
    port.onDeath((why) => {
      if (member.port === port) this.replace(member, why);
    });
    return member;
  }

  /** Sees to what an answer says is wanting. */
  private prepare(request: Request, message: FromWorker): void {
    if (request.signal?.aborted || this.closed) return;
    if (message.type === 'unsolved') this.preparing.unsolved(request, message.ask);
    else if (message.type === 'unsettled') this.preparing.unsettled(request, message.ask);
    else if (message.type === 'answer' && message.answer && 'waits' in message.answer && message.answer.waits)
      this.preparing.want(message.answer.waits);
  }

  private replace(member: Member, why: Death): void {
    if (this.closed || this.broken) return;
    const { requests } = member;
    member.requests = [];
    member.port.terminate();
    if (why === 'not loaded' && ++this.unloaded >= MOST_UNLOADED) return this.giveUp(requests);
    const place = this.members.indexOf(member);
    const begin = (): void => {
      if (this.closed || this.broken) return;
      this.enlist(member, place);
      this.dispatch();
    };
    if (why !== 'not loaded' && requests.length > 0 && ++requests[0].deaths >= MOST_DEATHS)
      requests.shift()!.reject(new EngineError(BROUGHT_DOWN));
    this.queue.unshift(...requests.filter(({ signal }) => !signal?.aborted));
    if (why === 'not loaded') setTimeout(begin, LOAD_AGAIN * this.unloaded);
    else begin();
  }

  /** No worker can be loaded: all that waits for one is told so. */
  private giveUp(requests: readonly Request[]): void {
    this.broken = true;
    const waiting = [
      ...requests,
      ...this.members.flatMap((m) => m.requests.splice(0)),
      ...this.queue.splice(0)
    ];
    for (const { port } of this.members) port.terminate();
    for (const { reject } of waiting) reject(new EngineError(NOT_LOADED));
  }

  private mend(): void {
    this.broken = false;
    this.unloaded = 0;
    this.members.forEach((member, place) => this.enlist(member, place));
    this.standBy();
  }

  /** Gives out what is asked for in `work` when all of it is known: each worker's part in one message. */
  together(work: () => void): void {
    this.gathering++;
    try {
      work();
    } finally {
      this.gathering--;
      this.dispatch();
    }
  }

  private dispatch(): void {
    if (this.gathering > 0 || this.closed || this.broken) return;
    this.give(false);
    while (this.give(true));
    for (const { port, outbox } of this.members) {
      const messages = outbox.splice(0);
      if (messages.length > 0) port.post(messages.length > 1 ? { type: 'together', messages } : messages[0]);
    }
  }

  /** Gives each worker that has room one request, to be begun at once or `ahead` of time. Says whether any was given. */
  private give(ahead: boolean): boolean {
    let given = false;
    this.members.forEach((member, index) => {
      const { requests } = member;
      const room = ahead ? hasRoom(requests) : requests.length === 0;
      const next = room ? this.nextFor(index, ahead) : -1;
      if (next < 0) return;
      const [request] = this.queue.splice(next, 1);
      requests.push(request);
      this.life.watch();
      this.hand(member, request);
      given = true;
    });
    return given;
  }

  /** Hands a request to a worker; its steps and its head only where it does not remember them. */
  private hand(member: Member, { number, job }: Request): void {
    const { outbox, parts: remembered } = member;
    if (!('steps' in job.ask)) return void outbox.push({ type: 'job', number, job });
    const { steps, head, ...rest } = job.ask;
    const { other, ...ask } = { other: undefined, ...rest };
    const told: Record<string, SharedPart> = { steps, head, ...(other && { other }) };
    const parts: Record<string, number> = {};
    for (const [name, value] of Object.entries(told)) {
      const part = (parts[name] = this.partOf(value));
      if (remembered.includes(part)) continue;
      outbox.push(value === steps ? this.tellSteps(member, part, steps) : { type: 'part', part, value });
      remembered.push(part);
      if (remembered.length > REMEMBERED_PARTS) remembered.shift();
    }
    outbox.push({ type: 'job', number, job: { ...job, ask } as Job, parts });
  }

  /** Steps of the list before, as they were, are told by their place: most often one has changed, and others may hold much. */
  private tellSteps(member: Member, part: number, list: readonly SourceStep[]): ToWorker {
    const { steps: last, parts } = member;
    member.steps = { part, list };
    if (!last || !parts.includes(last.part)) return { type: 'part', part, value: list };
    const places = new Map(last.list.map((step, i) => [step, i]));
    return { type: 'steps', part, like: last.part, steps: list.map((step) => places.get(step) ?? step) };
  }

  private partOf(value: object): number {
    let part = this.parts.get(value);
    if (part === undefined) this.parts.set(value, (part = ++this.partCount));
    return part;
  }

  /**
   * Where in the queue the next request for a worker stands: of the most urgent, one at home there, or one without a
   * home, or one whose home is busy; `ahead` of time only a tile at home there.
   */
  private nextFor(index: number, ahead: boolean): number {
    let found = -1;
    for (const [at, { priority = 0, needs, home, job }] of this.queue.entries()) {
      if (found >= 0 && priority > (this.queue[found].priority ?? 0)) break;
      // What waits for a frame that is still being opened lets others pass.
      if (!needs.every((id) => this.frames.has(id))) continue;
      const owner = home === undefined ? index : home % this.members.length;
      if (ahead && job.kind !== 'tile') return -1;
      if (owner === index) return at;
      if (!ahead && found < 0 && this.members[owner].requests.length > 0) found = at;
    }
    return found;
  }
}
