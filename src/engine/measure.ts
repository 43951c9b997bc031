import { joined, type Measured, type Range } from '../core/path/measure';
import type { PicturePlaces } from './jobs';
import type { Pool } from './pool';

/** In so many parts, so that all workers take part and none is away for long from what is looked at. */
const PARTS = 4;

/** Measures a picture for the instruments, at each of the places of its path: each worker a part of it. */
export async function measureInParts(
  pool: Pick<Pool, 'run'>,
  ask: PicturePlaces & { readonly channels: readonly string[]; readonly range?: Range },
  priority: number
): Promise<Measured[]> {
  const parts = await Promise.all(
    Array.from({ length: PARTS }, (_, at) =>
      pool.run('measure', { ...ask, part: { at, of: PARTS } }, { priority, home: at })
    )
  );
  return ask.places.map((_, side) => joined(parts.map(({ measured }) => measured[side])));
}
