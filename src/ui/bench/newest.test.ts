import { expect, it, vi } from 'vitest';
import { FileError } from '$core/files';
import { Newest } from './newest';
import { trouble } from './trouble.svelte';

it('does one piece of work at a time, and only the newest of those that wait', async () => {
  const newest = new Newest('a test');
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

it('tells what failed and why, until it is done or tried again', async () => {
  const newest = new Newest('the test');
  newest.ask(() => Promise.reject(new FileError('The file is gone.')));
  await vi.waitFor(() => expect([...trouble.told]).toEqual([['the test', 'The file is gone.']]));
  newest.ask(() => Promise.reject(new TypeError('x is undefined')));
  await vi.waitFor(() => expect(trouble.told.get('the test')).toMatch(/inside \(x is undefined\)/));
  newest.ask(() => Promise.resolve());
  await vi.waitFor(() => expect(trouble.told.size).toBe(0));
});

it('says nothing of work that was taken back, or that newer work makes up for', async () => {
  const newest = new Newest('the test');
  const after = vi.fn(() => Promise.reject(new DOMException('taken back', 'AbortError')));
  newest.ask(() => Promise.reject(new Error('no')));
  newest.ask(after);
  await vi.waitFor(() => expect(after).toHaveBeenCalledOnce());
  expect(trouble.told.size).toBe(0);
});
