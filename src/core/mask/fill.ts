import { bend } from '../curve';
import { inRoom, takePlane } from '../kernels/arena';
import { gaussianBlur } from '../spatial/gaussian';
import type { MaskGround } from './ground';
import { growMask } from './grow';
import { clampPlane, joinTerm, scaleBy } from './planes';
import type { PreparedMask } from './prepare';

/**
 * Writes a mask, 0…1, into `out`: its terms joined in order, then grown, blurred, inverted. A mask without terms is 1
 * everywhere. Sure within `ground.needed`.
 */
export function fillMask(mask: PreparedMask, ground: MaskGround, out: Float32Array): void {
  const { n, scale } = ground;
  out.fill(1, 0, n);
  const term = takePlane(n);
  mask.terms.forEach(({ source, prepared, stretches, curve, invert, combine, amount }, i) => {
    source.fill(prepared, stretches ? ground.through(stretches) : ground, term);
    clampPlane(term, n);
    if (curve) bend(curve, term, term, n);
    const absent = source.absent?.(prepared, ground) ?? null;
    const kept = absent && absent.map((at) => out[at]);
    // The first term starts the mask, whatever it would do to one before it.
    joinTerm(out, term, n, i === 0 ? 'intersect' : combine, invert, amount);
    absent?.forEach((at, k) => (out[at] = kept![k]));
  });
  inRoom(() => {
    if (mask.grow !== 0) growMask(out, ground, mask.grow * scale);
    if (mask.blur > 0) gaussianBlur(out, out, ground, mask.blur * scale);
  });
  if (mask.invert) scaleBy(out, -1, 1, n);
}
