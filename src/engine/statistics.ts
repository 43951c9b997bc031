import type { SourceHead } from '../core/heads';
import { planeNames, type PlaneStatistics } from '../core/measure/statistics';
import type { Frame } from '../core/raster/frame';
import type { Pool } from './pool';

/** In so many parts, so that all workers take part and none is away for long from what is looked at. */
const PARTS = 4;

/** Statistics of each plane of the frame that a head is, at full size: each worker looks at a part of it. */
export async function statisticsInParts(
  pool: Pick<Pool, 'run'>,
  head: SourceHead,
  frame: Pick<Frame, 'layout' | 'alpha'>,
  options: { readonly priority: number; readonly signal: AbortSignal }
): Promise<Record<string, PlaneStatistics>> {
  const source = { head, steps: [], pins: [] };
  const found: Record<string, PlaneStatistics> = {};
  for (const [plane, name] of planeNames(frame).entries()) {
    const [{ noise }, ...parts] = await Promise.all([
      pool.run('noise', { ...source, plane }, options),
      ...Array.from({ length: PARTS }, (_, at) =>
        pool.run('ordered', { ...source, plane, part: { at, of: PARTS } }, options)
      )
    ]);
    const ask = { ...source, parts: parts.map(({ ordered }) => ordered), noise };
    found[name] = (await pool.run('statistics', ask, options)).statistics;
  }
  return found;
}
