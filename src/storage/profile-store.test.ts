import 'fake-indexeddb/auto';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import type { OwnProfile } from '$core/files/own-profile';
import { ProfileStore } from './profile-store';

const profile = (key: string, title: string): OwnProfile => ({
  ...{ key, title, profile: Uint8Array.of(1, 2, 3), intents: ['relative', 'perceptual'] }
});

let store: ProfileStore;
let name = '';
beforeEach(async () => {
  name = `profiles ${crypto.randomUUID()}`;
  store = await ProfileStore.open(name);
});
afterEach(() => {
  vi.restoreAllMocks();
  store.close();
});

it('keeps each profile once, in the order of their titles, for the next page', async () => {
  expect(await store.all()).toEqual([]);
  await store.keep(profile('b', 'Matte'));
  await store.keep(profile('a', 'Zinc'));
  await store.keep(profile('b', 'Bright'));
  store.close();
  store = await ProfileStore.open(name);
  expect(await store.all()).toEqual([profile('b', 'Bright'), profile('a', 'Zinc')]);
  await store.remove('b');
  expect((await store.all()).map(({ key }) => key)).toEqual(['a']);
});

it('says what is not kept where there is no room', async () => {
  const full = Object.assign(new Error('full'), { name: 'QuotaExceededError' });
  vi.spyOn(IDBObjectStore.prototype, 'put').mockImplementation(() => {
    throw full;
  });
  await expect(store.keep(profile('a', 'Matte'))).rejects.toThrow(
    'There is no room left in this browser’s storage. The profile is not kept for the next visit.'
  );
});
