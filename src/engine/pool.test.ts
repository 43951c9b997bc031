import { describe, expect, it, vi } from 'vitest';
import { opOf } from '../core/ops';
import { noiseFrame, stepOf } from '../core/testing';
import type { FromWorker, ToWorker } from './jobs';
import { Pool, type Port } from './pool';
import { Workshop } from './workshop';

const frame = noiseFrame(64, 48);
const read = { frame: 'f', steps: [], places: [], after: [] };

/** A worker that answers when it is told to. */
class Held implements Port {
  readonly got: ToWorker[] = [];
  private listener: (message: FromWorker) => void = () => undefined;
  private death: () => void = () => undefined;

  post(message: ToWorker): void {
    this.got.push(message);
  }
  onMessage(listener: (message: FromWorker) => void): void {
    this.listener = listener;
  }
  onDeath(listener: () => void): void {
    this.death = listener;
  }
  terminate(): void {
    this.listener = () => undefined;
  }

  /** Numbers of the jobs it was given. */
  get jobs(): number[] {
    return this.got.flatMap((message) => (message.type === 'job' ? [message.number] : []));
  }
  answer(number: number): void {
    this.listener({ type: 'answer', number, answer: { values: [] } });
  }
  die(): void {
    this.death();
  }
}

function poolOf(size: number): { pool: Pool; ports: Held[]; run: (options?: object) => Promise<unknown> } {
  const ports: Held[] = [];
  const pool = new Pool(() => {
    const port = new Held();
    ports.push(port);
    return port;
  }, size);
  pool.register('f', frame);
  const run = (options: object = {}): Promise<unknown> => {
    const running = pool.run('read', read, options);
    running.catch(() => undefined);
    return running;
  };
  return { pool, ports, run };
}

describe('the pool', () => {
  it('gives work to its home, and one more ahead, so that a worker never waits for the page', () => {
    const { ports, run } = poolOf(2);
    for (const home of [0, 1, 2, 3, 4]) void run({ home });
    // Homes 0, 2 and 4 are of the first worker, 1 and 3 of the second; two at once.
    expect(ports.map((p) => p.jobs)).toEqual([
      [1, 3],
      [2, 4]
    ]);
    ports[0].answer(1);
    expect(ports[0].jobs).toEqual([1, 3, 5]);
  });

  it('lets a worker that has nothing to do take what waits for a busy one', () => {
    const { ports, run } = poolOf(2);
    for (const home of [0, 2, 4]) void run({ home });
    expect(ports.map((p) => p.jobs)).toEqual([[1, 3], [2]]);
  });

  it('gives work without a home one by one, the most urgent first', () => {
    const { ports, run } = poolOf(1);
    for (const priority of [3, 5, 1]) void run({ priority });
    void run({ priority: 2, home: 0 });
    expect(ports[0].jobs).toEqual([1]);
    ports[0].answer(1);
    expect(ports[0].jobs).toEqual([1, 3]);
    ports[0].answer(3);
    expect(ports[0].jobs).toEqual([1, 3, 4]);
  });

  it('shares the memory for what is kept between its workers', () => {
    const { ports } = poolOf(4);
    expect(ports[3].got[0]).toMatchObject({ type: 'share', part: 0.25 });
  });

  it('tells workers what was taken back before they began it', async () => {
    const { ports, run } = poolOf(1);
    const controller = new AbortController();
    void run({ home: 0 });
    const ahead = run({ home: 0, signal: controller.signal });
    controller.abort(new Error('no longer wanted'));
    await expect(ahead).rejects.toThrow('no longer wanted');
    const answers: FromWorker[] = [];
    const workshop = new Workshop();
    for (const message of ports[0].got) await workshop.take(message, (answer) => answers.push(answer));
    expect(answers.map(({ type, number }) => [type, number])).toEqual([
      ['answer', 1],
      ['failure', 2]
    ]);
  });

  it('lets a worker stop before the next step when its work is taken back meanwhile', async () => {
    const workshop = new Workshop();
    const dropped = new Int32Array(new SharedArrayBuffer(64));
    const answers: FromWorker[] = [];
    const take = (message: ToWorker): Promise<void> =>
      workshop.take(message, (answer) => answers.push(answer));
    await take({ type: 'share', part: 1, dropped });
    await take({ type: 'frame', id: 'f', frame });
    const { kernel } = opOf('mix');
    const kernels = vi.spyOn(opOf('mix'), 'kernel').mockImplementation((...given) => {
      kernel(...given);
      if (kernels.mock.calls.length === 2) dropped[7] = 7;
    });
    const steps = [0.1, 0.2, 0.3].map((g) => stepOf('mix', { rows: { r: { r: 1, g } } }));
    const ask = { frame: 'f', steps, hold: 0, level: 0, rect: { x: 0, y: 0, width: 64, height: 48 } };
    const job = { kind: 'tile', ask: { ...ask, view: 'colour' } } as const;
    await take({ type: 'job', number: 7, job });
    await take({ type: 'job', number: 8, job });
    expect(kernels).toHaveBeenCalledTimes(5);
    kernels.mockRestore();
    expect(answers).toMatchObject([
      { type: 'failure', number: 7, error: { name: 'AbortError' } },
      { type: 'answer', number: 8 }
    ]);
    // What was left in the middle leaves nothing behind.
    const whole = new Workshop();
    await whole.take({ type: 'frame', id: 'f', frame }, () => undefined);
    await whole.take({ type: 'job', number: 1, job }, (answer) => answers.push(answer));
    const [again, once] = answers.slice(1).map((a) => (a as unknown as { answer: object }).answer);
    expect(again).toEqual(once);
  });

  it('asks again for all that a worker had when it died, and blames only what it was doing', async () => {
    const { ports, run } = poolOf(1);
    const first = run({ home: 0 });
    const second = run({ home: 0 });
    for (const time of [0, 1, 2]) {
      expect(ports[time].jobs).toEqual([1, 2]);
      ports[time].die();
    }
    await expect(first).rejects.toThrow('three times');
    expect(ports[3].jobs).toEqual([2]);
    ports[3].answer(2);
    await expect(second).resolves.toEqual({ values: [] });
  });
});
