import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { roundsUpTo, Watched } from './watched-rounds.svelte';

describe('rounds on the way to all of them', () => {
  it.each([
    [1, [1]],
    [2, [1, 2]],
    [5, [1, 2, 3, 4, 5]],
    [20, [1, 2, 3, 4, 6, 8, 11, 15, 20]]
  ])('%i', (most, seen) => expect(roundsUpTo(most)).toEqual(seen));

  it('of the most that a step takes are few', () => expect(roundsUpTo(200).length).toBeLessThan(20));
});

describe('rounds that are watched', () => {
  beforeEach(() => void vi.useFakeTimers());
  afterEach(() => void vi.useRealTimers());
  const shown: (number | null)[] = [];
  let works = false;
  const watching = (): Watched =>
    new Watched(
      (seen) => void shown.push(seen),
      () => works
    );
  beforeEach(() => {
    shown.length = 0;
    works = false;
  });

  it('come one after another as each stands, and end after the last', async () => {
    const watched = watching();
    void watched.run([1, 2, 4]);
    expect(shown).toEqual([1]);
    works = true;
    await vi.advanceTimersByTimeAsync(20_000);
    expect(shown).toEqual([1]);
    expect(watched.stands).toBe(false);
    works = false;
    await vi.advanceTimersByTimeAsync(1100);
    expect(shown).toEqual([1, 2]);
    // Nothing is to be computed where a result is known.
    await vi.advanceTimersByTimeAsync(10_000);
    expect(shown).toEqual([1, 2, 4, null]);
    expect(watched.seen).toBe(null);
  });

  it('are stopped at once, and begin anew', async () => {
    const watched = watching();
    works = true;
    void watched.run([1, 2]);
    await vi.advanceTimersByTimeAsync(500);
    watched.stop();
    expect(shown).toEqual([1, null]);
    void watched.run([3]);
    works = false;
    await vi.advanceTimersByTimeAsync(10_000);
    expect(shown).toEqual([1, null, 3, null]);
  });
});
