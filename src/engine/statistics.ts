import type { SourceHead } from '../core/heads';
import { planeNames, type PlaneStatistics } from '../core/measure/statistics';
import type { Frame } from '../core/raster/frame';
import type { Part } from '../core/path/analysis';
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
    const ask = { ...source, plane };
    const noise = pool.run('noise', ask, options);
    const inParts = <T>(run: (part: Part) => Promise<T>): Promise<T[]> =>
      Promise.all(Array.from({ length: PARTS }, (_, at) => run({ at, of: PARTS })));
    const looking = inParts((part) => pool.run('counted', { ...ask, part }, options)).then(async (all) => {
      const parts = all.map(({ counted }) => counted);
      const looked = await inParts((part) => pool.run('lower', { ...ask, part, parts }, options));
      return { parts, lower: looked.map(({ lower }) => lower) };
    });
    const [counts, level] = await Promise.all([looking, noise]);
    found[name] = (await pool.run('statistics', { ...ask, ...counts, ...level }, options)).statistics;
  }
  return found;
}
