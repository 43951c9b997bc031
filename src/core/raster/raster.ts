import type { Encoding } from '../colour';
import { takePlane } from '../kernels/arena';

/** A rectangle in the pixels of one pyramid level. */
export interface Rect {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/** RGB as three Float32 planes over `Rect`, row by row; alpha (0…1) rides along untouched. */
export interface Raster extends Rect {
  readonly planes: readonly Float32Array[];
  readonly encoding: Encoding;
  readonly alpha: Float32Array | null;
}

export const TILE = 256;

/** A raster in the arena that is open, not cleared. */
export function takeRaster(
  { x, y, width, height }: Rect,
  { alpha, encoding }: { readonly alpha: boolean; readonly encoding: Encoding }
): Raster {
  const n = width * height;
  const planes = [takePlane(n), takePlane(n), takePlane(n)];
  return { x, y, width, height, planes, encoding, alpha: alpha ? takePlane(n) : null };
}

/** A copy outside the arena. */
export const copied = (raster: Raster): Raster => ({
  ...raster,
  planes: raster.planes.map((p) => p.slice()),
  alpha: raster.alpha && raster.alpha.slice()
});

/** `rect` grown by `margin` on every side, cut to a level of `width`×`height`. */
export function grow(rect: Rect, margin: number, width: number, height: number): Rect {
  const x = Math.max(0, rect.x - margin);
  const y = Math.max(0, rect.y - margin);
  return {
    x,
    y,
    width: Math.min(width, rect.x + rect.width + margin) - x,
    height: Math.min(height, rect.y + rect.height + margin) - y
  };
}

/** The part of `raster` under `rect`, which must lie inside it; the raster itself where they are the same. In the arena. */
export function crop(raster: Raster, rect: Rect): Raster {
  if (rect.width === raster.width && rect.height === raster.height) return raster;
  const cut = (plane: Float32Array): Float32Array => {
    const out = takePlane(rect.width * rect.height);
    for (let row = 0; row < rect.height; row++) {
      const from = (rect.y - raster.y + row) * raster.width + rect.x - raster.x;
      out.set(plane.subarray(from, from + rect.width), row * rect.width);
    }
    return out;
  };
  const { encoding } = raster;
  return { ...rect, planes: raster.planes.map(cut), encoding, alpha: raster.alpha && cut(raster.alpha) };
}

/** The tiles of a `width`×`height` level that touch `rect`, row by row; a tile is known by its column and row. */
export function tilesIn(
  rect: Rect,
  width: number,
  height: number,
  size = TILE
): { column: number; row: number }[] {
  const tiles = [];
  const lastRow = Math.min(Math.ceil(height / size), Math.ceil((rect.y + rect.height) / size));
  const lastColumn = Math.min(Math.ceil(width / size), Math.ceil((rect.x + rect.width) / size));
  for (let row = Math.max(0, Math.floor(rect.y / size)); row < lastRow; row++) {
    for (let column = Math.max(0, Math.floor(rect.x / size)); column < lastColumn; column++) {
      tiles.push({ column, row });
    }
  }
  return tiles;
}

export function tileRect(column: number, row: number, width: number, height: number, size = TILE): Rect {
  const x = column * size;
  const y = row * size;
  return { x, y, width: Math.min(size, width - x), height: Math.min(size, height - y) };
}
