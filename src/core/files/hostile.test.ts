import { beforeAll, expect, it } from 'vitest';
import { hostileFiles } from '../../../e2e/hostile-files';
import { provideNodeWasm } from '../../engine/node/wasm';
import { isBundle, unpackBundle } from './bundle';
import { openFrame } from './open-frame';

beforeAll(provideNodeWasm);

/** Milliseconds of the processor's time, of a machine that is as fast as usual. */
const LONGEST = 5000;
/** What such a machine takes for reading the text below. */
const USUAL = 150;
const known = JSON.stringify(Object.fromEntries(Array.from({ length: 200_000 }, (_, i) => [`name ${i}`, i])));

/** How many times as long this machine takes now as one that is as fast as usual: an hour is up to three times as slow as another. */
function slowness(): number {
  const times = Array.from({ length: 5 }, () => {
    const { userCPUTime } = process.resourceUsage();
    JSON.parse(known);
    return (process.resourceUsage().userCPUTime - userCPUTime) / 1000;
  });
  return Math.max(1, Math.min(...times) / USUAL);
}
const MOST = 2 ** 30;
/** A message is for a person to read. */
const LONGEST_MESSAGE = 600;

it.each(hostileFiles.map((file) => [file.name, file] as const))('answers %s', async (_, { make, says }) => {
  const bytes = await make();
  const before = process.resourceUsage();
  const opening = isBundle(bytes)
    ? unpackBundle(new Blob([new Uint8Array(bytes)]))
    : openFrame(new Uint8Array(bytes));
  const error = await opening.then(
    () => null,
    (e: Error) => e
  );
  const after = process.resourceUsage();
  if (says) {
    expect(error?.name).toMatch(/^(FileError|SizeError|DocumentError)$/);
    expect(error?.message).toMatch(says);
    expect(error?.message.length).toBeLessThan(LONGEST_MESSAGE);
  } else expect(error).toBeNull();
  // Time of the processor, in microseconds, so that it does not count what else the machine does; memory in kilobytes.
  const took = (after.userCPUTime - before.userCPUTime) / 1000;
  if (took >= LONGEST) expect(took).toBeLessThan(LONGEST * slowness());
  expect((after.maxRSS - before.maxRSS) * 1024).toBeLessThan(MOST);
});
