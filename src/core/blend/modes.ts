/**
 * Blend functions of W3C Compositing and Blending Level 1 (sections 9.1 and 9.2), `cb` the backdrop and `cs`
 * the source, both 0…1; and `add` and `subtract`, clamped. `normal` needs no function.
 */
type Blend = (cb: number, cs: number) => number;
type Colour = [number, number, number];
type ColourBlend = (cb: Colour, cs: Colour) => Colour;

const multiply: Blend = (cb, cs) => cb * cs;
const screen: Blend = (cb, cs) => cb + cs - cb * cs;
const hardLight: Blend = (cb, cs) => (cs <= 0.5 ? multiply(cb, 2 * cs) : screen(cb, 2 * cs - 1));

const softLight: Blend = (cb, cs) => {
  if (cs <= 0.5) return cb - (1 - 2 * cs) * cb * (1 - cb);
  const d = cb <= 0.25 ? ((16 * cb - 12) * cb + 4) * cb : Math.sqrt(cb);
  return cb + (2 * cs - 1) * (d - cb);
};

export const separable = {
  multiply,
  screen,
  overlay: (cb, cs) => hardLight(cs, cb),
  darken: Math.min,
  lighten: Math.max,
  'color-dodge': (cb, cs) => (cb === 0 ? 0 : cs === 1 ? 1 : Math.min(1, cb / (1 - cs))),
  'color-burn': (cb, cs) => (cb === 1 ? 1 : cs === 0 ? 0 : 1 - Math.min(1, (1 - cb) / cs)),
  'hard-light': hardLight,
  'soft-light': softLight,
  difference: (cb, cs) => Math.abs(cb - cs),
  exclusion: (cb, cs) => cb + cs - 2 * cb * cs,
  add: (cb, cs) => Math.min(1, cb + cs),
  subtract: (cb, cs) => Math.max(0, cb - cs)
} satisfies Record<string, Blend>;

const lum = ([r, g, b]: Colour): number => 0.3 * r + 0.59 * g + 0.11 * b;
const sat = (c: Colour): number => Math.max(...c) - Math.min(...c);

function clipColour(c: Colour): Colour {
  const l = lum(c);
  const n = Math.min(...c);
  const x = Math.max(...c);
  if (n < 0) c = c.map((v) => l + ((v - l) * l) / (l - n)) as Colour;
  if (x > 1) c = c.map((v) => l + ((v - l) * (1 - l)) / (x - l)) as Colour;
  return c;
}

function setLum(c: Colour, l: number): Colour {
  const d = l - lum(c);
  return clipColour([c[0] + d, c[1] + d, c[2] + d]);
}

function setSat(c: Colour, s: number): Colour {
  const low = Math.min(...c);
  const range = sat(c);
  return range > 0 ? (c.map((v) => ((v - low) * s) / range) as Colour) : [0, 0, 0];
}

export const nonSeparable = {
  hue: (cb, cs) => setLum(setSat(cs, sat(cb)), lum(cb)),
  saturation: (cb, cs) => setLum(setSat(cb, sat(cs)), lum(cb)),
  color: (cb, cs) => setLum(cs, lum(cb)),
  luminosity: (cb, cs) => setLum(cb, lum(cs))
} satisfies Record<string, ColourBlend>;

export type SeparableMode = keyof typeof separable;
export type ColourMode = keyof typeof nonSeparable;
export type BlendMode = 'normal' | SeparableMode | ColourMode;

export const blendModes = ['normal', ...Object.keys(separable), ...Object.keys(nonSeparable)] as [
  BlendMode,
  ...BlendMode[]
];

const clamp = (v: number): number => (v > 0 ? (v < 1 ? v : 1) : 0);

/**
 * Writes B(base, cand) over `cand`, the first `n` samples of three planes of coded RGB. Every mode but
 * `normal` clamps both to 0…1 first.
 */
export function blendOver(
  mode: BlendMode,
  base: readonly Float32Array[],
  cand: readonly Float32Array[],
  n: number
): void {
  if (mode === 'normal') return;
  if (mode in separable) {
    const blend = separable[mode as SeparableMode];
    for (let c = 0; c < 3; c++) {
      const backdrop = base[c];
      const source = cand[c];
      for (let i = 0; i < n; i++) source[i] = blend(clamp(backdrop[i]), clamp(source[i]));
    }
    return;
  }
  const blend = nonSeparable[mode as ColourMode];
  for (let i = 0; i < n; i++) {
    const backdrop: Colour = [clamp(base[0][i]), clamp(base[1][i]), clamp(base[2][i])];
    const result = blend(backdrop, [clamp(cand[0][i]), clamp(cand[1][i]), clamp(cand[2][i])]);
    for (let c = 0; c < 3; c++) cand[c][i] = result[c];
  }
}
