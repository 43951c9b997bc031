import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { FileError } from '$core/files';
import { Follower } from './follower.svelte';
import { trouble } from './trouble.svelte';

vi.stubGlobal('window', globalThis);
beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

/** Questions that are answered when they are told to. */
function held(how?: { patience?: number; interrupts?: boolean }): {
  follower: Follower<string, string>;
  asked: {
    what: string;
    signal: AbortSignal;
    tell: (value: string) => void;
    answer: (value: string) => void;
  }[];
} {
  const asked: ReturnType<typeof held>['asked'] = [];
  const read = (
    what: string,
    going: { signal: AbortSignal; tell: (value: string) => void }
  ): Promise<string> =>
    new Promise((answer, fail) => {
      going.signal.addEventListener('abort', () => fail(going.signal.reason as Error));
      asked.push({ what, ...going, answer });
    });
  return { follower: new Follower('a test', read, how), asked };
}
const tick = (ms = 1): Promise<unknown> => vi.advanceTimersByTimeAsync(ms);

describe('numbers that follow the picture', () => {
  it('are asked for one at a time, the newest next, and the last stay until then', async () => {
    const { follower, asked } = held();
    for (const what of ['a', 'b', 'c']) follower.ask(what);
    asked[0].answer('A');
    await tick();
    expect([follower.value, asked.map(({ what }) => what)]).toEqual(['A', ['a', 'c']]);
    asked[1].answer('C');
    await tick();
    expect(follower.value).toBe('C');
  });

  it('that are known no more do not come back from what was under way', async () => {
    const { follower, asked } = held();
    follower.ask('a');
    follower.clear();
    asked[0].tell('late');
    asked[0].answer('later');
    await tick();
    expect(follower.value).toBeNull();
    expect(trouble.told.size).toBe(0);
    follower.ask('b');
    asked[1].answer('B');
    await tick();
    expect(follower.value).toBe('B');
  });

  it('wait until the picture is at rest where they cost much, and end what is under way', async () => {
    const { follower, asked } = held({ patience: 300, interrupts: true });
    follower.ask('a');
    await tick(200);
    follower.ask('b');
    await tick(200);
    expect(asked).toHaveLength(0);
    await tick(100);
    asked[0].tell('half');
    expect(follower.value).toBe('half');
    follower.ask('c');
    expect(asked[0].signal.aborted).toBe(true);
    await tick(300);
    expect(asked.map(({ what }) => what)).toEqual(['b', 'c']);
    asked[1].answer('C');
    await tick();
    expect(follower.value).toBe('C');
    expect(trouble.told.size).toBe(0);
  });

  it('tell why they can’t be had', async () => {
    const follower = new Follower('the test', () => Promise.reject(new FileError('The file is gone.')));
    follower.ask(null);
    await tick();
    expect([...trouble.told]).toEqual([['the test', 'The file is gone.']]);
    trouble.clear('the test');
  });
});
