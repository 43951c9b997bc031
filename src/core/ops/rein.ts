import { z } from 'zod';
import { decodePlane, encodePlane } from '../colour/code-planes';
import { luminance } from '../colour/derived';
import { takePlane } from '../kernels/arena';
import { shown } from './controls';
import { said, unit } from './fields';
import { defineOp } from './op';

const LETTERS = ['r', 'g', 'b'] as const;

const params = z.strictObject({
  channel: z.enum(LETTERS).default('g'),
  to: z.enum(['mean', 'larger', 'smaller']).default('mean'),
  side: z.enum(['over', 'under']).default('over'),
  amount: unit().register(shown, { label: 'amount', unit: '%', worth: 0.01 }).default(1),
  keepLight: z.boolean().default(false)
});
export type ReinParams = z.infer<typeof params>;

const NAMES = { r: 'red', g: 'green', b: 'blue' };

/** What one primary is held to, of the other two. */
const heldTo = {
  mean: (a: number, b: number): number => (a + b) / 2,
  larger: (a: number, b: number): number => (a > b ? a : b),
  smaller: (a: number, b: number): number => (a < b ? a : b)
} as const;

/** Holds one primary to the mean, the larger or the smaller of the other two, where it is over or under that. */
export const rein = defineOp<ReinParams, ReinParams>({
  id: 'rein',
  title: 'Rein in',
  purpose: 'Holds one primary to the other two: against a green cast, or its complement',
  words: ['green', 'magenta', 'cast', 'noise', 'green cast', 'astro', 'narrowband', 'neutral'],
  params,
  kind: 'colour',
  ownModel: () => 'rgb',
  sentence({ channel, to, side, amount, keepLight }) {
    const of = to === 'mean' ? 'the mean of the other two' : `the ${to} of the other two`;
    return `Hold ${NAMES[channel]} ${side === 'over' ? 'down' : 'up'} to ${of}${amount < 1 ? ` by ${said(100 * amount, 0)} %` : ''}${keepLight ? ', keeping the light' : ''}`;
  },
  idle: ({ amount }) => amount === 0,
  prepare: (all) => all,
  kernel({ planes, encoding, width, height }, { channel, to, side, amount, keepLight }, out) {
    const n = width * height;
    const c = LETTERS.indexOf(channel);
    const [held, one, two] = [planes[c], planes[(c + 1) % 3], planes[(c + 2) % 3]];
    const reference = heldTo[to];
    const before = keepLight ? lightOf(planes, encoding === 'coded', n) : null;
    const sign = side === 'over' ? -1 : 1;
    const made = takePlane(n);
    for (let i = 0; i < n; i++) {
      const beyond = sign * (reference(one[i], two[i]) - held[i]);
      // A sample that is missing stays so.
      made[i] = held[i] + sign * amount * (beyond <= 0 ? 0 : beyond);
    }
    planes.forEach((plane, k) => {
      if (k !== c && plane !== out[k]) out[k].set(plane.subarray(0, n));
    });
    out[c].set(made.subarray(0, n));
    if (before) giveBack(out, before, encoding === 'coded', n);
  }
});

/** Relative luminance, of coded values decoded. */
function lightOf(planes: readonly Float32Array[], decodes: boolean, n: number): Float32Array {
  const linear = planes.map((plane) => {
    if (!decodes) return plane;
    const to = takePlane(n);
    decodePlane(plane, to, n);
    return to;
  });
  const light = takePlane(n);
  for (let i = 0; i < n; i++) light[i] = luminance(linear[0][i], linear[1][i], linear[2][i]);
  return light;
}

const LEAST = 1e-9;

/** Multiplies RGB as light by what brings it back to a luminance; where one of both is none, it stays. */
function giveBack(planes: readonly Float32Array[], wanted: Float32Array, decodes: boolean, n: number): void {
  const now = lightOf(planes, decodes, n);
  for (const plane of planes) {
    if (decodes) decodePlane(plane, plane, n);
    for (let i = 0; i < n; i++) if (now[i] > LEAST && wanted[i] > LEAST) plane[i] *= wanted[i] / now[i];
    if (decodes) encodePlane(plane, plane, n);
  }
}
