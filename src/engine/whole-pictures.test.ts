import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { decodeImage } from '../core/files';
import { headOf } from '../core/heads';
import { quantize } from '../core/path/quantize';
import { evaluate } from '../core/path/evaluate';
import { largestDifference, planOf, softFrame, stepOf } from '../core/testing';
import type { SourceStep } from '../core/document';
import type { FromWorker, Jobs, ToWorker } from './jobs';
import { exportPicture } from './export';
import { nodePool } from './node/pool';
import { provideNodeWasm } from './node/wasm';
import type { Pool } from './pool';
import { Workshop } from './workshop';

const [width, height] = [1400, 900];
const frame = softFrame(width, height);
const picture = { head: headOf('f'), pins: [] };
const rect = { x: 0, y: 0, width: 128, height: 128 };

let pool: Pool;
beforeAll(() => {
  provideNodeWasm();
  pool = nodePool(2);
  pool.register('f', frame);
});
afterAll(() => pool.close());

const tile = (steps: readonly SourceStep[], level: number): Promise<Jobs['tile']['answer']> =>
  pool.run('tile', { ...picture, steps, hold: null, level, rect, view: 'colour' });

/** Resolves when a result over the whole picture has come in. */
const whole = (): Promise<void> => new Promise((resolve) => (pool.preparing.onWhole = resolve));

describe('pictures that have to be looked at as a whole', () => {
  it('are exported by several workers as one evaluation has them: solved steps, settled ones before them', async () => {
    const steps = [
      stepOf('balance', { method: 'grey' }),
      stepOf('local', { radius: 70, amount: 150 }),
      stepOf('levels', { auto: { clip: 2 } }),
      stepOf('group', { steps: [stepOf('equalize', {}, { blend: { opacity: 0.4 } })] })
    ];
    const work: string[] = [];
    pool.preparing.onWork = (list) => work.push(...list.map(({ doing }) => doing));
    const blob = await exportPicture(
      pool,
      { ...frame, mayMiss: false },
      { ...picture, steps },
      { format: 'tiff', depth: 'u16' }
    );
    const { samples } = await decodeImage(new Uint8Array(await blob.arrayBuffer()));
    const wanted = new Uint16Array(3 * width * height);
    quantize(evaluate(planOf(frame, steps), 0, { x: 0, y: 0, width, height }), wanted, width);
    expect(samples).toHaveLength(wanted.length);
    expect(largestDifference(samples, wanted)).toBe(0);
    expect(new Set(work)).toEqual(new Set(['looking at the picture', 'computing the whole picture']));
  });

  it('are shown from a smaller level at once, and as the means of full size when that is there', async () => {
    const steps = [stepOf('local', { radius: 90, amount: 200 })];
    const came = whole();
    const first = await tile(steps, 1);
    expect(first.waits?.step).toBe(steps[0].id);
    await came;
    const then = await tile(steps, 1);
    expect(then.waits).toBeNull();
    const { planes } = evaluate(planOf(frame, steps), 0, { x: 0, y: 0, width: 256, height: 256 });
    const pixels = then.pixels as Uint8ClampedArray;
    let differs = 0;
    for (let y = 0; y < 128; y++) {
      for (let x = 0; x < 128; x++) {
        const at = 2 * y * 256 + 2 * x;
        const mean = (planes[0][at] + planes[0][at + 1] + planes[0][at + 256] + planes[0][at + 257]) / 4;
        const wanted = 255 * Math.min(1, Math.max(0, mean));
        expect(Math.abs(pixels[4 * (y * 128 + x)] - wanted)).toBeLessThan(0.51);
        if (pixels[4 * (y * 128 + x)] !== (first.pixels as Uint8ClampedArray)[4 * (y * 128 + x)]) differs++;
      }
    }
    expect(differs).toBeGreaterThan(10);
    // At full size nothing is waited for.
    expect((await tile(steps, 0)).waits).toBeNull();
  });

  it('are waited for by a tile whose pixels were computed before they came, be it drawn after', async () => {
    let draw: (() => void) | null = null;
    const workshop = new Workshop(
      (pixels) => new Promise((resolve) => (draw = () => resolve(pixels.slice())))
    );
    const answers: FromWorker[] = [];
    const take = (message: ToWorker): Promise<void> =>
      workshop.take(message, (answer) => answers.push(answer));
    await take({ type: 'frame', id: 'f', frame });
    const steps = [stepOf('local', { radius: 90 })];
    const ask = { ...picture, steps, hold: null, level: 1, rect, view: 'colour' as const };
    const waits: (string | undefined)[] = [];
    for (const number of [1, 2, 3]) {
      const answered = take({ type: 'job', number, job: { kind: 'tile', ask } });
      await expect.poll(() => draw).not.toBeNull();
      // It comes while the second is being drawn.
      if (number === 2) await take({ type: 'settled', key: waits[0]!, frame });
      draw!();
      draw = null;
      await answered;
      const { answer } = answers.at(-1) as { answer: Jobs['tile']['answer'] } & FromWorker;
      waits.push(answer.waits?.key);
    }
    expect(waits[0]).toBeDefined();
    expect(waits).toEqual([waits[0], waits[0], undefined]);
  });

  it('are measured and shown anew in a worker that takes another’s place', async () => {
    const steps = [stepOf('levels', { auto: { clip: 1 } }), stepOf('local', { radius: 66 })];
    const solved = await pool.run('solved', { ...picture, steps, step: steps[0].id });
    pool.forget('f');
    pool.register('f', frame);
    expect(await pool.run('solved', { ...picture, steps, step: steps[0].id })).toEqual(solved);
    expect((await tile(steps, 2)).waits?.step).toBe(steps[1].id);
  });

  it('can be taken back while they are looked at', async () => {
    const stop = new AbortController();
    const steps = [stepOf('blur', { radius: 3 }), stepOf('equalize')];
    const running = pool.run(
      'tile',
      { ...picture, steps, hold: null, level: 0, rect, view: 'colour' },
      { signal: stop.signal }
    );
    setTimeout(() => stop.abort(), 30);
    await expect(running).rejects.toThrow();
    // What comes after is done.
    expect((await tile([], 1)).waits).toBeNull();
  });
});
