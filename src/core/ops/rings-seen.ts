import { z } from 'zod';
import { channelOf, fillChannel, modelOf, type Channel, type ColourModel, type ModelId } from '../colour';
import { channelId } from '../document/ids';
import { inRoom, takePlane } from '../kernels/arena';
import {
  deconvolve,
  sharpenPlanes,
  type DeconvolveCoefficients,
  type DeconvolveNeed,
  type DeconvolveSolution
} from './deconvolve';
import { defineOp } from './op';

const params = z.strictObject({
  how: deconvolve.params,
  /** Of one model: those that are sharpened. */
  channels: z.array(channelId).min(1)
});
type RingsSeenParams = z.infer<typeof params>;
type RingsSeenNeed = DeconvolveNeed & Pick<RingsSeenParams, 'channels'>;

/** What a step on these channels is given. */
const chosen = (ids: readonly string[]): { model: ColourModel; channels: readonly Channel[] } => ({
  model: modelOf(ids[0].split('.')[0] as ModelId),
  channels: ids.map(channelOf)
});

/** Shows where and how strongly sharpening holds rings, as a mask: no step of a document, but what stands behind the steps before one. */
export const ringsSeen = defineOp<RingsSeenParams, DeconvolveCoefficients, DeconvolveSolution, RingsSeenNeed>(
  {
    id: '(rings)',
    title: 'Held rings',
    purpose: 'Shows where rings are held',
    words: [],
    params,
    kind: 'colour',
    ownModel: () => 'rgb',
    sentence: () => 'Held rings',
    reach: ({ how }, scale, prepared) => deconvolve.reach!(how, scale, prepared),
    settles: () => true,
    needs({ how, channels }) {
      const need = deconvolve.needs!(how);
      return need && { ...need, channels };
    },
    *solve({ channels, ...need }, asked) {
      return yield* deconvolve.solve!(need, { ...asked, ...chosen(channels) }, []);
    },
    prepare: ({ how, channels }, given, solution) =>
      deconvolve.prepare(how, { ...given, ...chosen(channels) }, solution),
    // A mask is what it is, and not light.
    encodingAfter: () => 'coded',
    kernel(source, coefficients, out) {
      const n = source.width * source.height;
      inRoom(() => {
        const planes = coefficients.channels.map(({ id }) => {
          const plane = takePlane(n);
          fillChannel(id, source.planes, source.encoding, plane, n);
          return plane;
        });
        const made = planes.map(() => takePlane(n));
        const held = takePlane(n);
        held.fill(0, 0, n);
        sharpenPlanes({ ...source, planes }, coefficients, made, held);
        for (const plane of out) plane.set(held.subarray(0, n));
      });
    }
  }
);
