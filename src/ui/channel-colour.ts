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
