import { describe, expect, it, vi } from 'vitest';
import { headOf, type SourceHead } from '$core/heads';
import { histogram } from '$core/measure/histogram';
import { Clipped } from './clipped.svelte';
import { Measurer } from './measurer.svelte';
import { lyingPlain } from '$core/raster/geometry';

const engine = vi.hoisted(() => ({ run: (): unknown => null }));
vi.mock('../services', () => ({ pool: { run: (...asked: []) => engine.run(...asked) } }));
vi.stubGlobal('window', globalThis);
vi.stubGlobal('performance', { ...performance, mark: vi.fn(), now: () => 0 });

interface Asked {
  readonly kind: string;
  readonly ask: { head?: SourceHead; channels: string[]; rect?: { y: number; height: number } };
  readonly signal?: AbortSignal;
  readonly answer: (value: unknown) => void;
}

/** What the pool is asked for from now on. */
function poolAsked(): Asked[] {
  const asked: Asked[] = [];
  const run = (kind: string, ask: Asked['ask'], options: { signal?: AbortSignal }): Promise<unknown> =>
    new Promise((resolve, reject) => {
      options.signal?.addEventListener('abort', () => reject(new Error('taken back')));
      asked.push({ kind, ask, signal: options.signal, answer: resolve });
    });
  engine.run = run as () => unknown;
  return asked;
}
/** Answers every part of what is asked, which is for these channels. */
async function answerAll(asked: Asked[], channels: readonly string[]): Promise<void> {
  expect(asked.length).toBeGreaterThan(1);
  for (const { ask, answer } of asked.splice(0)) {
    expect(ask.channels).toEqual(channels);
    answer(measured(channels));
  }
  await settle();
}
const settle = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 5));
const source = { head: headOf('f'), steps: [], pins: [], places: ['head', 'end'] as const };
/** As of a part of one value before and of two after, at a quarter. */
const measured = (channels: readonly string[]): object => ({
  measured: [1, 2].map((n) => ({
    histograms: channels.map(() => histogram(new Float32Array(n).fill(0.25), n, 4)),
    density: new Uint32Array(0)
  }))
});

describe('the measurer', () => {
  it('measures only what somebody looks at', async () => {
    const asked = poolAsked();
    const measurer = new Measurer();
    measurer.point(source);
    expect(asked).toHaveLength(0);
    const end = measurer.watch(['rgb.r']);
    const parts = asked.length;
    await answerAll(asked, ['rgb.r']);
    const found = measurer.histograms.get('rgb.r')!;
    expect(found.map(({ counts }) => counts[1])).toEqual([parts, 2 * parts]);
    const endOther = measurer.watch(['rgb.r', 'lum']);
    await answerAll(asked, ['rgb.r', 'lum']);
    end();
    measurer.point({ ...source, head: headOf('g') });
    await answerAll(asked, ['rgb.r', 'lum']);
    endOther();
    measurer.point({ ...source, head: headOf('h') });
    expect(asked).toHaveLength(0);
  });

  it('leaves out what was overtaken while it was busy', async () => {
    const asked = poolAsked();
    const measurer = new Measurer();
    measurer.watch(['lum']);
    for (const hash of ['a', 'b', 'c']) measurer.point({ ...source, head: headOf(hash) });
    const frames = (): Set<unknown> => new Set(asked.map(({ ask }) => ask.head?.frames[0].hash));
    expect(frames()).toEqual(new Set(['a']));
    await answerAll(asked, ['lum']);
    expect(frames()).toEqual(new Set(['c']));
  });
});

describe('clipped counts', () => {
  const picture = {
    ...source,
    levels: 3,
    at: 'end' as const,
    hold: null,
    geometry: lyingPlain({ width: 100, height: 600 })
  };

  it('are asked part by part once the picture has come to rest, and summed', async () => {
    vi.useFakeTimers();
    const asked = poolAsked();
    const clipped = new Clipped();
    clipped.count(picture, ['rgb.r', 'rgb.g']);
    expect(asked).toHaveLength(0);
    await vi.advanceTimersByTimeAsync(600);
    // In an order in which the first ones stand for all.
    expect(asked.map(({ ask }) => [ask.rect!.y, ask.rect!.height])).toEqual([
      [0, 256],
      [512, 88],
      [256, 256]
    ]);
    // What the first part lets expect of the whole: a quarter of its samples of 256 rows out of 600.
    asked[0].answer({
      counts: [
        { low: 6400, high: 0 },
        { low: 0, high: 0 }
      ]
    });
    await vi.advanceTimersByTimeAsync(1);
    expect(clipped.exact).toBe(false);
    expect(clipped.counts![0].low).toBe(15_000);
    asked.slice(1).forEach(({ answer }, i) =>
      answer({
        counts: [
          { low: i, high: 1 },
          { low: 0, high: 10 * i }
        ]
      })
    );
    await vi.advanceTimersByTimeAsync(1);
    expect(clipped.exact).toBe(true);
    expect(clipped.counts).toEqual([
      { low: 6401, high: 2 },
      { low: 0, high: 10 }
    ]);
    // The same picture is not counted again.
    clipped.count({ ...picture }, ['rgb.r', 'rgb.g']);
    await vi.advanceTimersByTimeAsync(600);
    expect(asked).toHaveLength(3);
    vi.useRealTimers();
  });

  it('are taken back when the picture changes', async () => {
    vi.useFakeTimers();
    const asked = poolAsked();
    const clipped = new Clipped();
    clipped.count(picture, ['lum']);
    await vi.advanceTimersByTimeAsync(600);
    clipped.count({ ...picture, head: headOf('other') }, ['lum']);
    expect(asked.every(({ signal }) => signal!.aborted)).toBe(true);
    expect(clipped.counts).toBeNull();
    clipped.stop();
    await vi.advanceTimersByTimeAsync(600);
    expect(asked).toHaveLength(3);
    vi.useRealTimers();
  });
});
