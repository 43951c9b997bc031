import { shown } from './controls';
import { z } from 'zod';
import { fillChannel, modelOf } from '../colour';
import { decode } from '../colour/transfer';
import { takePlane } from '../kernels/arena';
import { degrees, percent, said, unit } from './fields';
import { defineOp, readModel } from './op';

const stop = z.strictObject({ at: unit(), rgb: z.tuple([unit(), unit(), unit()]) });
export type TintStop = z.infer<typeof stop>;

const params = z.strictObject({
  hue: degrees(0, 360).register(shown, { label: 'hue', unit: '°' }).default(70),
  saturation: percent(0, 100).register(shown, { label: 'saturation', unit: '%' }).default(25),
  stops: z
    .array(stop)
    .max(16, 'takes at most 16 colours')
    .refine(
      (stops) => stops.every(({ at }, i) => i === 0 || at >= stops[i - 1].at),
      'must rise from colour to colour'
    )
    .default([])
});
export type TintParams = z.infer<typeof params>;

/** C* of a tint of 100 % in the middle tones. */
const FULL = 80;

/**
 * Colours the greys. By one hue: L* stays, and C* is `saturation` of 80 in the middle tones, falling to 0 at black and
 * white (4·L·(1 − L)), at `hue` of LAB. With `stops`: each tone of lum becomes the colour of a gradient through them,
 * straight in coded RGB, level before the first and after the last; in a linear picture the colours are those that are seen,
 * and the gradient is straight in their light.
 */
export const tint = defineOp<
  TintParams,
  {
    direction: readonly [number, number] | null;
    stops: readonly { readonly at: number; readonly rgb: readonly number[] }[];
  }
>({
  id: 'tint',
  title: 'Tint',
  purpose: 'Colours the greys by one hue, or by a gradient over the tones',
  words: ['sepia', 'tone', 'toning', 'gradient', 'cyanotype', 'colourise', 'old'],
  params,
  kind: 'colour',
  ownModel: () => 'rgb',
  sentence: ({ hue, saturation, stops }) =>
    stops.length ? `Tones through ${stops.length} colours` : `Tint at ${said(hue)}° by ${said(saturation)} %`,
  prepare({ hue, saturation, stops: given }, { encoding }) {
    const stops = encoding === 'coded' ? given : given.map(({ at, rgb }) => ({ at, rgb: rgb.map(decode) }));
    if (stops.length === 0) {
      const angle = (hue * Math.PI) / 180;
      const chroma = (saturation / 100) * FULL;
      return {
        direction: [chroma * Math.cos(angle), chroma * Math.sin(angle)],
        stops
      };
    }
    return { direction: null, stops };
  },
  kernel(patch, { direction, stops }, out) {
    const { planes, encoding, width, height } = patch;
    const n = width * height;
    if (direction) {
      const lab = modelOf('lab');
      readModel(patch, lab, out);
      const [l, a, b] = out;
      for (let i = 0; i < n; i++) {
        const t = l[i] > 0 ? (l[i] < 1 ? l[i] : 1) : 0;
        const envelope = (4 * t * (1 - t)) / 256;
        a[i] = direction[0] * envelope + 0.5;
        b[i] = direction[1] * envelope + 0.5;
      }
      lab.kernels[encoding].toRgb(out, out, n);
      return;
    }
    const tones = takePlane(n);
    fillChannel('lum', planes, encoding, tones, n);
    const last = stops.length - 1;
    for (let i = 0; i < n; i++) {
      const tone = tones[i];
      let k = last;
      while (k >= 0 && stops[k].at > tone) k--;
      const low = stops[Math.max(0, k)];
      const high = stops[Math.min(last, k + 1)];
      const span = high.at - low.at;
      const t = span > 0 ? (tone - low.at) / span : 0;
      for (let c = 0; c < 3; c++) out[c][i] = low.rgb[c] + (high.rgb[c] - low.rgb[c]) * t;
    }
  }
});

/** The gradient's colour at a tone. */
export function colourAt(stops: readonly TintStop[], tone: number): readonly [number, number, number] {
  const after = stops.findIndex(({ at }) => at > tone);
  if (after === 0) return stops[0].rgb;
  if (after < 0) return stops[stops.length - 1].rgb;
  const [a, b] = [stops[after - 1], stops[after]];
  const t = (tone - a.at) / (b.at - a.at);
  return a.rgb.map((v, c) => v + (b.rgb[c] - v) * t) as unknown as [number, number, number];
}
