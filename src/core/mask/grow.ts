import type { Field } from '../spatial/field';
import { eitherWay, simd, takePlane } from '../kernels/arena';
import { addTo, multiplyBy, scaleBy } from './planes';

/** How many samples around one its grown value depends on. */
export const growReach = (radius: number): number => Math.ceil(Math.abs(radius));

/**
 * Grows a mask in place by `radius` samples: the largest value within a disc (grey dilation, Serra 1982); a negative
 * radius shrinks it. Between whole radii the two nearest discs are mixed. What lies beyond the field or is missing takes no part.
 */
export function growMask(mask: Float32Array, { width, height, present }: Field, radius: number): void {
  const n = width * height;
  const r = Math.abs(radius);
  if (r < 1e-3) return;
  if (radius < 0) scaleBy(mask, -1, 1, n);
  if (present) multiplyBy(mask, present, n);
  const source = takePlane(n);
  source.set(mask.subarray(0, n));
  const whole = Math.floor(r);
  const part = r - whole;
  if (whole > 0) dilate(source, mask, width, height, whole);
  if (part > 1e-3) {
    const wider = takePlane(n);
    dilate(source, wider, width, height, whole + 1);
    scaleBy(mask, 1 - part, 0, n);
    addTo(mask, wider, part, n);
  }
  if (radius < 0) scaleBy(mask, -1, 1, n);
}

/** The largest value within a disc of whole radius: row by row, each row's maxima over the disc's width there. */
function dilate(
  source: Float32Array,
  out: Float32Array,
  width: number,
  height: number,
  radius: number
): void {
  const n = width * height;
  const wide = takePlane(n);
  const row = takePlane(width + 2 * radius + 8);
  eitherWay(
    [source, out, wide, row],
    (from, to, room, line) => simd.dilatePlane(from, to, width, height, radius, room, line),
    () => dilatePlainly(source, out, wide, width, height, radius)
  );
}

function dilatePlainly(
  source: Float32Array,
  out: Float32Array,
  wide: Float32Array,
  width: number,
  height: number,
  radius: number
): void {
  const n = width * height;
  out.set(source.subarray(0, n));
  let last = -1;
  for (let dy = radius; dy >= 0; dy--) {
    const half = Math.floor(Math.sqrt(radius * radius - dy * dy));
    if (half !== last) rowMaxima(source, wide, width, height, half);
    last = half;
    for (const shift of dy === 0 ? [0] : [dy, -dy]) {
      const from = Math.max(0, -shift);
      const to = Math.min(height, height - shift);
      for (let i = from * width, k = (from + shift) * width; i < to * width; i++, k++) {
        if (wide[k] > out[i]) out[i] = wide[k];
      }
    }
  }
}

/** Largest value within `half` samples to either side (van Herk 1992): running maxima of blocks from both ends. */
function rowMaxima(
  source: Float32Array,
  out: Float32Array,
  width: number,
  height: number,
  half: number
): void {
  if (half === 0) return out.set(source.subarray(0, width * height));
  const block = 2 * half + 1;
  const length = Math.ceil((width + 2 * half) / block) * block;
  const row = new Float32Array(length).fill(-Infinity);
  const ahead = new Float32Array(length);
  const back = new Float32Array(length);
  for (let y = 0; y < height; y++) {
    row.set(source.subarray(y * width, (y + 1) * width), half);
    for (let start = 0; start < length; start += block) {
      const end = start + block - 1;
      ahead[start] = row[start];
      for (let i = start + 1; i <= end; i++) ahead[i] = row[i] > ahead[i - 1] ? row[i] : ahead[i - 1];
      back[end] = row[end];
      for (let i = end - 1; i >= start; i--) back[i] = row[i] > back[i + 1] ? row[i] : back[i + 1];
    }
    for (let x = 0, at = y * width; x < width; x++, at++) {
      const a = back[x];
      const b = ahead[x + block - 1];
      out[at] = a > b ? a : b;
    }
  }
}
