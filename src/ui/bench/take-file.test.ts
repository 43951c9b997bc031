import 'fake-indexeddb/auto';
import { describe, expect, it, vi } from 'vitest';
import { noiseFrame } from '$core/testing';
import { Library } from '$storage/library';

vi.stubGlobal('window', globalThis);
/** Ends the decoding that was begun, in its order. */
const decoded: ((failed?: Error) => void)[] = [];
vi.mock('../../engine/browser/pool', () => ({
  browserPool: () => ({
    preparing: {},
    register: vi.fn(),
    run: () => Promise.resolve({ hash: 'h' }),
    runApart: (_: string, __: unknown, { signal }: { signal?: AbortSignal }) =>
      new Promise((resolve, reject) => {
        signal?.addEventListener('abort', () => reject(signal.reason as Error));
        decoded.push((failed) =>
          failed ? reject(failed) : resolve({ frame: noiseFrame(4, 3), notices: [] })
        );
      })
  })
}));
const { openFrame, takeFile } = await import('../services');

describe('a file that is taken twice at the same time', () => {
  it('comes in for the one where the other is cancelled', async () => {
    const library = await Library.open('taken-twice');
    const file = new Blob(['kiln']);
    const first = new AbortController();
    const both = [takeFile(library, file, first.signal), takeFile(library, file)];
    await vi.waitFor(() => expect(decoded).toHaveLength(2));
    first.abort(new DOMException('Adding was cancelled.', 'AbortError'));
    await expect(both[0]).rejects.toThrow('Adding was cancelled.');
    decoded[1]();
    expect(await both[1]).toBe('h');
    const again = (): Promise<Blob> => Promise.reject(new Error('It is open already.'));
    expect((await openFrame('h', again)).bytes).toBe(4);
  });
});
