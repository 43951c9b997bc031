import { LRUCache } from 'lru-cache';
import { settleParts, type SettleAsk } from '../core/path/settled';
import { sharedSamples, type Frame } from '../core/raster/frame';
import { EngineError } from './engine-error';
import type { Run } from './preparing';

/** Results over whole pictures take so much memory together; the one used longest ago goes first. */
const BUDGET = 2 ** 30;
/** Behind what is looked at, before small pictures and exports. */
const PRIORITY = 5;
/** Making the smaller levels counts as so much of the whole. */
const PYRAMID_SHARE = 0.1;

const NO_MEMORY =
  'There is no memory for the whole picture at full size. It is shown as its smaller levels come to, which may differ a little from the export. Close other documents or tabs, and try again.';

/** Room for a result, to be filled by all workers. @throws EngineError */
function roomFor({ common: { width, height }, channels }: SettleAsk): Float32Array {
  try {
    return sharedSamples('f32', width * height * channels) as Float32Array;
  } catch {
    throw new EngineError(NO_MEMORY);
  }
}

/** Computes a result over the whole picture, by all workers. @throws EngineError where there is no memory for it */
export async function computeWhole(
  run: Run,
  ask: SettleAsk,
  signal: AbortSignal,
  onProgress: (part: number) => void
): Promise<Frame> {
  const { head, steps, pins, common, beyond } = ask;
  const samples = roomFor(ask);
  const source = { head, steps, pins, common, beyond, samples };
  const stopped = new AbortController();
  const options = { priority: PRIORITY, signal: AbortSignal.any([signal, stopped.signal]) };
  const rects = settleParts(ask);
  let done = 0;
  const parts = rects.map((rect) =>
    run('settle', { ...source, rect }, options).finally(() =>
      onProgress(((1 - PYRAMID_SHARE) * ++done) / rects.length)
    )
  );
  try {
    await Promise.all(parts);
  } catch (error) {
    stopped.abort(error);
    throw error;
  }
  return (await run('pyramid', source, options)).frame;
}

interface Kept {
  readonly ask: SettleAsk;
  readonly frame: Frame;
}

/** The results over whole pictures that are kept, by what they depend on. */
export class WholeResults {
  private readonly kept: LRUCache<string, Kept>;

  /** @param onGone told the key of one that is kept no longer */
  constructor(onGone: (key: string) => void) {
    this.kept = new LRUCache<string, Kept>({
      maxSize: BUDGET,
      sizeCalculation: ({ ask }) => ask.bytes,
      dispose: (_, key) => onGone(key)
    });
  }

  get(key: string): Frame | undefined {
    return this.kept.get(key)?.frame;
  }

  set(ask: SettleAsk, frame: Frame): void {
    this.kept.set(ask.key, { ask, frame }, { noDisposeOnSet: true });
  }

  /** Those that are there, the one used longest ago first. */
  all(): [key: string, frame: Frame][] {
    return [...this.kept.rkeys()].map((key) => [key, this.kept.peek(key)!.frame]);
  }

  forget(which: (ask: SettleAsk) => boolean): void {
    for (const key of [...this.kept.keys()]) if (which(this.kept.peek(key)!.ask)) this.kept.delete(key);
  }
}
