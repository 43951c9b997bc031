import { z } from 'zod';
import { takePlane } from '../kernels/arena';
import { guidedReach, guidedSmooth } from '../spatial/guided';
import { shown } from './controls';
import { eachPlane } from './each-plane';
import { asRadius, percent, pixels, said } from './fields';
import { defineOp } from './op';

/** Edges stronger than this are no detail: the base follows them, so that no halo grows beside them. */
const EDGE = 0.08;
/** From this radius on its base is followed so far around that a smaller level tells it less truly. */
const SETTLES_FROM = 64;

const params = z.strictObject({
  radius: pixels(1, 100).register(shown, asRadius).default(40),
  amount: percent(-100, 400)
    .register(shown, { label: 'amount', unit: '%', slider: [-100, 200] })
    .default(50)
});
type LocalParams = z.infer<typeof params>;

/**
 * Local contrast over an edge-preserving base: `amount` of the difference between a channel and its guided smoothing
 * over `radius` is added (base and detail of Farbman et al. 2008, the base by He, Sun & Tang 2010).
 */
export const local = defineOp<LocalParams, LocalParams>({
  id: 'local',
  title: 'Local contrast',
  purpose: 'Raises contrast within regions, without halos at strong edges',
  words: ['contrast', 'haze', 'mist', 'punch', 'depth'],
  remark: 'Strong edges stay as they are, so that no halo grows beside them.',
  params,
  kind: 'plane',
  ownModel: () => 'rgb',
  reach: ({ radius }, scale) => guidedReach(radius * scale),
  settles: ({ radius }) => radius >= SETTLES_FROM,
  sentence: ({ radius, amount }) => `Local contrast ${said(amount)} % within ${said(radius)} px`,
  prepare: (params) => params,
  kernel(source, { radius, amount }, out) {
    const n = source.width * source.height;
    const gain = amount / 100;
    const base = takePlane(n);
    eachPlane(source, out, (plane, to) => {
      guidedSmooth(plane, base, source, radius * source.scale, EDGE);
      for (let i = 0; i < n; i++) to[i] = plane[i] + gain * (plane[i] - base[i]);
    });
  }
});
