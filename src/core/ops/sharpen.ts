import { z } from 'zod';
import { inArena, simd, takePlane } from '../kernels/arena';
import { gaussianBlur, gaussianReach } from '../spatial/gaussian';
import { percent, pixels, said, unit } from './fields';
import { defineOp } from './op';

const params = z.strictObject({
  radius: pixels(0.2, 100).default(1.5),
  amount: percent(0, 500).default(100),
  threshold: unit().default(0)
});
type SharpenParams = z.infer<typeof params>;

/**
 * Unsharp mask (Schreiber 1970): adds `amount` of what a Gaussian of `radius` removes.
 * Differences below `threshold` are left alone.
 */
export const sharpen = defineOp<SharpenParams, SharpenParams>({
  id: 'sharpen',
  title: 'Sharpen',
  purpose: 'Lifts fine edges by an unsharp mask',
  words: ['sharpness', 'unsharp', 'crisp', 'focus', 'edges', 'acutance', 'output'],
  params,
  kind: 'plane',
  ownModel: () => 'rgb',
  reach: ({ radius }, scale) => gaussianReach(radius * scale),
  sentence: ({ amount, radius }) => `Sharpen by ${said(amount)} % at ${said(radius)} px`,
  prepare: (params) => params,
  kernel(source, { radius, amount, threshold }, out) {
    const n = source.width * source.height;
    const gain = amount / 100;
    const soft = takePlane(n);
    source.planes.forEach((plane, c) => {
      gaussianBlur(plane, soft, source, radius * source.scale);
      const to = out[c];
      if (inArena([plane, soft, to])) {
        const [from, by, at] = [plane, soft, to].map((p) => p.byteOffset);
        simd.sharpenPlane(from, by, at, n, gain, threshold);
        return;
      }
      for (let i = 0; i < n; i++) {
        const v = plane[i];
        const d = v - soft[i];
        to[i] = d >= threshold || -d >= threshold ? v + gain * d : v;
      }
    });
  }
});
