import { shown } from './controls';
import { z } from 'zod';
import { modelOf } from '../colour';
import { decodePlane, encodePlane } from '../colour/code-planes';
import { takePlane } from '../kernels/arena';
import { said, weight } from './fields';
import { defineOp } from './op';

/** In per cent of its light. */
const share = weight
  .clone()
  .register(shown, { label: 'share', unit: '%', slider: [-200, 200], worth: 0.01 })
  .default(0);

const params = z.strictObject({
  target: z.enum(['saturation', 'brightness']).default('saturation'),
  weights: z.strictObject({ r: share, g: share, b: share }).prefault({}),
  normalize: z.boolean().default(false)
});
export type WeighParams = z.infer<typeof params>;

/**
 * Gain 1 + Σ w·share, share = each primary's part of the linear r + g + b (parts below 0 count as 0, a third each where
 * nothing is left). `saturation` puts it on the chroma of LAB, `brightness` on linear light.
 */
export const weigh = defineOp<WeighParams, { target: string; weights: readonly number[] }>({
  id: 'weigh',
  title: 'Primary strength',
  purpose: 'Strengthens or brightens colours by how much red, green and blue they hold',
  words: ['saturation', 'primaries', 'vivid', 'punch', 'strength'],
  params,
  kind: 'colour',
  ownModel: () => 'rgb',
  sentence({ target, weights: { r, g, b } }) {
    const parts = [`red ${said(100 * r, 0)}`, `green ${said(100 * g, 0)}`, `blue ${said(100 * b, 0)} %`];
    return `${target === 'saturation' ? 'Saturate' : 'Brighten'} by ${parts.join(', ')}`;
  },
  idle: ({ weights: { r, g, b }, normalize }) => r === g && g === b && (normalize || r === 0),
  prepare({ target, weights: { r, g, b }, normalize }) {
    const mean = normalize ? (r + g + b) / 3 : 0;
    return { target, weights: [r - mean, g - mean, b - mean] };
  },
  kernel({ planes, encoding, width, height }, { target, weights: [wr, wg, wb] }, out) {
    const n = width * height;
    const linear = planes.map((plane) => {
      const to = takePlane(n);
      if (encoding === 'coded') decodePlane(plane, to, n);
      else to.set(plane.subarray(0, n));
      return to;
    });
    const gains = takePlane(n);
    for (let i = 0; i < n; i++) {
      const r = Math.max(0, linear[0][i]);
      const g = Math.max(0, linear[1][i]);
      const b = Math.max(0, linear[2][i]);
      const sum = r + g + b;
      const weighed = sum > 0 ? (wr * r + wg * g + wb * b) / sum : (wr + wg + wb) / 3;
      gains[i] = Math.max(0, 1 + weighed);
    }
    if (target === 'brightness') {
      linear.forEach((plane, c) => {
        for (let i = 0; i < n; i++) plane[i] *= gains[i];
        if (encoding === 'coded') encodePlane(plane, out[c], n);
        else out[c].set(plane.subarray(0, n));
      });
      return;
    }
    const lab = modelOf('lab').kernels[encoding];
    lab.fromRgb(planes, out, n);
    for (const plane of [out[1], out[2]]) {
      for (let i = 0; i < n; i++) plane[i] = (plane[i] - 0.5) * gains[i] + 0.5;
    }
    lab.toRgb(out, out, n);
  }
});
