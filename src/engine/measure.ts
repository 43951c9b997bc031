import { joined, type Measured } from '../core/path/measure';
import type { PictureAfter } from './jobs';
import type { Pool } from './pool';

/** In so many parts, so that all workers take part and none is away for long from what is looked at. */
const PARTS = 4;

/** Measures a picture for the instruments, after each of the step counts asked for: each worker a part of it. */
export async function measureInParts(
  pool: Pick<Pool, 'run'>,
  ask: PictureAfter & { readonly channels: readonly string[] },
  priority: number
): Promise<Measured[]> {
  const parts = await Promise.all(
    Array.from({ length: PARTS }, (_, at) =>
      pool.run('measure', { ...ask, part: { at, of: PARTS } }, { priority, home: at })
    )
  );
  return ask.after.map((_, side) => joined(parts.map(({ measured }) => measured[side])));
}
