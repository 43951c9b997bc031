import { z } from 'zod';
import { eitherWay, simd, takePlane } from '../kernels/arena';
import { gaussianBlur, gaussianReach } from '../spatial/gaussian';
import { shown } from './controls';
import { eachPlane } from './each-plane';
import { asRadius, percent, pixels, said, unit } from './fields';
import { defineOp } from './op';

const params = z.strictObject({
  radius: pixels(0.2, 100)
    .register(shown, { ...asRadius, step: 0.1 })
    .default(1.5),
  amount: percent(0, 500)
    .register(shown, { label: 'amount', unit: '%', slider: [0, 300] })
    .default(100),
  threshold: unit()
    .register(shown, { label: 'threshold', unit: '%', slider: [0, 20], worth: 0.01, step: 0.1 })
    .default(0)
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
    eachPlane(source, out, (plane, to) => {
      gaussianBlur(plane, soft, source, radius * source.scale);
      eitherWay(
        [plane, soft, to],
        (from, by, at) => simd.sharpenPlane(from, by, at, n, gain, threshold),
        () => {
          for (let i = 0; i < n; i++) {
            const v = plane[i];
            const d = v - soft[i];
            to[i] = d >= threshold || -d >= threshold ? v + gain * d : v;
          }
        }
      );
    });
  }
});
