import type { Planes } from '../colour';
import { sameSamples } from '../kernels/compare';
import type { Patch } from './op';

/**
 * Has a kernel make each plane of a patch. Those of a grey picture are one: of planes with the same samples that are made alike, one is
 * made for all.
 * @param run makes plane `c` of `plane` in `to`, which may be the same
 * @param alike whether it makes two of them by the same numbers
 */
export function eachPlane(
  { planes, width, height }: Pick<Patch, 'planes' | 'width' | 'height'>,
  out: Planes,
  run: (plane: Float32Array, to: Float32Array, c: number) => void,
  alike: (c: number, other: number) => boolean = () => true
): void {
  const n = width * height;
  // Before any is written to.
  const first = planes.map((plane, c) =>
    planes.findIndex((other, k) => k === c || (k < c && alike(c, k) && sameSamples(other, plane, n)))
  );
  planes.forEach((plane, c) => {
    if (first[c] === c) run(plane, out[c], c);
    else out[c].set(out[first[c]].subarray(0, n));
  });
}
