import { z } from 'zod';
import { gaussianBlur, gaussianReach } from '../spatial/gaussian';
import { shown } from './controls';
import { eachPlane } from './each-plane';
import { asRadius, pixels, said } from './fields';
import { defineOp } from './op';

const params = z.strictObject({
  radius: pixels(0, 100).register(shown, asRadius).default(4)
});
type BlurParams = z.infer<typeof params>;

/** Gaussian blur of each channel, sigma = `radius`. */
export const blur = defineOp<BlurParams, number>({
  id: 'blur',
  title: 'Blur',
  purpose: 'Softens channels evenly, over edges too',
  words: ['soften', 'gaussian', 'defocus', 'glow', 'smear'],
  params,
  kind: 'plane',
  ownModel: () => 'rgb',
  reach: ({ radius }, scale) => gaussianReach(radius * scale),
  sentence: ({ radius }) => `Blur by ${said(radius)} px`,
  prepare: ({ radius }) => radius,
  kernel(source, radius, out) {
    eachPlane(source, out, (plane, to) => gaussianBlur(plane, to, source, radius * source.scale));
  }
});
