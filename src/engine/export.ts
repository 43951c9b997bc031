import { fileFormats, type FileFormat } from '../core/files';
import { finishedChannels } from '../core/files/image';
import { pictureGeometry } from '../core/path/plan';
import { sharedSamples, type Frame, type SampleType } from '../core/raster/frame';
import { TILE } from '../core/raster/raster';
import type { PictureSource } from './jobs';
import type { Pool } from './pool';

export interface ExportSettings {
  readonly format: FileFormat['id'];
  readonly depth: SampleType;
  /** JPEG only, 1…100. */
  readonly quality?: number;
  /** 32-bit floats only: values outside 0…1 are kept. */
  readonly keepRange?: boolean;
  /** One plane of greys: the first of the three. */
  readonly grey?: boolean;
  /** Pixels along the longer side; full size where it is left out. Never enlarges. */
  readonly longerSide?: number;
}

export interface ExportProgress {
  readonly doing: 'computing' | 'writing';
  /** 0…1 of the whole. */
  readonly part: number;
}

const BAND = 4 * TILE;
const PRIORITY = 9;
/** Computing counts as so much of the whole, writing as the rest. */
const COMPUTING_SHARE = 0.6;

/** Pixels of the exported image. */
export function exportSize(
  { width, height }: { readonly width: number; readonly height: number },
  longerSide?: number
): { width: number; height: number } {
  const scale = Math.min(1, (longerSide ?? Infinity) / Math.max(width, height));
  return { width: Math.max(1, Math.round(width * scale)), height: Math.max(1, Math.round(height * scale)) };
}

/**
 * The picture at full size as the bytes of a file: computed tile by tile by the pool, then written by a worker
 * of its own.
 * @throws FileError when there is no memory for it; the signal's reason when it was cancelled
 */
export async function exportPicture(
  pool: Pool,
  frame: Frame,
  source: PictureSource,
  settings: ExportSettings,
  onProgress: (progress: ExportProgress) => void = () => undefined,
  signal?: AbortSignal
): Promise<Uint8Array> {
  const { alpha } = frame;
  const { width, height } = pictureGeometry(frame, source.steps);
  const { format, depth, quality = 92, keepRange = false, grey = false } = settings;
  if (!fileFormats.some((f) => f.id === format && f.depths.includes(depth))) {
    throw new RangeError(`${format} can’t be written as ${depth}`);
  }
  const samples = sharedSamples(depth, width * height * finishedChannels({ alpha, grey }));
  const tiles: Promise<null>[] = [];
  const stopped = new AbortController();
  signal?.addEventListener('abort', () => stopped.abort(signal.reason));
  let done = 0;
  const count = Math.ceil(width / BAND) * Math.ceil(height / TILE);
  for (let y = 0; y < height; y += TILE) {
    for (let x = 0; x < width; x += BAND) {
      const rect = { x, y, width: Math.min(BAND, width - x), height: Math.min(TILE, height - y) };
      const ask = { ...source, rect, samples, width, keepRange, grey };
      const tile = pool.run('render', ask, { priority: PRIORITY, signal: stopped.signal });
      tiles.push(
        tile.finally(() => onProgress({ doing: 'computing', part: (COMPUTING_SHARE * ++done) / count }))
      );
    }
  }
  try {
    await Promise.all(tiles);
  } catch (error) {
    stopped.abort(error);
    await Promise.allSettled(tiles);
    throw error;
  }
  const size = exportSize({ width, height }, settings.longerSide);
  const writing = (part: number): void =>
    onProgress({ doing: 'writing', part: COMPUTING_SHARE + (1 - COMPUTING_SHARE) * part });
  writing(0);
  return pool.runApart(
    'encode',
    {
      format,
      width,
      height,
      alpha: alpha && !grey,
      grey,
      samples,
      quality,
      toWidth: size.width,
      toHeight: size.height
    },
    { signal, onProgress: writing }
  );
}
