import { z } from 'zod';
import { fillPresent, modelOf, type Encoding, type Planes } from '../colour';
import { luminance } from '../colour/derived';
import { channelId, referenceSchema, type Reference } from '../document/mask';
import { defineHead, type SourceHead } from './head';
import { commonShape, leastAlpha } from './parts';

const MOST = 64;
const parts = z
  .array(z.strictObject({ from: referenceSchema, channel: channelId, weight: z.number() }))
  .max(MOST, `takes at most ${MOST} parts`);
const schema = z
  .strictObject({ kind: z.literal('compose'), r: parts, g: parts, b: parts, l: parts.optional() })
  .refine(({ r, g, b, l = [] }) => [r, g, b, l].some((list) => list.length > 0), {
    error: 'is made of no picture'
  });
type Compose = z.infer<typeof schema>;

/** The lists of parts in their order, l only where it is there. */
const lists = ({ r, g, b, l }: Compose): Compose['r'][] => [r, g, b, ...(l ? [l] : [])];

/** A head that is another picture at some place, sample for sample. */
export const headFrom = (from: Reference): Compose => {
  const part = (letter: string): Compose['r'] => [{ from, channel: `rgb.${letter}`, weight: 1 }];
  return { kind: 'compose', r: part('r'), g: part('g'), b: part('b') };
};

export type Composed = Compose;
export type Row = 'r' | 'g' | 'b' | 'l';

export const isComposed = (head: { readonly kind: string }): head is Composed => head.kind === 'compose';

/** What a row is made of, by the picture at its end: the sum of its weights there. */
export const partsOf = (head: Composed, row: Row, from: Reference): number =>
  (head[row] ?? [])
    .filter((part) => part.from.picture === from.picture && part.from.after === from.after)
    .reduce((sum, { weight }) => sum + weight, 0);

/** The head with another weight of a picture in a row; a grey one is the same in all its channels. */
export function withPart(head: Composed, row: Row, from: Reference, weight: number): Composed {
  const others = (head[row] ?? []).filter(
    (part) => part.from.picture !== from.picture || part.from.after !== from.after
  );
  const channel = row === 'l' ? 'lum' : `rgb.${row}`;
  const list = weight === 0 ? others : [...others, { from, channel, weight }];
  return { ...head, [row]: list };
}

/** The picture that a head is, sample for sample; null where it is no such head. */
export function beginsFrom(head: { readonly kind: string }): Reference | null {
  const [first] = head.kind === 'compose' ? (head as Compose).r : [];
  return first && JSON.stringify(head) === JSON.stringify(headFrom(first.from)) ? first.from : null;
}

/**
 * Channels of other pictures, weighed and summed, are red, green and blue; with `l`, its sum then replaces the lightness:
 * in a coded picture L* becomes that of the grey, in a linear one RGB is multiplied by l/Y, and is l where Y is not above 0.
 */
export const compose = defineHead<Compose>({
  kind: 'compose',
  schema,
  frames: () => [],
  uses: (head) => lists(head).flatMap((list) => list.map(({ from }) => from)),
  counts: (head) => lists(head).map((list) => list.map(({ channel, weight }) => [channel, weight])),
  shape: (_, __, pictures) => commonShape(pictures),
  read(source, _, pictures, __, out) {
    const n = out.width * out.height;
    const light = source.of.l ? new Float32Array(n) : null;
    sumUp(source, pictures, [...out.planes, ...(light ? [light] : [])], n);
    if (light) relight(out.planes, light, out.encoding, n);
    if (out.alpha)
      leastAlpha(
        pictures.map(({ alpha }) => alpha),
        out.alpha
      );
  }
});

type Beside = readonly { readonly planes: Planes; readonly encoding: Encoding }[];

function sumUp({ of }: SourceHead<Compose>, pictures: Beside, out: Planes, n: number): void {
  // Not in the kernels' memory, where what runs over single samples is slow.
  const [value, sum] = [new Float32Array(n), new Float32Array(n)];
  let k = 0;
  lists(of).forEach((list, c) => {
    sum.fill(0);
    for (const { channel, weight } of list) {
      const { planes, encoding } = pictures[k++];
      fillPresent([channel], planes, encoding, [value], n);
      if (weight === 1 && list.length === 1) sum.set(value);
      else for (let i = 0; i < n; i++) sum[i] += weight * value[i];
    }
    out[c].set(sum);
  });
}

/** Gives RGB the lightness of the grey `light`, in place. */
function relight(rgb: Planes, light: Float32Array, encoding: Encoding, n: number): void {
  const [red, green, blue] = rgb;
  if (encoding === 'linear') {
    for (let i = 0; i < n; i++) {
      const y = luminance(red[i], green[i], blue[i]);
      if (!(y <= 0)) {
        const gain = light[i] / y;
        for (const plane of rgb) plane[i] *= gain;
      } else for (const plane of rgb) plane[i] = light[i];
    }
    return;
  }
  const lab = modelOf('lab').kernels[encoding];
  const lightness = [light, light, light].map((plane) => plane.slice(0, n));
  const values = rgb.map((plane) => plane.slice(0, n));
  lab.fromRgb(lightness, lightness, n);
  lab.fromRgb(values, values, n);
  lab.toRgb([lightness[0], values[1], values[2]], rgb, n);
}
