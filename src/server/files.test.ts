import { mkdir, mkdtemp, readdir, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, it } from 'vitest';
import { sharedFolder } from './files';

it('keeps what two workers bring at once whole, and nothing beside it; and what nobody waits for not at all', async () => {
  const folder = await mkdtemp(join(tmpdir(), 'kromba-test-store-'));
  const place = 'kromba-server-test-1-a/request-00';
  await mkdir(join(folder, place), { recursive: true });
  const made = new Uint8Array(8_000_000).fill(7);
  const files = sharedFolder(folder);
  try {
    const brought = Array.from({ length: 6 }, async () => {
      expect(await files.keep(`${place}/made-0`, new Blob([made]))).toBe(true);
      // Whole as soon as it is there, whoever else still writes.
      expect((await readFile(join(folder, place, 'made-0'))).equals(made)).toBe(true);
    });
    await Promise.all(brought);
    expect(await readdir(join(folder, place))).toEqual(['made-0']);
    expect(await files.keep('kromba-server-test-1-a/request-01/made-0', new Blob([made]))).toBe(false);
    expect(() => files.keep('../made-0', new Blob([made]))).toThrow('no place of a file');
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
});
