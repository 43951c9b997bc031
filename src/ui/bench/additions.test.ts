import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { Additions } from './additions.svelte';

describe('what is coming into a document', () => {
  let additions: Additions;
  /** Ends the work that was begun, in its order. */
  const ends: (() => void)[] = [];
  const work = (what: string): Promise<string> =>
    additions.run(what, ({ signal }) => {
      return new Promise((resolve, reject) => {
        ends.push(() => (signal.aborted ? reject(signal.reason as Error) : resolve(what)));
      });
    });
  const told = (): string[] => additions.lasting.map(({ what }) => what);

  beforeEach(() => {
    vi.useFakeTimers();
    additions = new Additions();
    ends.length = 0;
  });
  afterEach(() => void vi.useRealTimers());

  it('is told where it takes a while, for as long as it goes on', async () => {
    const quick = work('quick');
    ends[0]();
    await quick;
    const slow = work('slow');
    expect(told()).toEqual([]);
    vi.advanceTimersByTime(1000);
    expect(told()).toEqual(['slow']);
    ends[1]();
    expect(await slow).toBe('slow');
    expect(told()).toEqual([]);
    vi.advanceTimersByTime(1000);
    expect(told()).toEqual([]);
  });

  it('is cancelled one by one, and not told any more from then on', async () => {
    const both = [work('first'), work('second')];
    vi.advanceTimersByTime(1000);
    additions.lasting[0].cancel();
    expect(told()).toEqual(['second']);
    ends.forEach((end) => end());
    const [first, second] = await Promise.allSettled(both);
    expect(first).toMatchObject({ reason: { name: 'AbortError', message: 'Adding was cancelled.' } });
    expect(second).toMatchObject({ value: 'second' });
  });

  it('is not told any more once it stands in the document, and waited for until that is written', async () => {
    let written!: () => void;
    const running = additions.run('slow', async (addition) => {
      await Promise.resolve();
      addition.comeIn();
      await new Promise<void>((resolve) => (written = resolve));
      return addition.signal.aborted;
    });
    await vi.advanceTimersByTimeAsync(1000);
    expect([told(), additions.isIdle]).toEqual([[], false]);
    written();
    expect(await running).toBe(false);
    expect(additions.isIdle).toBe(true);
  });

  it('is waited for, also what is begun meanwhile and what fails', async () => {
    expect(additions.isIdle).toBe(true);
    const failing = additions.run('failing', () => Promise.reject(new Error('No picture.')));
    const running = work('first');
    let idle = false;
    const waiting = additions.whenIdle().then(() => (idle = true));
    await expect(failing).rejects.toThrow('No picture.');
    const later = work('second');
    ends[0]();
    await running;
    await vi.advanceTimersByTimeAsync(0);
    expect([idle, additions.isIdle]).toEqual([false, false]);
    ends[1]();
    await Promise.all([later, waiting]);
    expect(additions.isIdle).toBe(true);
  });
});
