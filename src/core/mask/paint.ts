import { LRUCache } from 'lru-cache';
import { eitherWay, inRoom, matrixAt, simd, takePlane } from '../kernels/arena';
import { fromFrame, type Geometry } from '../raster/geometry';
import type { Rect } from '../raster/raster';
import type { Stroke } from '../document/mask';
import { lay } from './planes';

/** A stroke ready to be drawn: its points in full-size pixels of the picture, x, y, pressure one after another. */
export interface PreparedStroke extends Omit<Stroke, 'points'> {
  readonly points: Float32Array;
  /** What it covers, in full-size pixels of the picture. */
  readonly bounds: readonly [left: number, top: number, right: number, bottom: number];
  /** Stands for the stroke's content, where it is known: what was painted before the last stroke is kept then. */
  readonly number?: number;
}

type Points = Stroke['points'] | Float32Array;

/** @param geometry how the picture lies on the frame: strokes are kept in places of the frame */
export function prepareStroke(
  stroke: Omit<Stroke, 'points'> & { points: Points; number?: number },
  geometry: Geometry | null
): PreparedStroke {
  const given =
    stroke.points instanceof Float32Array ? stroke.points : Float32Array.from(stroke.points.flat());
  let { size } = stroke;
  let points = given;
  if (geometry) {
    points = given.slice();
    for (let i = 0; i < points.length; i += 3) {
      const { x, y } = fromFrame(geometry, { x: given[i], y: given[i + 1] });
      points[i] = x;
      points[i + 1] = y;
    }
    // Perspective makes a stroke wider here and narrower there; it is drawn at the width it has where it begins.
    const near = fromFrame(geometry, { x: given[0] + 1, y: given[1] });
    size *= Math.hypot(near.x - points[0], near.y - points[1]);
  }
  const bounds: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i < points.length; i += 3) {
    bounds[0] = Math.min(bounds[0], points[i] - size / 2 - 1);
    bounds[1] = Math.min(bounds[1], points[i + 1] - size / 2 - 1);
    bounds[2] = Math.max(bounds[2], points[i] + size / 2 + 1);
    bounds[3] = Math.max(bounds[3], points[i + 1] + size / 2 + 1);
  }
  return { ...stroke, points, size, bounds };
}

/** The radii, in samples, within which a stroke is full and where it ends; never sharper than one sample. */
export function strokeRadii(
  size: number,
  hardness: number,
  scale: number
): readonly [inner: number, outer: number] {
  const outer = (size / 2) * scale;
  const inner = outer * hardness;
  if (outer - inner >= 1) return [inner, outer];
  const middle = (inner + outer) / 2;
  return [middle - 0.5, middle + 0.5];
}

const KEPT_SAMPLES = 8 * 2 ** 20;
const kept = new LRUCache<string, Float32Array>({
  maxSize: KEPT_SAMPLES,
  sizeCalculation: ({ length }) => Math.max(1, length)
});

/**
 * Paints strokes in order into `out`. One stroke never adds to itself: at a place it has the strength of its nearest
 * piece, full within its hard core and falling smoothly to its edge, times the pressure there. Strokes join by
 * m + flow·s·(1 − m), erasing ones by m·(1 − flow·s). What all strokes but the last gave is kept, so that the one being
 * painted costs no more than itself.
 */
export function paintStrokes(
  strokes: readonly PreparedStroke[],
  rect: Rect,
  scale: number,
  out: Float32Array
): void {
  const n = rect.width * rect.height;
  const done = strokes.slice(0, -1);
  const key =
    done.length > 0 && done.every((s) => s.number !== undefined)
      ? [
          scale,
          rect.x,
          rect.y,
          rect.width,
          rect.height,
          ...done.map((s) => `${s.number}/${s.bounds[0]}`)
        ].join()
      : null;
  const known = key === null ? undefined : kept.get(key);
  if (known) out.set(known);
  else {
    out.fill(0, 0, n);
    for (const stroke of done) layStroke(stroke, rect, scale, out);
    if (key !== null) kept.set(key, out.slice(0, n));
  }
  if (strokes.length > 0) layStroke(strokes[strokes.length - 1], rect, scale, out);
}

function layStroke(stroke: PreparedStroke, rect: Rect, scale: number, out: Float32Array): void {
  const n = rect.width * rect.height;
  const [left, top, right, bottom] = stroke.bounds.map((v) => v * scale);
  if (right < rect.x || bottom < rect.y || left > rect.x + rect.width || top > rect.y + rect.height) return;
  inRoom(() => {
    const own = takePlane(n).fill(0, 0, n);
    drawStroke(stroke, rect, scale, own);
    lay(out, own, stroke.flow, stroke.erase, n);
  });
}

/** Places are rounded so finely that they, and their differences, are exact in single precision wherever a tile is cut. */
const exact = (v: number): number => Math.round(v * 128) / 128;

function drawStroke(stroke: PreparedStroke, rect: Rect, scale: number, own: Float32Array): void {
  const { points, size, hardness } = stroke;
  const [inner, outer] = strokeRadii(size, hardness, scale);
  const last = points.length / 3 - 1;
  for (let k = 0; k < Math.max(1, last); k++) {
    const i = 3 * k;
    const j = 3 * Math.min(last, k + 1);
    const [x0, y0, x1, y1] = [
      exact(points[i] * scale) - rect.x,
      exact(points[i + 1] * scale) - rect.y,
      exact(points[j] * scale) - rect.x,
      exact(points[j + 1] * scale) - rect.y
    ];
    const left = Math.max(0, Math.floor(Math.min(x0, x1) - outer));
    const right = Math.min(rect.width, Math.ceil(Math.max(x0, x1) + outer) + 1);
    const top = Math.max(0, Math.floor(Math.min(y0, y1) - outer));
    const bottom = Math.min(rect.height, Math.ceil(Math.max(y0, y1) + outer) + 1);
    if (left >= right || top >= bottom) continue;
    const piece = [x0, y0, x1, y1, points[i + 2], points[j + 2], inner, outer];
    eitherWay(
      [own],
      (at) => simd.strokePiece(at, rect.width, left, right, top, bottom, matrixAt(piece)),
      () => drawPiece(own, rect.width, left, right, top, bottom, piece)
    );
  }
}

/** One straight piece of a stroke; see the kernel `strokePiece`, which does the same. */
export function drawPiece(
  plane: Float32Array,
  width: number,
  left: number,
  right: number,
  top: number,
  bottom: number,
  [x0, y0, x1, y1, p0, p1, inner, outer]: readonly number[]
): void {
  const [dx, dy] = [x1 - x0, y1 - y0];
  const length2 = dx * dx + dy * dy;
  for (let y = top; y < bottom; y++) {
    for (let x = left; x < right; x++) {
      const [rx, ry] = [x + 0.5 - x0, y + 0.5 - y0];
      const t = length2 > 0 ? Math.min(1, Math.max(0, (rx * dx + ry * dy) / length2)) : 0;
      const d = Math.hypot(rx - dx * t, ry - dy * t);
      const u = Math.min(1, Math.max(0, (outer - d) / (outer - inner)));
      const v = u * u * (3 - 2 * u) * (p0 + (p1 - p0) * t);
      const at = y * width + x;
      if (v > plane[at]) plane[at] = v;
    }
  }
}
