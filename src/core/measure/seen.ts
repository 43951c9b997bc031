import type { Planes } from '../colour';
import { missesAny } from '../kernels/compare';

/** A picture at one of its levels, for what is found out about it: RGB row by row, missing samples NaN. */
export interface Seen {
  readonly width: number;
  readonly height: number;
  readonly planes: Planes;
  /** 1 where a pixel is there, 0 where a sample of it is missing; null where none is missing. */
  readonly present: Uint8Array | null;
}

/** Marks the pixels of which no sample is missing. @param misses whether there are any, where that is known */
export function seenOf(
  width: number,
  height: number,
  planes: Planes,
  misses = missesAny(planes, width * height)
): Seen {
  const n = width * height;
  if (!misses) return { width, height, planes, present: null };
  const [r, g, b] = planes;
  const present = new Uint8Array(n);
  for (let i = 0; i < n; i++) present[i] = Number.isNaN(r[i] + g[i] + b[i]) ? 0 : 1;
  return { width, height, planes, present };
}

/** Its pixels one after another, those with a missing sample taken out; copies. */
export function samplesOf({ planes, present }: Seen): { planes: Float32Array[]; n: number } {
  const copies = planes.map((plane) => plane.slice());
  if (!present) return { planes: copies, n: copies[0].length };
  let n = 0;
  for (let i = 0; i < present.length; i++) {
    if (present[i] === 0) continue;
    for (const plane of copies) plane[n] = plane[i];
    n++;
  }
  return { planes: copies.map((plane) => plane.subarray(0, n)), n };
}
