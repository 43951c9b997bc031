import { LRUCache } from 'lru-cache';
import { framesOf } from '../core/document';
import { opOf } from '../core/ops';
import type { SolveAsk } from '../core/path/solver';
import type { SettleAsk } from '../core/path/settled';
import type { Frame } from '../core/raster/frame';
import { EngineError } from './engine-error';
import type { JobKind, Jobs, ToWorker } from './jobs';
import { Prerequisites, type Waiting } from './prerequisites';
import { computeWhole, WholeResults } from './whole-results';

/** Long work on a step. */
export interface LongWork {
  readonly step: string;
  readonly doing: 'looking at the picture' | 'computing the whole picture';
  /** 0…1. */
  readonly part: number;
}

/** Has workers do something. */
export type Run = <K extends JobKind>(
  kind: K,
  ask: Jobs[K]['ask'],
  options: {
    readonly priority: number;
    readonly signal: AbortSignal;
    readonly home?: number;
    readonly onProgress?: (part: number) => void;
  }
) => Promise<Jobs[K]['answer']>;

/** What is solved goes a little before what waits for it. */
const AHEAD = 0.5;
const MOST_SOLVED = 24;
/** A result over the whole picture is begun when nothing else was asked of its step for so long, in ms. */
const QUIET = 250;

const TOO_MUCH =
  'This picture and those that it takes from need more memory at once than Kromba keeps for them (1 GB). Use smaller radii, or let it take from fewer pictures; nothing that was saved is lost.';

/** Where one of several fails the others are taken back. @throws what it threw */
async function allOrNone<T>(
  signal: AbortSignal,
  work: (signal: AbortSignal) => readonly Promise<T>[]
): Promise<T[]> {
  const stopped = new AbortController();
  const all = work(AbortSignal.any([signal, stopped.signal]));
  try {
    return await Promise.all(all);
  } catch (error) {
    stopped.abort(error);
    await Promise.allSettled(all);
    throw error;
  }
}

/** A result that is to be there for the screen's sake, though nothing waits for it. */
class Background implements Waiting {
  timer: ReturnType<typeof setTimeout> | undefined;
  failed = false;
  constructor(
    readonly ask: SettleAsk,
    private readonly onFailed: (error: unknown) => void
  ) {}
  /** It stays as it is on the screen, and is not tried again by itself. */
  reject(error: unknown): void {
    clearTimeout(this.timer);
    this.failed = true;
    if ((error as Error).name !== 'AbortError') this.onFailed(error);
  }
}

/**
 * What has to be known of whole pictures before requests can be done: what steps are solved to, and results that are kept.
 * Each is made once for all workers.
 */
export class Preparing<R extends Waiting> {
  private readonly solved = new LRUCache<string, object>({ max: MOST_SOLVED });
  private readonly results = new WholeResults((key) => this.tell({ type: 'settled', key, frame: null }));
  private readonly solving: Prerequisites<SolveAsk, object, R>;
  private readonly settling: Prerequisites<SettleAsk, Frame, R | Background>;
  /** By their picture and step. */
  private readonly background = new Map<string, Background>();
  /** What requests have waited for. */
  private readonly had = new WeakMap<R, Set<string>>();
  private readonly atWork = new Map<object, LongWork>();
  /** Told of long work on steps whenever that changes. */
  onWork: (work: readonly LongWork[]) => void = () => undefined;
  /** Told when a result is there over a whole picture: what is shown from a smaller level may look otherwise. */
  onWhole: () => void = () => undefined;
  /** Told why such a result that the screen wants can't be had. */
  onFailed: (error: unknown) => void = () => undefined;

  /**
   * @param tell says something to all workers
   * @param again sends out requests that have waited
   */
  constructor(
    private readonly run: Run,
    private readonly tell: (message: ToWorker) => void,
    again: (requests: readonly R[]) => void
  ) {
    this.solving = new Prerequisites(
      (key) => this.solved.get(key),
      (ask, signal, priority) => this.solve(ask, signal, priority),
      ({ key }, solution, waited) => {
        this.solved.set(key, solution);
        tell({ type: 'solution', key, solution });
        again(waited);
      },
      true
    );
    this.settling = new Prerequisites(
      (key) => this.results.get(key),
      (ask, signal) => this.settle(ask, signal),
      (ask, frame, waited) => {
        this.results.set(ask, frame);
        tell({ type: 'settled', key: ask.key, frame });
        this.leaveAll(({ key }) => key === ask.key);
        again(waited.filter((request): request is R => !(request instanceof Background)));
        this.onWhole();
      },
      false
    );
  }

  /** What a new worker has to be told. */
  toTell(): ToWorker[] {
    return this.results.all().map(([key, frame]) => ({ type: 'settled', key, frame }));
  }

  /** `request` can't be done before a step is solved. */
  unsolved(request: R, ask: SolveAsk): void {
    this.solving.await(request, ask);
  }

  /** `request` can't be done before a result is there over the whole picture. */
  unsettled(request: R, ask: SettleAsk): void {
    const had = this.had.get(request) ?? new Set<string>();
    this.had.set(request, had);
    // It was there, and has gone for the sake of another that the request needs as well.
    if (had.has(ask.key)) return request.reject(new EngineError(TOO_MUCH));
    had.add(ask.key);
    this.settling.await(request, ask);
  }

  /** What is looked at will look otherwise when this is there: it is computed when nothing is changed for a while. */
  want(ask: SettleAsk): void {
    if (this.results.get(ask.key)) return;
    const slot = `${ask.head.key} ${ask.step}`;
    const before = this.background.get(slot);
    if (before?.ask.key === ask.key) return;
    if (before) this.leave(before);
    const next = new Background(ask, (error) => this.onFailed(error));
    next.timer = setTimeout(() => this.settling.await(next, ask), QUIET);
    this.background.set(slot, next);
  }

  /** What could not be had may be tried again. */
  again(): void {
    for (const [slot, { failed }] of this.background) if (failed) this.background.delete(slot);
  }

  /** Requests were taken back. */
  drop(requests: readonly R[]): void {
    this.solving.drop(requests);
    this.settling.drop(requests);
  }

  /** A frame is looked at no more. */
  forget(frame: string): void {
    const isOf = (ask: SettleAsk): boolean => framesOf([ask]).includes(frame);
    this.leaveAll(isOf);
    this.results.forget(isOf);
  }

  close(): void {
    this.leaveAll(() => true);
  }

  private leaveAll(which: (ask: SettleAsk) => boolean): void {
    for (const [slot, background] of this.background) {
      if (!which(background.ask)) continue;
      this.leave(background);
      this.background.delete(slot);
    }
  }

  private leave(background: Background): void {
    clearTimeout(background.timer);
    this.settling.drop([background]);
  }

  private solve(ask: SolveAsk, signal: AbortSignal, priority: number): Promise<object> {
    const what = { doing: 'looking at the picture', step: ask.step.id } as const;
    return this.told(what, async (tell) => {
      const options = { priority: priority - AHEAD, signal };
      const { stages: given = [] } = opOf(ask.step.op);
      const share = given.length / (given.length + 1);
      const stages = given.length > 0 ? await this.stages(ask, options, (part) => tell(share * part)) : [];
      const onProgress = (part: number): void => tell(share + (1 - share) * part);
      return (await this.run('solve', { ...ask, stages }, { ...options, home: 0, onProgress })).solution;
    });
  }

  /** What an op looks at before it is solved, in parts by all workers. */
  private async stages(
    ask: SolveAsk,
    options: { readonly priority: number; readonly signal: AbortSignal },
    tell: (part: number) => void
  ): Promise<readonly unknown[]> {
    const { stages = [], needs } = opOf(ask.step.op);
    const before: unknown[] = [];
    for (const [stage, { parts }] of stages.entries()) {
      const all = parts(needs!(ask.step.params), ask.common);
      let done = 0;
      const found = await allOrNone(options.signal, (signal) =>
        all.map(async (part) => {
          const { made } = await this.run('stage', { ...ask, stage, before, part }, { ...options, signal });
          tell((stage + ++done / all.length) / stages.length);
          return made;
        })
      );
      before.push((await this.run('stage', { ...ask, stage, before, found }, options)).made);
    }
    return before;
  }

  private settle(ask: SettleAsk, signal: AbortSignal): Promise<Frame> {
    const what = { doing: 'computing the whole picture', step: ask.step } as const;
    return this.told(what, (onProgress) => computeWhole(this.run, ask, signal, onProgress));
  }

  /** Tells how far long work on a step is. */
  private async told<T>(
    what: Omit<LongWork, 'part'>,
    work: (onProgress: (part: number) => void) => Promise<T>
  ): Promise<T> {
    const key = {};
    const tell = (part: number): void => {
      this.atWork.set(key, { ...what, part });
      this.onWork([...this.atWork.values()]);
    };
    tell(0);
    try {
      return await work(tell);
    } finally {
      this.atWork.delete(key);
      this.onWork([...this.atWork.values()]);
    }
  }
}
