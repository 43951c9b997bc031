import { describe, expect, it, vi } from 'vitest';
import { headOf } from '../core/heads';
import { lyingPlain } from '../core/raster/geometry';
import type { SolveAsk } from '../core/path/solver';
import { opOf } from '../core/ops';
import { noiseFrame, render, stepOf } from '../core/testing';
import type { SourceStep } from '../core/document';
import type { FromWorker, Jobs, ToWorker } from './jobs';
import { Pool, type Death, type Port } from './pool';
import { Workshop } from './workshop';

const frame = noiseFrame(64, 48);
const head = headOf('f');
const picture = { head, pins: [] };
const read = { ...picture, steps: [], spots: [], places: [] };

/** A worker that answers when it is told to. */
class Held implements Port {
  readonly got: ToWorker[] = [];
  private listener: (message: FromWorker) => void = () => undefined;
  private death: (why: Death) => void = () => undefined;

  post(message: ToWorker): void {
    this.got.push(message);
  }
  /** What it was sent, be it one by one or together. */
  get all(): ToWorker[] {
    return this.got.flatMap((message) => (message.type === 'together' ? message.messages : [message]));
  }
  onMessage(listener: (message: FromWorker) => void): void {
    this.listener = listener;
  }
  onDeath(listener: (why: Death) => void): void {
    this.death = listener;
  }
  terminate(): void {
    this.listener = () => undefined;
  }

  /** Numbers of the jobs it was given. */
  get jobs(): number[] {
    return this.all.flatMap((message) => (message.type === 'job' ? [message.number] : []));
  }
  say(message: FromWorker): void {
    this.listener(message);
  }
  answer(number: number): void {
    this.say({ type: 'answer', number, answer: { values: [] } });
  }
  die(why: Death = 'failed'): void {
    this.death(why);
  }
}

interface Pooled {
  pool: Pool;
  ports: Held[];
  run: (options?: object) => Promise<unknown>;
  tile: (options?: object, side?: number) => Promise<unknown>;
}

function poolOf(size: number): Pooled {
  const ports: Held[] = [];
  const pool = new Pool(() => {
    const port = new Held();
    ports.push(port);
    return port;
  }, size);
  pool.register('f', frame);
  const caught = (running: Promise<unknown>): Promise<unknown> => {
    running.catch(() => undefined);
    return running;
  };
  const run = (options: object = {}): Promise<unknown> => caught(pool.run('read', read, options));
  const tile = (options: object = { home: 0 }, side = 256): Promise<unknown> => {
    const rect = { x: 0, y: 0, width: side, height: side };
    const ask = { ...picture, steps: [], hold: null, level: 0, rect, view: 'colour' as const };
    return caught(pool.run('tile', ask, options));
  };
  return { pool, ports, run, tile };
}

describe('the pool', () => {
  it.each([
    ['of what is looked at', 1, 4],
    ['of the rest', 2, 2]
  ])(
    'gives tiles to their home, %s more ahead, so that a worker never waits for the page',
    (_, priority, n) => {
      const { ports, tile } = poolOf(2);
      for (let home = 0; home < 12; home++) void tile({ home, priority });
      // Even homes are of the first worker, odd ones of the second.
      expect(ports.map((p) => p.jobs)).toEqual([[1, 3, 5, 7].slice(0, n), [2, 4, 6, 8].slice(0, n)]);
      ports[0].answer(1);
      expect(ports[0].jobs).toEqual([1, 3, 5, 7, 9].slice(0, n + 1));
    }
  );

  it('gives more of small tiles ahead, but not so many that others wait for long', () => {
    const { ports, tile } = poolOf(1);
    for (let i = 0; i < 8; i++) void tile({ home: 0 }, 128);
    expect(ports[0].jobs).toEqual([1, 2, 3, 4]);
    ports[0].answer(1);
    expect(ports[0].jobs).toEqual([1, 2, 3, 4, 5]);
  });

  it('sends each worker its part of what is asked together in one message', () => {
    const { pool, ports, tile } = poolOf(2);
    const before = ports.map(({ got }) => got.length);
    pool.together(() => {
      for (const home of [0, 1, 2, 3]) void tile({ home }, 128);
      expect(ports.map(({ jobs }) => jobs)).toEqual([[], []]);
    });
    expect(ports.map(({ jobs }) => jobs)).toEqual([
      [1, 3],
      [2, 4]
    ]);
    expect(ports.map(({ got }, i) => got.length - before[i])).toEqual([1, 1]);
  });

  it('asks a part of what a step looks at again where its worker dies, and comes to the end', async () => {
    const { pool, ports } = poolOf(2);
    const step = stepOf('stars');
    const waiting = pool.run('read', { ...read, steps: [step as SourceStep] });
    const common = lyingPlain({ width: 6000, height: 2000 });
    const ask: SolveAsk = { ...picture, key: 'k', steps: [], step, common, beyond: 0 };
    ports[0].say({ type: 'unsolved', number: 1, ask });
    const jobs = (port: Held): (ToWorker & { type: 'job' })[] =>
      port.all.filter((message) => message.type === 'job');
    const [lost] = jobs(ports[1]);
    expect(lost.job.kind).toBe('stage');
    ports[1].die();
    expect(jobs(ports[2])).toEqual([lost]);
    const answers: Record<string, unknown> = {
      stage: { made: 'part' },
      solve: { solution: { stars: [] } },
      read: { values: [] }
    };
    const answered = new Set(jobs(ports[0]).slice(0, 1));
    for (let turn = 0; turn < 20; turn++) {
      for (const port of [ports[0], ports[2]])
        for (const message of jobs(port).filter((one) => !answered.has(one))) {
          answered.add(message);
          const { number, job } = message;
          port.say({ type: 'answer', number, answer: answers[job.kind] } as FromWorker);
        }
      await new Promise((next) => setTimeout(next, 0));
    }
    await expect(waiting).resolves.toEqual({ values: [] });
    expect([...answered].filter(({ job }) => job.kind === 'solve')).toHaveLength(1);
  });

  it('takes back what needs a frame that is closed, wherever it waits, so that nobody waits for ever', async () => {
    const { pool, ports, run, tile } = poolOf(1);
    // One is at the worker, one in the queue, and one waits until a step is solved.
    const step = stepOf('levels', { auto: { clip: 1 } });
    const waiting = pool.run('read', { ...read, steps: [step as SourceStep] });
    waiting.catch(() => undefined);
    const ask: SolveAsk = { ...picture, key: 'k', steps: [], step, ...lyingPlain(frame) } as never;
    ports[0].say({ type: 'unsolved', number: 1, ask });
    const [begun, queued] = [run(), tile()];
    const others = pool.run('name', { file: new Blob() });
    pool.forget('f');
    for (const lost of [waiting, begun, queued])
      await expect(lost).rejects.toMatchObject({ name: 'AbortError' });
    // What needs no frame goes on, and so does what comes when the frame is open again.
    ports[0].answer(ports[0].jobs.at(-1)!);
    pool.register('f', frame);
    const again = run();
    for (const number of ports[0].jobs) ports[0].answer(number);
    for (const number of ports[0].jobs) ports[0].answer(number);
    await others;
    await again;
  });

  it('gives nothing ahead to a worker that would not stop for it', () => {
    const { ports, run, tile } = poolOf(1);
    void run();
    void tile();
    expect(ports[0].jobs).toEqual([1]);
    ports[0].answer(1);
    void run();
    expect(ports[0].jobs).toEqual([1, 2]);
  });

  it('gives what comes instead of tiles that were taken back at once, not with their worker’s word', async () => {
    const { ports, tile, run } = poolOf(1);
    const controllers = [0, 1].map(() => new AbortController());
    for (const { signal } of controllers) void tile({ home: 0, signal });
    const later = run({ priority: 5 });
    for (const controller of controllers) controller.abort();
    const next = tile({ home: 0, priority: 1 });
    expect(ports[0].jobs).toEqual([1, 2, 4]);
    // The word of what was taken back gives nothing more, and a bitmap of it is closed.
    const close = vi.fn();
    ports[0].say({
      type: 'answer',
      number: 1,
      answer: { pixels: { close } as unknown as ImageBitmap, waits: null, took: 1 }
    });
    ports[0].say({ type: 'failure', number: 2, error: { name: 'AbortError', message: '' } });
    expect(close).toHaveBeenCalledTimes(1);
    await Promise.resolve();
    expect(ports[0].jobs).toEqual([1, 2, 4]);
    ports[0].answer(4);
    await expect(next).resolves.toEqual({ values: [] });
    ports[0].answer(3);
    await expect(later).resolves.toEqual({ values: [] });
  });

  it('gives what waits to a worker whose only tile was taken back', async () => {
    const { ports, tile, run } = poolOf(1);
    const controller = new AbortController();
    void tile({ home: 0, signal: controller.signal });
    void run();
    controller.abort();
    expect(ports[0].jobs).toEqual([1]);
    await Promise.resolve();
    expect(ports[0].jobs).toEqual([1, 2]);
  });

  it('lets a worker that has nothing to do take what waits for a busy one', () => {
    const { ports, tile } = poolOf(2);
    for (const home of [0, 2, 4]) void tile({ home });
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

  it('sends steps to each worker once, and again to one that has forgotten them or is new', async () => {
    const { pool, ports } = poolOf(1);
    const same = stepOf('mix', { rows: { b: { b: 0.5 } } });
    const stepsOf = (red: number): SourceStep[] => [stepOf('mix', { rows: { r: { r: red } } }), same];
    const read = (steps: readonly SourceStep[]): void => {
      const ask = { ...picture, steps, spots: [{ x: 3, y: 4, size: 1 }], places: ['end'] as const };
      pool.run('read', ask).catch(() => undefined);
      const port = ports.at(-1)!;
      port.answer(port.jobs.at(-1)!);
    };
    const lists = (): (readonly unknown[])[] =>
      ports
        .at(-1)!
        .all.flatMap((m): unknown[] => (m.type === 'steps' ? [m.steps] : m.type === 'part' ? [m.value] : []))
        .filter(Array.isArray);
    const told = (): number => lists().length;
    const [first, ...others] = Array.from({ length: 64 }, (_, i) => stepsOf(i / 64));
    read(first);
    read(first);
    expect(told()).toBe(1);
    for (const steps of others) read(steps);
    read(first);
    read(others[62]);
    expect(told()).toBe(65);
    // One that stood in the list before goes once.
    expect(lists().map((list) => list.includes(same))).toEqual([true, ...others.map(() => false), false]);
    // What the worker makes of it is what the steps say.
    const answers: FromWorker[] = [];
    const workshop = new Workshop();
    for (const message of ports[0].got) await workshop.take(message, (answer) => answers.push(answer));
    const red = answers.map(
      (answer) => (answer as never as { answer: Jobs['read']['answer'] }).answer.values
    );
    const [source, , blue] = render(frame, []).map((plane) => plane[4 * 64 + 3]);
    [0, 0, ...others.map((_, i) => (i + 1) / 64), 0, 63 / 64].forEach((weight, i) =>
      expect(red[i][0][0]![0]).toBeCloseTo(weight * source, 6)
    );
    for (const [[spot]] of red) expect(spot![2]).toBeCloseTo(0.5 * blue, 6);
    ports[0].die();
    read(first);
    expect(told()).toBe(1);
    expect(lists()).toEqual([first]);
  });

  it('shares the memory for what is kept between its workers', () => {
    const { ports } = poolOf(4);
    expect(ports[3].got[0]).toMatchObject({ type: 'share', part: 0.25 });
  });

  it('tells workers what was taken back before they began it', async () => {
    const { ports, tile } = poolOf(1);
    const controller = new AbortController();
    void tile({ home: 0 }, 32);
    const ahead = tile({ home: 0, signal: controller.signal }, 32);
    controller.abort(new Error('no longer wanted'));
    await expect(ahead).rejects.toThrow('no longer wanted');
    const answers: FromWorker[] = [];
    const workshop = new Workshop();
    for (const message of ports[0].got) await workshop.take(message, (answer) => answers.push(answer));
    expect(answers).toMatchObject([
      { type: 'answer', number: 1 },
      { type: 'failure', number: 2 }
    ]);
  });

  it('lets a worker stop before the next step when its work is taken back meanwhile', async () => {
    const workshop = new Workshop();
    const dropped = new Int32Array(new SharedArrayBuffer(64));
    const answers: FromWorker[] = [];
    const take = (message: ToWorker): Promise<void> =>
      workshop.take(message, (answer) => answers.push(answer));
    const signs = new Int32Array(new SharedArrayBuffer(8));
    await take({ type: 'share', part: 1, dropped, signs, place: 1 });
    await take({ type: 'frame', id: 'f', frame });
    const { kernel } = opOf('mix');
    const kernels = vi.spyOn(opOf('mix'), 'kernel').mockImplementation((...given) => {
      kernel(...given);
      if (kernels.mock.calls.length === 2) dropped[7] = 7;
    });
    const steps = [0.1, 0.2, 0.3].map((g) => stepOf('mix', { rows: { r: { r: 1, g } } }));
    const ask = { ...picture, steps, hold: null, level: 0, rect: { x: 0, y: 0, width: 64, height: 48 } };
    const job = { kind: 'tile', ask: { ...ask, view: 'colour' } } as const;
    await take({ type: 'job', number: 7, job });
    await take({ type: 'job', number: 8, job });
    expect(kernels).toHaveBeenCalledTimes(5);
    kernels.mockRestore();
    // It looks, and so gives a sign, before each of two jobs and each of 2 + 3 steps and the step it stopped at.
    expect([...signs]).toEqual([0, 8]);
    expect(answers).toMatchObject([
      { type: 'failure', number: 7, error: { name: 'AbortError' } },
      { type: 'answer', number: 8 }
    ]);
    // What was left in the middle leaves nothing behind.
    const whole = new Workshop();
    await whole.take({ type: 'frame', id: 'f', frame }, () => undefined);
    await whole.take({ type: 'job', number: 1, job }, (answer) => answers.push(answer));
    const pixels = answers
      .slice(1)
      .map((a) => (a as unknown as { answer: { pixels: object } }).answer.pixels);
    expect(pixels[0]).toEqual(pixels[1]);
  });

  it('holds on to nothing that was answered, however long the signal lives that would have taken it back', async () => {
    const { pool, ports, run } = poolOf(1);
    const { signal } = new AbortController();
    const watched = (): number =>
      (pool as unknown as { watched: WeakMap<AbortSignal, Set<unknown>> }).watched.get(signal)?.size ?? 0;
    const [first, second] = [run({ signal }), run({ signal })];
    expect(watched()).toBe(2);
    ports[0].answer(1);
    await first;
    expect(watched()).toBe(1);
    ports[0].answer(2);
    await second;
    expect(watched()).toBe(0);
  });

  it('asks again for all that a worker had when it died, and blames only what it was doing', async () => {
    const { ports, tile } = poolOf(1);
    const first = tile();
    const second = tile();
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

describe('a worker that can’t go on', () => {
  it('is tried again a few times where its program can’t be loaded; then all who wait are told', async () => {
    vi.useFakeTimers();
    const { ports, run } = poolOf(1);
    const waiting = [run(), run()];
    for (let i = 0; i < 4; i++) {
      ports.at(-1)!.die('not loaded');
      await vi.advanceTimersByTimeAsync(5000);
    }
    for (const one of waiting) {
      await expect(one).rejects.toMatchObject({ name: 'EngineError' });
      await expect(one).rejects.toThrow('could not be loaded');
    }
    expect(ports).toHaveLength(4);
    // What is asked next tries anew.
    const again = run();
    expect(ports).toHaveLength(5);
    ports[4].say({ type: 'ready' });
    ports[4].answer(3);
    await expect(again).resolves.toEqual({ values: [] });
    vi.useRealTimers();
  });

  it('is replaced when it gives no sign for twenty seconds, and its work is begun anew', async () => {
    vi.useFakeTimers();
    const { ports, run } = poolOf(1);
    const asked = run();
    await vi.advanceTimersByTimeAsync(19_000);
    expect(ports).toHaveLength(1);
    await vi.advanceTimersByTimeAsync(5000);
    expect(ports).toHaveLength(2);
    expect(ports[1].jobs).toEqual([1]);
    ports[1].answer(1);
    await expect(asked).resolves.toEqual({ values: [] });
    vi.useRealTimers();
  });

  it('stays as long as it gives signs, however long its work takes', async () => {
    vi.useFakeTimers();
    const { ports, run } = poolOf(1);
    void run();
    const share = ports[0].all.find((m) => m.type === 'share')!;
    for (let i = 0; i < 60; i++) {
      Atomics.add(share.signs, share.place, 1);
      await vi.advanceTimersByTimeAsync(2000);
    }
    expect(ports).toHaveLength(1);
    vi.useRealTimers();
  });

  it('may take longer over a file: a codec gives no sign', async () => {
    vi.useFakeTimers();
    const { ports, pool } = poolOf(1);
    void pool.run('open', { file: new Blob(['file']) }).catch(() => undefined);
    await vi.advanceTimersByTimeAsync(170_000);
    expect(ports).toHaveLength(1);
    await vi.advanceTimersByTimeAsync(15_000);
    expect(ports).toHaveLength(2);
    vi.useRealTimers();
  });

  it('gives work up that hangs three times over', async () => {
    vi.useFakeTimers();
    const { ports, run } = poolOf(1);
    const asked = run();
    const told = expect(asked).rejects.toThrow('came to no end');
    await vi.advanceTimersByTimeAsync(90_000);
    await told;
    expect(ports).toHaveLength(4);
    vi.useRealTimers();
  });
});

describe('a step that has to be solved first', () => {
  const ask = (key: string): SolveAsk => ({
    ...{ key, head, steps: [], pins: [], step: stepOf('equalize') },
    ...{ common: lyingPlain(frame), beyond: 0 }
  });
  const kinds = (port: Held): string[] =>
    port.all.flatMap((message) => (message.type === 'job' ? [message.job.kind] : []));
  const solutions = (port: Held): string[] =>
    port.all.flatMap((message) => (message.type === 'solution' ? [message.key] : []));

  it('is solved once for all workers, and what waited goes on', async () => {
    const { ports, run } = poolOf(2);
    const [one, two] = [run(), run()];
    ports[0].say({ type: 'unsolved', number: 1, ask: ask('a') });
    ports[1].say({ type: 'unsolved', number: 2, ask: ask('a') });
    expect(ports.map(kinds)).toEqual([['read', 'solve'], ['read']]);
    ports[0].say({ type: 'answer', number: 3, answer: { solution: { found: 1 } } });
    await vi.waitFor(() => expect(ports.map(solutions)).toEqual([['a'], ['a']]));
    expect(ports.map(kinds)).toEqual([
      ['read', 'solve', 'read'],
      ['read', 'read']
    ]);
    for (const port of ports) for (const number of port.jobs) port.answer(number);
    await Promise.all([one, two]);
    // Who has not kept it is told again, and nothing is solved anew.
    void run();
    ports[0].say({ type: 'unsolved', number: 4, ask: ask('a') });
    expect(solutions(ports[0])).toEqual(['a', 'a']);
    expect(kinds(ports[0]).filter((kind) => kind === 'solve')).toHaveLength(1);
  });

  it('tells all who wait where it fails', async () => {
    const { ports, run } = poolOf(1);
    const running = run();
    ports[0].say({ type: 'unsolved', number: 1, ask: ask('a') });
    ports[0].say({
      type: 'failure',
      number: 2,
      error: { name: 'DocumentError', message: 'of another size' }
    });
    await expect(running).rejects.toThrow('of another size');
  });

  it('is left when nobody waits for it any more, but not where somebody comes back to it at once', async () => {
    const { pool, ports } = poolOf(2);
    const asked = (signal: AbortSignal): void =>
      void pool.run('read', read, { signal }).catch(() => undefined);
    const dropped = (number: number): boolean => {
      const shared = ports[0].all.find((message) => message.type === 'share')!;
      return Atomics.load(shared.dropped, number) === number;
    };
    const [first, second] = [new AbortController(), new AbortController()];
    asked(first.signal);
    ports[0].say({ type: 'unsolved', number: 1, ask: ask('a') });
    first.abort();
    asked(second.signal);
    ports[1].say({ type: 'unsolved', number: 3, ask: ask('a') });
    await new Promise((resolve) => setTimeout(resolve, 120));
    expect(dropped(2)).toBe(false);
    second.abort();
    await vi.waitFor(() => expect(dropped(2)).toBe(true));
  });
});
