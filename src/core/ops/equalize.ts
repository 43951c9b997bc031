import { z } from 'zod';
import { fillChannel } from '../colour';
import { histogram, rangeOf } from '../measure/histogram';
import { defineOp } from './op';

const BINS = 65536;

/** Ranks over even bins from low to high; null for a channel of one value. */
interface Ranks {
  readonly low: number;
  readonly high: number;
  /** Part of the samples below each bin's beginning; one more than there are bins. */
  readonly below: Float64Array;
}

/** Flattens the histogram of each channel: a value becomes the part of the analysis raster's samples below it. */
export const equalize = defineOp<object, readonly (Ranks | null)[]>({
  id: 'equalize',
  title: 'Equalise',
  purpose: 'Gives every tone of a channel an equal share of the picture',
  words: ['histogram', 'flatten', 'contrast', 'auto', 'spread'],
  remark: 'Every tone takes an equal share of the picture. Fade it under Blend.',
  params: z.strictObject({}),
  kind: 'plane',
  ownModel: () => 'rgb',
  sentence: () => 'Flatten the histogram',
  whole: () => true,
  prepare(_, { channels, encoding, analysis }) {
    const { planes, n } = analysis();
    return channels.map(({ id }) => {
      const plane = new Float32Array(n);
      fillChannel(id, planes, encoding, plane, n);
      const range = rangeOf(plane, n);
      if (!range || range[0] === range[1]) return null;
      const [low, high] = range;
      const { counts, total } = histogram(plane, n, BINS, low, high);
      const below = new Float64Array(BINS + 1);
      for (let i = 0, sum = 0; i < BINS; i++) below[i + 1] = (sum += counts[i]) / total;
      return { low, high, below };
    });
  },
  kernel({ planes, width, height }, coefficients, out) {
    const n = width * height;
    planes.forEach((plane, c) => {
      const ranks = coefficients[c];
      if (!ranks) {
        if (out[c] !== plane) out[c].set(plane.subarray(0, n));
        return;
      }
      const { low, high, below } = ranks;
      const scale = BINS / (high - low);
      for (let i = 0; i < n; i++) {
        const at = (plane[i] - low) * scale;
        if (at >= BINS) out[c][i] = 1;
        else if (at > 0) {
          const bin = at | 0;
          out[c][i] = below[bin] + (below[bin + 1] - below[bin]) * (at - bin);
        } else out[c][i] = at <= 0 ? 0 : Number.NaN;
      }
    });
  }
});
