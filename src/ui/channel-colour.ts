import { channelOf, type Encoding } from '$core/colour';
import { encode } from '$core/colour/transfer';

/** The small swatches that tell channels apart: the only colours on the screen besides the picture. */
const SWATCHES: Record<string, string> = {
  'rgb.r': 'var(--k-red)',
  'rgb.g': 'var(--k-green)',
  'rgb.b': 'var(--k-blue)',
  'lab.l': '#d0d0d0',
  'lab.a': 'var(--k-magenta)',
  'lab.b': 'var(--k-yellow)',
  'cmyk.c': 'var(--k-cyan)',
  'cmyk.m': 'var(--k-magenta)',
  'cmyk.y': 'var(--k-yellow)',
  'cmyk.k': 'var(--k-black)'
};

export const swatch = (channel: string): string => SWATCHES[channel] ?? '#d0d0d0';

/** RGB as a colour of CSS, clamped; that of a linear picture as it is seen. */
export const cssColour = (rgb: readonly number[], encoding: Encoding = 'coded'): string => {
  const seen = encoding === 'linear' ? rgb.map(encode) : rgb;
  return `rgb(${seen.map((v) => Math.round(255 * Math.min(1, Math.max(0, v)))).join(' ')})`;
};

const MODEL_SIGNS = ['lab.a', 'lab.b'];

/** What a row of a panel calls a channel: its name, or its sign where the name is long. */
export const shortName = (id: string): string =>
  MODEL_SIGNS.includes(id) ? channelOf(id).sign : channelOf(id).name;
