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

const lum = (c: Colour): number => 0.3 * c[0] + 0.59 * c[1] + 0.11 * c[2];
const sat = (c: Colour): number => Math.max(c[0], c[1], c[2]) - Math.min(c[0], c[1], c[2]);

/** Sets a colour's luminosity, in place, and clips it as the standard says. */
function setLum(c: Colour, wanted: number): Colour {
  const d = wanted - lum(c);
  for (let i = 0; i < 3; i++) c[i] += d;
  const l = lum(c);
  const n = Math.min(c[0], c[1], c[2]);
  const x = Math.max(c[0], c[1], c[2]);
  if (n < 0) for (let i = 0; i < 3; i++) c[i] = l + ((c[i] - l) * l) / (l - n);
  if (x > 1) for (let i = 0; i < 3; i++) c[i] = l + ((c[i] - l) * (1 - l)) / (x - l);
  return c;
}

/** Sets a colour's saturation, in place. */
function setSat(c: Colour, s: number): Colour {
  const low = Math.min(c[0], c[1], c[2]);
  const range = sat(c);
  for (let i = 0; i < 3; i++) c[i] = range > 0 ? ((c[i] - low) * s) / range : 0;
  return c;
}

/** The result may be either of the colours given, changed: none is made anew for each sample. */
export const nonSeparable = {
  hue: (cb, cs) => setLum(setSat(cs, sat(cb)), lum(cb)),
  saturation: (cb, cs) => {
    const l = lum(cb);
    return setLum(setSat(cb, sat(cs)), l);
  },
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
  const backdrop: Colour = [0, 0, 0];
  const source: Colour = [0, 0, 0];
  const [b0, b1, b2] = base;
  const [c0, c1, c2] = cand;
  for (let i = 0; i < n; i++) {
    backdrop[0] = clamp(b0[i]);
    backdrop[1] = clamp(b1[i]);
    backdrop[2] = clamp(b2[i]);
    source[0] = clamp(c0[i]);
    source[1] = clamp(c1[i]);
    source[2] = clamp(c2[i]);
    const result = blend(backdrop, source);
    c0[i] = result[0];
    c1[i] = result[1];
    c2[i] = result[2];
  }
}

/**
 * The same for one grey plane, as if it were three that are alike: hue, saturation and colour of grey change nothing,
 * and its luminosity is all of it.
 */
export function blendGrey(mode: BlendMode, base: Float32Array, cand: Float32Array, n: number): void {
  if (mode === 'normal') return;
  if (mode in separable) {
    const blend = separable[mode as SeparableMode];
    for (let i = 0; i < n; i++) cand[i] = blend(clamp(base[i]), clamp(cand[i]));
  } else if (mode === 'luminosity') for (let i = 0; i < n; i++) cand[i] = clamp(cand[i]);
  else cand.set(base.subarray(0, n));
}
