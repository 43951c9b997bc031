import 'fake-indexeddb/auto';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { ownLooks } from '$core/looks/own';
import { ManyStore, type ManyRun } from './many-store';

let store: ManyStore;
let name = '';
const run: ManyRun = {
  ...{ id: 'a', look: { look: ownLooks[0].look, files: {} }, settings: { format: 'png', depth: 'u8' } },
  ...{ names: ['a.png', 'b.png'], outputs: ['a-x.png', 'b-x.png'], folder: null, overwrite: false }
};
const files = ['first', 'second'].map((text) => new Blob([text]));

beforeEach(async () => {
  name = `many ${crypto.randomUUID()}`;
  store = await ManyStore.open(name);
});
afterEach(() => store.close());

it('knows of no work at first', async () => {
  expect(await store.load()).toBeNull();
});

it('keeps what is done and what came of it, and is gone on with on another page', async () => {
  await store.begin(run, files);
  await store.done(1, { bytes: 3, notices: ['said'], small: null }, new Blob(['out']));
  store.close();
  store = await ManyStore.open(name);
  const known = (await store.load())!;
  expect(known.run).toEqual(run);
  expect([...known.outcomes]).toEqual([[1, { bytes: 3, notices: ['said'], small: null }]]);
  expect(await store.input(0)).toBeDefined();
  expect(await store.result(1)).toBeDefined();
  expect(await store.result(0)).toBeUndefined();
});

it('forgets what failed when it is to be tried again, and all of it when another work begins', async () => {
  await store.begin(run, files);
  await store.done(0, { bytes: null, problem: 'why', notices: [], small: null }, null);
  await store.done(1, { bytes: 3, notices: [], small: null }, new Blob(['out']));
  await store.undone([0]);
  expect([...(await store.load())!.outcomes.keys()]).toEqual([1]);
  await store.begin({ ...run, id: 'b', names: ['c.png'], outputs: ['c-x.png'] }, files.slice(0, 1));
  const known = (await store.load())!;
  expect([known.run.id, known.outcomes.size]).toEqual(['b', 0]);
  expect(await store.input(1)).toBeUndefined();
  expect(await store.result(1)).toBeUndefined();
});

it('has no work where its files could not be kept', async () => {
  const full = Object.assign(new Error('full'), { name: 'QuotaExceededError' });
  const broken = { size: 5 } as Blob;
  Object.defineProperty(broken, 'self', {
    enumerable: true,
    get: () => {
      throw full;
    }
  });
  await expect(store.begin(run, [files[0], broken])).rejects.toMatchObject({
    name: 'StorageError',
    full: true
  });
  expect(await store.load()).toBeNull();
  expect(await store.input(0)).toBeUndefined();
});

it('has no work where it was stopped while its files were copied, and copies no further', async () => {
  const stopped = new AbortController();
  const reason = new DOMException('The work was stopped.', 'AbortError');
  let copied = 0;
  const stopping = Array.from({ length: 4 }, () => {
    const blob = { size: 5 } as Blob;
    Object.defineProperty(blob, 'self', {
      enumerable: true,
      get: () => {
        if (++copied === 2) stopped.abort(reason);
        return 1;
      }
    });
    return blob;
  });
  await expect(store.begin(run, stopping, stopped.signal)).rejects.toBe(reason);
  expect(copied).toBe(2);
  expect(await store.load()).toBeNull();
  expect(await store.input(0)).toBeUndefined();
});
