import { expect, it, vi } from 'vitest';
import { Newest } from './newest';

it('does one piece of work at a time, and only the newest of those that wait', async () => {
  const newest = new Newest();
  const done: string[] = [];
  const ends: (() => void)[] = [];
  const work = (name: string) => () =>
    new Promise<void>((resolve) =>
      ends.push(() => {
        done.push(name);
        resolve();
      })
    );
  for (const name of ['first', 'second', 'third']) newest.ask(work(name));
  expect(ends).toHaveLength(1);
  ends[0]();
  await vi.waitFor(() => expect(ends).toHaveLength(2));
  ends[1]();
  await vi.waitFor(() => expect(done).toEqual(['first', 'third']));
});

it('goes on after work that failed', async () => {
  const told = vi.spyOn(console, 'error').mockImplementation(() => undefined);
  const newest = new Newest();
  newest.ask(() => Promise.reject(new Error('no')));
  const after = vi.fn(() => Promise.resolve());
  newest.ask(after);
  await vi.waitFor(() => expect(after).toHaveBeenCalledOnce());
  expect(told).toHaveBeenCalledOnce();
  told.mockRestore();
});
