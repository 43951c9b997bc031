import { eitherWay, inRoom, simd, takePlane } from '../kernels/arena';
import type { Rect } from '../raster/raster';

/** Binomial weights of the pyramid (Burt & Adelson 1983, a = 0.375). */
const [W0, W1, W2] = [0.375, 0.25, 0.0625];

/** One level: every second place of the level below, counted from the picture's corner. */
export interface Band extends Rect {
  readonly plane: Float32Array;
}

/** Places of `from`…`from + length` that are even, halved; the first and last are kept whole. */
function halved(from: number, length: number): { from: number; length: number } {
  const first = Math.ceil(from / 2);
  const last = Math.floor((from + length - 1) / 2);
  return { from: first, length: Math.max(1, last - first + 1) };
}

const clamp = (v: number, most: number): number => (v < 0 ? 0 : v > most ? most : v);

/** The next coarser level of a plane: blurred by the binomial and read at the even places. */
export function reduce({ x, y, width, height, plane }: Band): Band {
  const across = halved(x, width);
  const down = halved(y, height);
  const place = { x: across.from, y: down.from, width: across.length, height: down.length };
  const result = takePlane(across.length * down.length);
  const [fx, fy] = [2 * across.from - x, 2 * down.from - y];
  inRoom(() => {
    const between = takePlane(across.length * height);
    eitherWay(
      [plane, result, between],
      (from, to, room) => simd.reducePlane(from, width, height, fx, fy, to, place.width, place.height, room),
      () => reducePlainly({ x, y, width, height, plane }, across, down, between, result)
    );
  });
  return { ...place, plane: result };
}

interface Span {
  readonly from: number;
  readonly length: number;
}

function reducePlainly(
  { x, y, width, height, plane }: Band,
  across: Span,
  down: Span,
  between: Float32Array,
  result: Float32Array
): void {
  for (let v = 0; v < height; v++) {
    const from = v * width;
    for (let i = 0; i < across.length; i++) {
      const at = clamp(2 * (across.from + i) - x, width - 1);
      const inside = at >= 2 && at + 2 < width;
      const a = plane[from + (inside ? at - 2 : clamp(at - 2, width - 1))];
      const b = plane[from + (inside ? at - 1 : clamp(at - 1, width - 1))];
      const c = plane[from + (inside ? at + 1 : clamp(at + 1, width - 1))];
      const d = plane[from + (inside ? at + 2 : clamp(at + 2, width - 1))];
      between[v * across.length + i] = W0 * plane[from + at] + W1 * (b + c) + W2 * (a + d);
    }
  }
  const step = across.length;
  for (let j = 0; j < down.length; j++) {
    const at = clamp(2 * (down.from + j) - y, height - 1);
    const [a, b, m, c, d] = [at - 2, at - 1, at, at + 1, at + 2].map((v) => clamp(v, height - 1) * step);
    for (let i = 0; i < step; i++) {
      result[j * step + i] =
        W0 * between[m + i] + W1 * (between[b + i] + between[c + i]) + W2 * (between[a + i] + between[d + i]);
    }
  }
}

/** A coarser level read at the places of `field` again, through the binomial. */
export function expand(coarse: Band, field: Rect): Float32Array {
  const { width, height } = field;
  const out = takePlane(width * height);
  const { x, y, width: step, height: rows, plane } = coarse;
  inRoom(() => {
    const line = takePlane(step);
    eitherWay(
      [plane, out, line],
      (from, to, room) => simd.expandPlane(from, x, y, step, rows, field.x, field.y, width, height, to, room),
      () => expandPlainly(coarse, field, line, out)
    );
  });
  return out;
}

function expandPlainly(coarse: Band, field: Rect, line: Float32Array, out: Float32Array): void {
  const { width, height } = field;
  const { width: step, plane } = coarse;
  for (let v = 0; v < height; v++) {
    const { a, b, c, odd } = neighbours(field.y + v, coarse.y, coarse.height);
    const [up, at, down] = [a * step, b * step, c * step];
    if (odd) for (let i = 0; i < step; i++) line[i] = 0.5 * (plane[at + i] + plane[down + i]);
    else
      for (let i = 0; i < step; i++)
        line[i] = 0.125 * (plane[up + i] + plane[down + i]) + 0.75 * plane[at + i];
    const to = v * width;
    const most = step - 1;
    for (let u = 0; u < width; u++) {
      const x = field.x + u;
      const i = (x >> 1) - coarse.x;
      const middle = line[i < 0 ? 0 : i > most ? most : i];
      const right = line[i + 1 < 0 ? 0 : i + 1 > most ? most : i + 1];
      if (x & 1) out[to + u] = 0.5 * (middle + right);
      else out[to + u] = 0.125 * (line[i - 1 < 0 ? 0 : i - 1 > most ? most : i - 1] + right) + 0.75 * middle;
    }
  }
}

/** The part of a band over `rect` (in its level), as far as it goes. */
export function windowOf(band: Band, rect: Rect): Band {
  const x = Math.max(band.x, rect.x);
  const y = Math.max(band.y, rect.y);
  const width = Math.min(band.x + band.width, rect.x + rect.width) - x;
  const height = Math.min(band.y + band.height, rect.y + rect.height) - y;
  const plane = takePlane(width * height);
  for (let v = 0; v < height; v++) {
    const from = (y + v - band.y) * band.width + x - band.x;
    plane.set(band.plane.subarray(from, from + width), v * width);
  }
  return { x, y, width, height, plane };
}

/** Coarse places left of, at and right of a fine place, as indices. */
function neighbours(
  at: number,
  from: number,
  count: number
): { a: number; b: number; c: number; odd: boolean } {
  const middle = Math.floor(at / 2) - from;
  return {
    a: clamp(middle - 1, count - 1),
    b: clamp(middle, count - 1),
    c: clamp(middle + 1, count - 1),
    odd: at % 2 !== 0
  };
}
