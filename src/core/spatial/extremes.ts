import { inRoom, takePlane } from '../kernels/arena';
import type { Field } from './field';

/** Writes the least and the largest sample of the square of 2·r + 1 about each into `low` and `high`; missing ones take no part. */
export function extremes(
  source: Float32Array,
  low: Float32Array,
  high: Float32Array,
  { width, height, present }: Field,
  r: number
): void {
  const n = width * height;
  inRoom(() => {
    const [least, most] = [takePlane(n), takePlane(n)];
    for (let y = 0; y < height; y++) {
      const at = y * width;
      for (let x = 0; x < width; x++) {
        let [a, b] = [Infinity, -Infinity];
        for (let k = at + Math.max(0, x - r); k <= at + Math.min(width - 1, x + r); k++) {
          if (present && present[k] === 0) continue;
          a = Math.min(a, source[k]);
          b = Math.max(b, source[k]);
        }
        least[at + x] = a;
        most[at + x] = b;
      }
    }
    for (let y = 0; y < height; y++) {
      const at = y * width;
      const [from, to] = [Math.max(0, y - r) * width, Math.min(height - 1, y + r) * width];
      for (let x = 0; x < width; x++) {
        let [a, b] = [Infinity, -Infinity];
        for (let k = from + x; k <= to + x; k += width) {
          a = Math.min(a, least[k]);
          b = Math.max(b, most[k]);
        }
        low[at + x] = a;
        high[at + x] = b;
      }
    }
  });
}
