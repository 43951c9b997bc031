/** Colour spaces that files are written in, each by its own standard. */
import type { Encoding } from '.';
import { decode, encode, exactDecode, octaveTable } from './transfer';
import {
  D50,
  D65,
  fromChromaticity,
  invert,
  multiply,
  primariesToD50,
  RGB_TO_XYZ,
  type Matrix3,
  type Vector3
} from './xyz';

/**
 * How coded values stand for light, as the parametric curve of ICC.1:2022 (10.18, function 3) has it: (a·v + b)^g from `d` on, c·v below;
 * and, by odd symmetry, below 0.
 */
export interface Curve {
  readonly g: number;
  readonly a: number;
  readonly b: number;
  readonly c: number;
  readonly d: number;
}

export const SPACE_IDS = ['srgb', 'display-p3', 'adobe-rgb', 'rec2020', 'prophoto'] as const;
export type SpaceId = (typeof SPACE_IDS)[number];

export interface Space {
  readonly id: SpaceId;
  readonly title: string;
  /** Its linear RGB → XYZ relative to D50, as its profile has it. */
  readonly toXyz: Matrix3;
  /** Null for that of sRGB. */
  readonly curve: Curve | null;
  /** Its white as it was before it was adapted to D50. */
  readonly white: Vector3;
}

/** A plain power. */
const power = (g: number): Curve => ({ g, a: 1, b: 0, c: 0, d: 0 });
const SRGB_CURVE: Curve = { g: 2.4, a: 1 / 1.055, b: 0.055 / 1.055, c: 1 / 12.92, d: 0.04045 };
/** Of Rec. 2020, of a precision that is enough for 12 bits and more. */
const [ALPHA, BETA] = [1.09929682680944, 0.018053968510807];

const space = (
  id: SpaceId,
  title: string,
  [red, green, blue]: readonly (readonly [number, number])[],
  white: Vector3,
  curve: Curve | null
): Space => {
  const [r, g, b] = [red, green, blue].map(([x, y]) => fromChromaticity(x, y));
  return { id, title, toXyz: inProfile(primariesToD50(r, g, b, white)), curve, white };
};

/**
 * The numbers of a profile are whole 65536ths (ICC.1:2022, 4.6), and where a curve rises steeply out of black that is felt: what is written
 * goes by them. The columns add up to white, so that white is white.
 */
function inProfile(matrix: Matrix3): Matrix3 {
  const whole = matrix.map((v) => Math.round(v * 65536));
  D50.forEach((white, row) => {
    const at = [0, 1, 2].map((c) => 3 * row + c);
    const largest = at.reduce((a, b) => (whole[b] > whole[a] ? b : a));
    whole[largest] += Math.round(white * 65536) - at.reduce((sum, i) => sum + whole[i], 0);
  });
  return whole.map((v) => v / 65536) as unknown as Matrix3;
}

export const spaces: readonly Space[] = [
  // IEC 61966-2-1.
  { id: 'srgb', title: 'sRGB', toXyz: RGB_TO_XYZ, curve: null, white: D65 },
  // SMPTE EG 432-1, with the white and curve of sRGB.
  space(
    'display-p3',
    'Display P3',
    [
      [0.68, 0.32],
      [0.265, 0.69],
      [0.15, 0.06]
    ],
    D65,
    null
  ),
  // IEC 61966-2-5 (opRGB), whose numbers are those of Adobe RGB (1998).
  space(
    'adobe-rgb',
    'Adobe RGB (1998) compatible',
    [
      [0.64, 0.33],
      [0.21, 0.71],
      [0.15, 0.06]
    ],
    D65,
    power(563 / 256)
  ),
  // ITU-R BT.2020.
  space(
    'rec2020',
    'Rec. 2020',
    [
      [0.708, 0.292],
      [0.17, 0.797],
      [0.131, 0.046]
    ],
    D65,
    { g: 1 / 0.45, a: 1 / ALPHA, b: (ALPHA - 1) / ALPHA, c: 1 / 4.5, d: 4.5 * BETA }
  ),
  // ISO 22028-2 (ROMM RGB).
  space(
    'prophoto',
    'ProPhoto-compatible',
    [
      [0.7347, 0.2653],
      [0.1596, 0.8404],
      [0.0366, 0.0001]
    ],
    D50,
    { g: 1.8, a: 1, b: 0, c: 1 / 16, d: 16 / 512 }
  )
];

export const spaceOf = (id: SpaceId): Space => spaces.find((one) => one.id === id)!;

/** The curve of a space in full. */
export const curveOfSpace = ({ curve }: Pick<Space, 'curve'>): Curve => curve ?? SRGB_CURVE;

const matrices = new Map<SpaceId, Matrix3>();
/** Linear sRGB → linear RGB of a space. */
export function matrixInto({ id, toXyz }: Space): Matrix3 {
  let matrix = matrices.get(id);
  if (!matrix) matrices.set(id, (matrix = multiply(invert(toXyz), RGB_TO_XYZ)));
  return matrix;
}

/** Light → coded value, by the formula. */
function exactly({ g, a, b, c, d }: Curve): (light: number) => number {
  const from = (a * d + b) ** g;
  return (light) => {
    const v = Math.abs(light);
    const coded = v >= from ? (v ** (1 / g) - b) / a : v / c;
    return light < 0 ? -coded : coded;
  };
}

/** Octaves of light that come from a table: below and above by the formula. */
const [DARKEST, BRIGHTEST] = [-16, 4];
const encoders = new Map<SpaceId, (light: number) => number>();

/** Light → coded value of a space with a curve of its own, extended below 0 by odd symmetry; within 3e-7 of the formula's. */
export function encoderOf(of: Space): (light: number) => number {
  let encoder = encoders.get(of.id);
  if (!encoder) encoders.set(of.id, (encoder = octaveTable(exactly(curveOfSpace(of)), DARKEST, BRIGHTEST)));
  return encoder;
}

/** How values of a file stand for light, both ways. */
export interface Coding {
  readonly decode: (value: number) => number;
  /** The same by the formula, where it comes from a table. */
  readonly exactDecode: (value: number) => number;
  readonly encode: (light: number) => number;
}

const same = (v: number): number => v;
const LIGHT: Coding = { decode: same, exactDecode: same, encode: same };
const SRGB: Coding = { decode, exactDecode, encode };

/** Coded value → light, by the formula. */
function decodedBy({ g, a, b, c, d }: Curve): (coded: number) => number {
  return (coded) => {
    const v = Math.abs(coded);
    const light = v >= d ? (a * v + b) ** g : c * v;
    return coded < 0 ? -light : light;
  };
}

const codings = new Map<SpaceId, Coding>();
/** How values that are written in a space stand for light; linear ones are light. */
export function codingOf(id: SpaceId = 'srgb', encoding: Encoding = 'coded'): Coding {
  if (encoding === 'linear') return LIGHT;
  const space = spaceOf(id);
  if (!space.curve) return SRGB;
  let coding = codings.get(id);
  if (!coding) {
    const exactDecode = decodedBy(space.curve);
    const decode = octaveTable(exactDecode, DARKEST, BRIGHTEST);
    codings.set(id, (coding = { decode, exactDecode, encode: encoderOf(space) }));
  }
  return coding;
}
