import type { PictureSource } from '../core/document';
import type { Outside, WrittenAs } from '../core/path/outside';
import { TILE } from '../core/raster/raster';
import { exportEncoding, sharedSpace, type ExportSettings, type ExportShape } from './export';
import type { Pool } from './pool';

/** Behind what is looked at. */
const PRIORITY = 9;
const BAND = 4 * TILE;

type Written = Pick<ExportSettings, 'format' | 'depth' | 'space'>;
const quantizingOf = ({ encoding }: ExportShape, settings: Written): WrittenAs => ({
  space: sharedSpace(settings.space),
  encoding: exportEncoding(encoding, settings)
});

/** How much of a picture lies outside of what its file holds, at full size. @throws the signal's reason */
export async function outsideOfFile(
  pool: Pick<Pool, 'run'>,
  shape: ExportShape,
  source: PictureSource,
  settings: Written,
  signal?: AbortSignal
): Promise<Outside> {
  const { width, height } = shape;
  const quantizing = quantizingOf(shape, settings);
  const rows = Array.from({ length: Math.ceil(height / BAND) }, (_, i) => i * BAND);
  const columns = Array.from({ length: Math.ceil(width / BAND) }, (_, i) => i * BAND);
  const parts = await Promise.all(
    rows.flatMap((y) =>
      columns.map((x) => {
        const rect = { x, y, width: Math.min(BAND, width - x), height: Math.min(BAND, height - y) };
        return pool.run('outside', { ...source, rect, quantizing }, { priority: PRIORITY, signal });
      })
    )
  );
  const sum = (of: (part: Outside) => number): number =>
    parts.reduce((total, part) => total + of(part.outside), 0);
  return { outside: sum((p) => p.outside), pixels: sum((p) => p.pixels) };
}

/** A small JPEG of the picture in which that is hatched. */
export const outsideSeen = (
  pool: Pick<Pool, 'run'>,
  shape: ExportShape,
  source: PictureSource,
  settings: Written,
  size: number,
  signal?: AbortSignal
): Promise<Uint8Array> =>
  pool.run(
    'thumbnail',
    { ...source, size, hatched: quantizingOf(shape, settings) },
    { priority: PRIORITY, signal }
  );
