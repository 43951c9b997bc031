import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { WhenAtRest } from './when-at-rest';

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

describe('what is done at rest', () => {
  it('is done once, the newest, when nothing asked for so long', () => {
    const done: string[] = [];
    const rest = new WhenAtRest(300);
    for (const what of ['a', 'b', 'c']) {
      rest.ask(() => void done.push(what));
      vi.advanceTimersByTime(200);
    }
    expect([done, rest.isPending]).toEqual([[], true]);
    vi.advanceTimersByTime(99);
    expect(done).toEqual([]);
    vi.advanceTimersByTime(1);
    expect([done, rest.isPending]).toEqual([['c'], false]);
    vi.advanceTimersByTime(1000);
    expect(done).toEqual(['c']);
  });

  it('is not done once it is stopped, and waits its whole time when it is asked for again', () => {
    const done: string[] = [];
    const rest = new WhenAtRest(300);
    rest.ask(() => void done.push('a'));
    rest.stop();
    expect(rest.isPending).toBe(false);
    vi.advanceTimersByTime(250);
    rest.ask(() => void done.push('b'));
    vi.advanceTimersByTime(299);
    expect(done).toEqual([]);
    vi.advanceTimersByTime(1);
    expect(done).toEqual(['b']);
  });

  it('may ask again itself', () => {
    let rounds = 0;
    const rest = new WhenAtRest(10);
    const round = (): void => void (++rounds < 3 && rest.ask(round));
    rest.ask(round);
    vi.advanceTimersByTime(100);
    expect([rounds, rest.isPending]).toEqual([3, false]);
  });
});
