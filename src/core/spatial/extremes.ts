import { eitherWay, inRoom, simd, takeBytes, takePlane } from '../kernels/arena';
import type { Field } from './field';

/** The row that `extremeRows` doubles its windows in. */
const lineBytes = (width: number, r: number): number => 4 * (width + 2 * r + 8);

/** The least of a square of 2r + 1 about each, or the largest: along rows, and of that down columns. */
function ofSquares(
  source: Float32Array,
  between: Float32Array,
  out: Float32Array,
  { width, height }: Field,
  r: number,
  most: boolean
): void {
  const of = most ? Math.max : Math.min;
  const least = most ? -Infinity : Infinity;
  eitherWay(
    [source, between],
    (from, to) => simd.extremeRows(from, to, width, height, r, most, takeBytes(lineBytes(width, r)).address),
    () => {
      for (let y = 0; y < height; y++)
        for (let x = 0, at = y * width; x < width; x++) {
          let found = least;
          const last = at + Math.min(width - 1, x + r);
          for (let k = at + Math.max(0, x - r); k <= last; k++) found = of(found, source[k]);
          between[at + x] = found;
        }
    }
  );
  eitherWay(
    [between, out],
    (from, to) => simd.extremeColumns(from, to, width, height, r, most),
    () => {
      for (let y = 0; y < height; y++) {
        const [first, last] = [Math.max(0, y - r) * width, Math.min(height - 1, y + r) * width];
        for (let x = 0; x < width; x++) {
          let found = least;
          for (let k = first + x; k <= last + x; k += width) found = of(found, between[k]);
          out[y * width + x] = found;
        }
      }
    }
  );
}

/** Writes the least and the largest sample of the square of 2·r + 1 about each into `low` and `high`; missing ones take no part. */
export function extremes(
  source: Float32Array,
  low: Float32Array,
  high: Float32Array,
  field: Field,
  r: number
): void {
  const n = field.width * field.height;
  const { present } = field;
  inRoom(() => {
    const [held, between] = [takePlane(n), takePlane(n)];
    for (const [out, most] of [
      [low, false],
      [high, true]
    ] as const) {
      held.set(source.subarray(0, n));
      if (present) for (let i = 0; i < n; i++) if (present[i] === 0) held[i] = most ? -Infinity : Infinity;
      ofSquares(held, between, out, field, r, most);
    }
  });
}
