import { z } from 'zod';
import { fillChannel } from '../colour';
import { channelId } from '../document/ids';
import { inRoom, takePlane } from '../kernels/arena';
import { clippedSigma } from '../measure/noise';
import { wholeField } from '../spatial/field';
import { fillLayer, layersReach, levelOf, MOST_LAYERS, throughLayers } from '../spatial/a-trous';
import { defineOp, type Solving } from './op';

const params = z.strictObject({
  channel: channelId,
  /** Which layer, counted from 0, the finest. */
  layer: z
    .int()
    .min(0)
    .max(MOST_LAYERS - 1)
});
type ScaleSeenParams = z.infer<typeof params>;

/** So many σ of a layer come to black and white. */
const SIGMAS = 6;

/** Shows one scale of a channel about middle grey: no step of a document, but what stands behind the steps before one. */
export const scaleSeen = defineOp<
  ScaleSeenParams,
  ScaleSeenParams & { times: number },
  { sigma: number },
  ScaleSeenParams
>({
  id: '(scale)',
  title: 'Scale',
  purpose: 'Shows what of a channel is of one size',
  words: [],
  params,
  kind: 'colour',
  ownModel: () => 'rgb',
  sentence: () => 'A scale',
  reach: ({ layer }, scale) => layersReach(Math.max(0, layer + 1 - levelOf(scale))),
  needs: (given) => given,
  *solve({ channel, layer }, { analysis, encoding, size }): Solving<{ sigma: number }> {
    const { planes, width, height, present } = yield* analysis();
    const n = width * height;
    const plane = new Float32Array(n);
    fillChannel(channel, planes, encoding, plane, n);
    const field = wholeField({ x: 0, y: 0, width, height });
    const there = present ? { ...field, present: Float32Array.from(present) } : field;
    const number = Math.max(0, layer - levelOf(width / size.width));
    let sigma = 0;
    // What is taken of the kernels' memory is given back.
    inRoom(() => {
      throughLayers(plane, there, number + 1, (found, at) => {
        if (at === number) sigma = clippedSigma(found);
      });
    });
    return { sigma };
  },
  prepare: (given, _, solution) => ({
    ...given,
    times: solution && solution.sigma > 0 ? 0.5 / (SIGMAS * solution.sigma) : 1
  }),
  solved: ({ times }) => ({ times }),
  // A layer is what it is, and not light.
  encodingAfter: () => 'coded',
  kernel(source, { channel, layer, times }, out) {
    const n = source.width * source.height;
    const number = layer - levelOf(source.scale);
    const plane = takePlane(n);
    fillChannel(channel, source.planes, source.encoding, plane, n);
    const [grey] = out;
    fillLayer(plane, source, number, times, grey);
    out.forEach((to, c) => c > 0 && to.set(grey.subarray(0, n)));
  }
});
