import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { headOf } from '../core/heads';
import type { SolveAsk } from '../core/path/solver';
import type { SettleAsk } from '../core/path/settled';
import { lyingPlain } from '../core/raster/geometry';
import type { Frame } from '../core/raster/frame';
import { noiseFrame, stepOf } from '../core/testing';
import type { ToWorker } from './jobs';
import { Preparing, type LongWork, type Run } from './preparing';

interface Asked {
  readonly kind: string;
  readonly priority: number;
  readonly signal: AbortSignal;
  answer(value: unknown): void;
  fail(error: Error): void;
}
interface Request {
  readonly name: string;
  readonly priority?: number;
  reject(error: unknown): void;
}

/** Workers that answer when they are told to. */
function prepared(): { preparing: Preparing<Request>; asked: Asked[]; told: ToWorker[]; again: string[] } {
  const asked: Asked[] = [];
  const told: ToWorker[] = [];
  const again: string[] = [];
  interface Options {
    readonly signal: AbortSignal;
    readonly priority: number;
  }
  const run = (kind: string, _: object, { signal, priority }: Options): Promise<unknown> =>
    new Promise((answer, fail) => {
      signal.addEventListener('abort', () => fail(signal.reason));
      asked.push({ kind, priority, signal, answer, fail });
    });
  const preparing = new Preparing<Request>(
    run as unknown as Run,
    (message) => told.push(message),
    (requests) => again.push(...requests.map(({ name }) => name))
  );
  return { preparing, asked, told, again };
}

const settleAsk = (key: string, more: Partial<SettleAsk> = {}): SettleAsk => ({
  ...{ key, head: headOf('f'), steps: [stepOf('local')], pins: [], step: 's', beyond: 0 },
  ...{ common: lyingPlain({ width: 1500, height: 300 }), channels: 3, bytes: 1000, reach: 20 },
  ...more
});
const frame: Frame = noiseFrame(8, 8);
const request = (name: string, priority?: number): Request & { rejected: unknown[] } => {
  const rejected: unknown[] = [];
  return { name, priority, rejected, reject: (error) => rejected.push(error) };
};
/** All parts of a result, and what is made of them. */
async function finish(asked: Asked[]): Promise<void> {
  for (const { kind, answer } of asked) if (kind === 'settle') answer(null);
  await vi.advanceTimersByTimeAsync(1);
  asked.findLast(({ kind }) => kind === 'pyramid')!.answer({ frame });
  await vi.advanceTimersByTimeAsync(1);
}

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

describe('what a step is solved to', () => {
  const ask: SolveAsk = {
    ...{ key: 'k', head: headOf('f'), steps: [], pins: [], beyond: 0, step: stepOf('equalize') },
    common: lyingPlain({ width: 64, height: 64 })
  };

  it('is looked for a little before what waits for it, and once for all', async () => {
    const { preparing, asked, told, again } = prepared();
    const [small, other, tile] = [request('small', 9), request('other', 9), request('tile', 1)];
    preparing.unsolved(small, ask);
    preparing.unsolved(other, ask);
    expect(asked.map(({ kind, priority }) => [kind, priority])).toEqual([['solve', 8.5]]);
    // Somebody is in more haste than the small pictures are: it is begun anew.
    preparing.unsolved(tile, ask);
    expect(asked.map(({ priority, signal }) => [priority, signal.aborted])).toEqual([
      [8.5, true],
      [0.5, false]
    ]);
    asked[1].answer({ solution: { found: 1 } });
    await vi.advanceTimersByTimeAsync(1);
    expect(again).toEqual(['small', 'other', 'tile']);
    expect([small, other, tile].flatMap(({ rejected }) => rejected)).toEqual([]);
    expect(told).toEqual([{ type: 'solution', key: 'k', solution: { found: 1 } }]);
  });
});

describe('what is looked at in parts', () => {
  const ask: SolveAsk = {
    ...{ key: 'k', head: headOf('f'), steps: [], pins: [], beyond: 0, step: stepOf('stars') },
    common: lyingPlain({ width: 6000, height: 2000 })
  };
  const kindsOf = (asked: readonly Asked[]): string[] => asked.map(({ kind }) => kind);

  it('goes to all workers, is put together, and then solved', async () => {
    const { preparing, asked, told } = prepared();
    const work: (readonly LongWork[])[] = [];
    preparing.onWork = (list) => work.push(list);
    preparing.unsolved(request('tile', 1), ask);
    const first = asked.length;
    expect(first).toBeGreaterThan(1);
    expect(new Set(kindsOf(asked))).toEqual(new Set(['stage']));
    for (const one of asked.slice(0, first)) one.answer({ made: 'part' });
    await vi.advanceTimersByTimeAsync(1);
    // Put together, and then two parts of two bands of 512 rows.
    asked[first].answer({ made: 'light' });
    await vi.advanceTimersByTimeAsync(1);
    expect(kindsOf(asked.slice(first))).toEqual(['stage', 'stage', 'stage']);
    asked[first + 1].answer({ made: 'part' });
    await vi.advanceTimersByTimeAsync(1);
    expect(work.at(-1)).toEqual([expect.objectContaining({ part: expect.closeTo(0.5, 6) as number })]);
    asked[first + 2].answer({ made: 'part' });
    await vi.advanceTimersByTimeAsync(1);
    asked[first + 3].answer({ made: 'stars' });
    await vi.advanceTimersByTimeAsync(1);
    expect(kindsOf(asked.slice(first + 4))).toEqual(['solve']);
    asked.at(-1)!.answer({ solution: { stars: [] } });
    await vi.advanceTimersByTimeAsync(1);
    expect(told).toEqual([{ type: 'solution', key: 'k', solution: { stars: [] } }]);
  });

  it('is taken back where one part fails, and tells why', async () => {
    const { preparing, asked } = prepared();
    const tile = request('tile', 1);
    preparing.unsolved(tile, ask);
    asked[0].fail(new Error('too much'));
    await vi.advanceTimersByTimeAsync(1);
    expect(asked.slice(1).every(({ signal }) => signal.aborted)).toBe(true);
    expect(tile.rejected).toEqual([new Error('too much')]);
  });
});

describe('a result over the whole picture', () => {
  it('is computed in parts when nothing was changed for a while, told to all, and asked for once', async () => {
    const { preparing, asked, told } = prepared();
    const whole = vi.fn();
    preparing.onWhole = whole;
    const work: (readonly LongWork[])[] = [];
    preparing.onWork = (list) => work.push(list);
    preparing.want(settleAsk('a'));
    preparing.want(settleAsk('a'));
    await vi.advanceTimersByTimeAsync(200);
    expect(asked).toHaveLength(0);
    await vi.advanceTimersByTimeAsync(100);
    // 1500 × 300 in parts of 1024 × 256.
    expect(asked.map(({ kind }) => kind)).toEqual(Array(4).fill('settle'));
    asked[0].answer(null);
    await vi.advanceTimersByTimeAsync(1);
    expect(work.at(-1)).toEqual([
      { step: 's', doing: 'computing the whole picture', part: expect.closeTo(0.225, 6) }
    ]);
    await finish(asked);
    expect(told).toEqual([{ type: 'settled', key: 'a', frame }]);
    expect(whole).toHaveBeenCalledTimes(1);
    expect(work.at(-1)).toEqual([]);
    expect(preparing.toTell()).toEqual([{ type: 'settled', key: 'a', frame }]);
    preparing.want(settleAsk('a'));
    await vi.advanceTimersByTimeAsync(1000);
    expect(asked).toHaveLength(5);
  });

  it('is left at once when its step comes to something else, and another step’s is not', async () => {
    const { preparing, asked } = prepared();
    preparing.want(settleAsk('a'));
    preparing.want(settleAsk('b', { step: 'other' }));
    await vi.advanceTimersByTimeAsync(300);
    expect(asked).toHaveLength(8);
    preparing.want(settleAsk('c'));
    await vi.advanceTimersByTimeAsync(100);
    expect(asked.map(({ signal }) => signal.aborted)).toEqual([
      ...Array<boolean>(4).fill(true),
      ...Array<boolean>(4).fill(false)
    ]);
    await vi.advanceTimersByTimeAsync(300);
    expect(asked).toHaveLength(12);
  });

  it('is not tried again and again where it can’t be had', async () => {
    const { preparing, asked } = prepared();
    const failed = vi.fn();
    preparing.onFailed = failed;
    preparing.want(settleAsk('a'));
    await vi.advanceTimersByTimeAsync(300);
    asked[0].fail(new RangeError('no memory'));
    await vi.advanceTimersByTimeAsync(1);
    expect(asked.every(({ signal }) => signal.aborted)).toBe(true);
    preparing.want(settleAsk('a'));
    await vi.advanceTimersByTimeAsync(1000);
    expect(asked).toHaveLength(4);
    expect(failed.mock.calls).toEqual([[expect.any(RangeError)]]);
    // But where a person asks for it.
    preparing.again();
    preparing.want(settleAsk('a'));
    await vi.advanceTimersByTimeAsync(1000);
    expect(asked).toHaveLength(8);
  });

  it('is waited for by what can’t be done without, which goes on when it is there', async () => {
    const { preparing, asked, again } = prepared();
    const [one, two] = [request('one'), request('two')];
    preparing.unsettled(one, settleAsk('a'));
    preparing.unsettled(two, settleAsk('a'));
    preparing.drop([two]);
    await finish(asked);
    expect(again).toEqual(['one']);
    const three = request('three');
    preparing.unsettled(three, settleAsk('a'));
    expect(again).toEqual(['one', 'three']);
  });

  it('is told to be too much where it goes again and again for another that is needed as well', async () => {
    const { preparing, asked, again } = prepared();
    const one = request('one');
    const large = (key: string): SettleAsk => settleAsk(key, { bytes: 600 * 2 ** 20 });
    for (const key of ['a', 'b']) {
      preparing.unsettled(one, large(key));
      await finish(asked);
    }
    expect(again).toEqual(['one', 'one']);
    preparing.unsettled(one, large('a'));
    expect(one.rejected).toEqual([expect.objectContaining({ name: 'EngineError' })]);
    expect((one.rejected[0] as Error).message).toMatch(/more memory at once/);
  });

  it('goes with the frame that it was computed from, and when there is no more room', async () => {
    const { preparing, asked, told } = prepared();
    preparing.unsettled(request('one'), settleAsk('a', { bytes: 600 * 2 ** 20 }));
    await finish(asked);
    preparing.unsettled(request('two'), settleAsk('b', { bytes: 600 * 2 ** 20 }));
    await finish(asked);
    expect(told.slice(1)).toEqual([
      { type: 'settled', key: 'a', frame: null },
      { type: 'settled', key: 'b', frame }
    ]);
    preparing.forget('another');
    expect(preparing.toTell()).toHaveLength(1);
    preparing.want(settleAsk('c'));
    preparing.forget('f');
    expect(told.at(-1)).toEqual({ type: 'settled', key: 'b', frame: null });
    await vi.advanceTimersByTimeAsync(1000);
    expect(asked).toHaveLength(10);
  });

  it('is said to have no memory, in words for a person', async () => {
    const { preparing, asked } = prepared();
    const one = request('one');
    const common = lyingPlain({ width: 2 ** 26, height: 2 ** 26 });
    preparing.unsettled(one, settleAsk('a', { common }));
    await vi.advanceTimersByTimeAsync(1);
    expect(asked).toHaveLength(0);
    expect((one.rejected[0] as Error).message).toMatch(/^There is no memory/);
  });
});
