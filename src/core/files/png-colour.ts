import { fromChromaticity, primariesToD50, type Matrix3 } from '../colour/xyz';
import { curveProfile, matrixProfile, type Transfer } from './srgb-profile';

/** What a PNG says of its colours beside a profile (PNG, third edition, 11.3.2); null for a chunk that it lacks. */
export interface PngColour {
  readonly cicp: Uint8Array | null;
  readonly srgb: boolean;
  readonly gamma: Uint8Array | null;
  readonly chromaticities: Uint8Array | null;
}

export const CICP_UNKNOWN =
  'It describes its colours in a way (cICP) that can’t be used; what else it says of them counts, else sRGB.';

type Chromaticity = readonly [number, number];
interface Primaries {
  readonly white: Chromaticity;
  readonly red: Chromaticity;
  readonly green: Chromaticity;
  readonly blue: Chromaticity;
}

const D65: Chromaticity = [0.3127, 0.329];
const BT709: Primaries = { white: D65, red: [0.64, 0.33], green: [0.3, 0.6], blue: [0.15, 0.06] };

/** By their numbers in ITU-T H.273. */
const PRIMARIES: Record<number, Primaries> = {
  1: BT709,
  9: { white: D65, red: [0.708, 0.292], green: [0.17, 0.797], blue: [0.131, 0.046] },
  12: { white: D65, red: [0.68, 0.32], green: [0.265, 0.69], blue: [0.15, 0.06] }
};
const TRANSFERS: Record<number, Transfer> = {
  4: { gamma: 2.2 },
  5: { gamma: 2.8 },
  8: { gamma: 1 },
  13: 'srgb'
};

/** Differences of chromaticities and of gamma that are rounding. */
const SAME = 0.001;
/** 1/2.2, which is what programs write where they mean sRGB. */
const USUAL_GAMMA = 0.45455;

const same = (a: Primaries, b: Primaries): boolean =>
  (['white', 'red', 'green', 'blue'] as const).every(
    (key) => Math.abs(a[key][0] - b[key][0]) < SAME && Math.abs(a[key][1] - b[key][1]) < SAME
  );

function matrixOf({ red, green, blue, white }: Primaries): Matrix3 {
  const [r, g, b, w] = [red, green, blue, white].map(([x, y]) => fromChromaticity(x, y));
  return primariesToD50(r, g, b, w);
}

function profileOf(primaries: Primaries, transfer: Transfer, grey: boolean): Uint8Array | null {
  const plain = grey || same(primaries, BT709);
  if (plain && transfer === 'srgb') return null;
  return grey ? curveProfile('grey', transfer) : matrixProfile('RGB', matrixOf(primaries), transfer);
}

/** What numbers of ITU-T H.273 say: a profile, null where it is sRGB, undefined where it can't be used. */
export function cicpProfile(
  primaries: number,
  transfer: number,
  grey: boolean
): Uint8Array | null | undefined {
  const [known, curve] = [PRIMARIES[primaries], TRANSFERS[transfer]];
  return known && curve !== undefined ? profileOf(known, curve, grey) : undefined;
}

function byGamma({ gamma, chromaticities }: PngColour, grey: boolean): Uint8Array | null {
  const number = (chunk: Uint8Array, i: number): number =>
    new DataView(chunk.buffer, chunk.byteOffset, chunk.length).getUint32(4 * i) / 100_000;
  const place = (i: number): Chromaticity => [
    number(chromaticities!, 2 * i),
    number(chromaticities!, 2 * i + 1)
  ];
  const given: Primaries | null =
    chromaticities && chromaticities.length >= 32
      ? { white: place(0), red: place(1), green: place(2), blue: place(3) }
      : null;
  // Places on the edge of the diagram make no space.
  const usable = given && Object.values(given).every(([, y]) => y > 0) ? given : BT709;
  const power = gamma && gamma.length >= 4 ? number(gamma, 0) : 0;
  const usual = same(usable, BT709) && Math.abs(power - USUAL_GAMMA) < SAME;
  return profileOf(usable, power > 0 && !usual ? { gamma: 1 / power } : 'srgb', grey);
}

/**
 * The profile that stands for what a PNG says of its colours, in the order of the standard: cICP, iCCP, sRGB, gAMA with
 * cHRM. Null for sRGB.
 * @param embedded the profile of iCCP
 */
export function colourProfile(
  colour: PngColour,
  embedded: Uint8Array | null,
  grey: boolean,
  notices: string[]
): Uint8Array | null {
  if (colour.cicp && colour.cicp.length >= 4) {
    const [primaries, transfer, matrix, full] = colour.cicp;
    const profile = matrix === 0 && full === 1 ? cicpProfile(primaries, transfer, grey) : undefined;
    if (profile !== undefined) return profile;
    notices.push(CICP_UNKNOWN);
  }
  if (embedded) return embedded;
  return colour.srgb ? null : byGamma(colour, grey);
}
