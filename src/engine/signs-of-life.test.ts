import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { SILENT, SignsOfLife } from './signs-of-life';

setFlagsFromString('--expose-gc');
const collectGarbage = runInNewContext('gc') as () => void;

describe('signs of life', () => {
  const works: (object | null)[] = [];
  const silent: number[] = [];
  let life: SignsOfLife<object>;

  beforeEach(() => {
    vi.useFakeTimers();
    works.splice(0, 2, null, null);
    silent.length = 0;
    life = new SignsOfLife(
      2,
      (place) => works[place],
      (place) => silent.push(place)
    );
  });
  afterEach(() => {
    life.end();
    vi.useRealTimers();
  });

  it('tells which worker gives none at its work', () => {
    works.splice(0, 2, {}, {});
    life.watch();
    for (let time = 0; time <= SILENT + 4000; time += 1000) {
      Atomics.add(life.signs, 0, 1);
      vi.advanceTimersByTime(1000);
    }
    expect(new Set(silent)).toEqual(new Set([1]));
  });

  it('counts anew with other work', () => {
    life.watch();
    for (let time = 0; time <= 3 * SILENT; time += 10_000) {
      works.splice(0, 2, {}, null);
      vi.advanceTimersByTime(10_000);
    }
    expect(silent).toEqual([]);
  });

  it('lets go of work that is done: it may hold the memory of a whole picture', async () => {
    const held = new WeakRef((works[1] = { samples: new SharedArrayBuffer(8) }));
    life.watch();
    vi.advanceTimersByTime(5000);
    works[1] = null;
    vi.advanceTimersByTime(5000);
    vi.useRealTimers();
    // What a weak reference was asked for stays until the turn is over.
    await new Promise((done) => setTimeout(done, 0));
    collectGarbage();
    expect(held.deref()).toBeUndefined();
  });
});
