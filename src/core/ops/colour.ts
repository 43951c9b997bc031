import { shown } from './controls';
import { z } from 'zod';
import { modelOf, type Planes } from '../colour';
import { hueTurn } from '../colour/hue';
import { eitherWay, simd, takeTable } from '../kernels/arena';
import { degrees, percent, signed } from './fields';
import { defineOp, readModel } from './op';

const asTurn = { label: 'hue', unit: '°' } as const;
const asChange = { unit: '%', slider: [-100, 100] } as const;
const turn = degrees(-180, 180).register(shown, asTurn).default(0);
const saturation = percent(-100, 500)
  .register(shown, { ...asChange, label: 'saturation' })
  .default(0);
const lightness = percent(-100, 500)
  .register(shown, { ...asChange, label: 'lightness' })
  .default(0);

const band = z.strictObject({
  centre: degrees(-360, 720)
    .register(shown, { label: 'centre', unit: '°', slider: [0, 360] })
    .default(0),
  /** From where the band begins to where it ends. */
  width: z
    .number({ error: 'must be a number' })
    .min(2, 'must be at least 2°')
    .max(360, 'must be at most 360°')
    .register(shown, { label: 'width', unit: '°' })
    .default(60),
  hue: turn,
  saturation,
  lightness
});
export type HueBand = z.infer<typeof band>;

const params = z.strictObject({
  hue: turn,
  saturation,
  lightness,
  vibrance: percent(-100, 100).register(shown, { label: 'vibrance', unit: '%' }).default(0),
  bands: z.array(band).max(24, 'takes at most 24 bands').default([])
});
export type ColourParams = z.infer<typeof params>;

/** A band's part at a hue (degrees): a raised cosine about its centre, 0 from half its width on. */
export function bandAt({ centre, width }: Pick<HueBand, 'centre' | 'width'>, hue: number): number {
  const off = Math.abs(((((hue - centre + 180) % 360) + 360) % 360) - 180);
  return off >= width / 2 ? 0 : 0.5 + 0.5 * Math.cos((2 * Math.PI * off) / width);
}

/** Below this C* a band's lightness fades out, as the hue of near-greys is chance. */
const NEARLY_GREY = 8;
/** C* at which vibrance ends. */
const VIVID = 100;
const STEPS = 4096;

interface ColourCoefficients {
  /** For each hue: cosine and sine of the turn, factor on chroma, bands' change of lightness. */
  readonly table: Float32Array;
  readonly vibrance: number;
  readonly lightness: number;
}

/**
 * LCh of LAB: hue turned, chroma times 1 + saturation, lightness times 1 + lightness, each with what the bands add at the
 * pixel's hue. Vibrance adds saturation in proportion to 1 − C*⁄100, so that pale colours gain most.
 */
export const colour = defineOp<ColourParams, ColourCoefficients>({
  id: 'colour',
  title: 'Colour',
  purpose: 'Turns hues and changes saturation, everywhere or in bands of hue',
  words: ['saturation', 'hue', 'vibrance', 'desaturate', 'vivid', 'skin', 'colour shift', 'lightness'],
  params,
  kind: 'colour',
  ownModel: () => 'lab',
  sentence({ hue, saturation, lightness, vibrance, bands }) {
    const parts: string[] = [];
    if (hue) parts.push(`hue ${signed(hue)}°`);
    if (saturation) parts.push(`saturation ${signed(saturation)} %`);
    if (vibrance) parts.push(`vibrance ${signed(vibrance)} %`);
    if (lightness) parts.push(`lightness ${signed(lightness)} %`);
    if (bands.length) parts.push(`${bands.length} ${bands.length > 1 ? 'bands' : 'band'} of hue`);
    const text = parts.join(', ');
    return text ? text[0].toUpperCase() + text.slice(1) : 'Colours as they are';
  },
  idle: ({ hue, saturation, lightness, vibrance, bands }) =>
    [hue, saturation, lightness, vibrance].every((v) => v === 0) &&
    bands.every((b) => b.hue === 0 && b.saturation === 0 && b.lightness === 0),
  prepare({ hue, saturation, lightness, vibrance, bands }) {
    const table = new Float32Array(4 * (STEPS + 1));
    for (let i = 0; i <= STEPS; i++) {
      const at = (360 * i) / STEPS;
      let [turn, chroma, light] = [hue, saturation, 0];
      for (const b of bands) {
        const part = bandAt(b, at);
        turn += part * b.hue;
        chroma += part * b.saturation;
        light += part * b.lightness;
      }
      const angle = (turn * Math.PI) / 180;
      table.set([Math.cos(angle), Math.sin(angle), Math.max(0, 1 + chroma / 100), light / 100], 4 * i);
    }
    return { table, vibrance: vibrance / 100, lightness: lightness / 100 };
  },
  kernel(patch, { table, vibrance, lightness }, out) {
    const n = patch.width * patch.height;
    readModel(patch, modelOf('lab'), out);
    const base = 1 + lightness;
    eitherWay(
      out,
      (l, a, b) => simd.turnHues(l, a, b, n, takeTable(table), STEPS, vibrance, VIVID, base, NEARLY_GREY),
      () => turnHues(out, n, table, vibrance, base)
    );
    modelOf('lab').kernels[patch.encoding].toRgb(out, out, n);
  }
});

/** Turns and scales a and b by their hue, and lightness with them, in place. */
function turnHues(values: Planes, n: number, table: Float32Array, vibrance: number, base: number): void {
  const [l, a, b] = values;
  for (let i = 0; i < n; i++) {
    const p = (a[i] - 0.5) * 256;
    const q = (b[i] - 0.5) * 256;
    const at = hueTurn(p, q) * STEPS;
    const k = at | 0;
    const t = at - k;
    const j = 4 * k;
    const cos = table[j] + (table[j + 4] - table[j]) * t;
    const sin = table[j + 1] + (table[j + 5] - table[j + 1]) * t;
    let gain = table[j + 2] + (table[j + 6] - table[j + 2]) * t;
    const light = table[j + 3] + (table[j + 7] - table[j + 3]) * t;
    if (vibrance !== 0 || light !== 0) {
      const chroma = Math.sqrt(p * p + q * q);
      if (chroma < VIVID) gain *= 1 + vibrance * (1 - chroma / VIVID);
      const fade = chroma < NEARLY_GREY ? chroma / NEARLY_GREY : 1;
      l[i] *= Math.max(0, base + light * fade);
    } else l[i] *= base;
    const scale = gain / 256;
    a[i] = (p * cos - q * sin) * scale + 0.5;
    b[i] = (p * sin + q * cos) * scale + 0.5;
  }
}
