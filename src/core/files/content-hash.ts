import { createSHA256 } from 'hash-wasm';

/** The platform's own digest is twice as fast and wants the whole file in memory, twice; a file up to this size gets it. */
const SMALL = 192 * 2 ** 20;

/** SHA-256 (FIPS 180-4) in hexadecimal: the name of a file's content. A large file is read piece by piece. */
export async function contentHash(file: Blob): Promise<string> {
  if (file.size <= SMALL) {
    const digest = new Uint8Array(await crypto.subtle.digest('SHA-256', await file.arrayBuffer()));
    return Array.from(digest, (b) => b.toString(16).padStart(2, '0')).join('');
  }
  const hasher = await createSHA256();
  const reader = file.stream().getReader();
  for (;;) {
    const { done, value } = await reader.read();
    if (done) return hasher.digest('hex');
    hasher.update(value);
  }
}
