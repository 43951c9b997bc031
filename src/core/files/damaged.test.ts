import { beforeAll, expect, it } from 'vitest';
import { damagedFiles } from '../../../e2e/damaged-files';
import { provideNodeWasm } from '../../engine/node/wasm';
import { isBundle, unpackBundle } from './bundle';
import { openFrame } from './open-frame';

beforeAll(provideNodeWasm);

it('refuses every damaged or lying file in words', async () => {
  const files = await damagedFiles();
  expect(files.length).toBeGreaterThanOrEqual(30);
  for (const { name, bytes, says } of files) {
    const opening = isBundle(bytes) ? unpackBundle(new Blob([new Uint8Array(bytes)])) : openFrame(bytes);
    const error = await opening.then(
      () => null,
      (e: Error) => e
    );
    expect(error, name).not.toBeNull();
    expect(error?.name, `${name}: ${error?.message}`).toMatch(/^(FileError|SizeError|DocumentError)$/);
    expect(error?.message, name).toMatch(says);
  }
});
