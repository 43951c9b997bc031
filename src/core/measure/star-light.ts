/** The light by which stars are told: a stretch is undone, and noise is known by the sizes that it has. */
import type { Rect } from '../raster/raster';
import { layerResponse } from '../spatial/a-trous';
import {
  curveOf,
  inOrderOfValue,
  placesOf,
  scaledCurve,
  sigmaAt,
  squaresOfBand,
  type NoiseCurve,
  type Square
} from './noise-curve';
import type { Seen } from './seen';
import { medianOf } from './sky';
import { greyOf, STAR_REACH, starPeaks, starPlace } from './star-places';

export interface StarLight {
  /** A part of the picture; missing samples are NaN. */
  read(rect: Rect): Float32Array;
  /** σ of its samples, by their value. */
  readonly noise: NoiseCurve;
  /** σ of each à trous layer, by the value, from the finest on: of the white noise that would make as much there. */
  readonly layers: readonly NoiseCurve[];
}

/** Layers in which noise is told. */
const LAYERS = 4;
/** Noise that is stronger by less is white. */
const WHITE = 1.15;
/** Where the next layer is so many times as strong the picture was sharpened: its noise stands in points, of which many are so much higher. */
const [SHARPENED, SPIKED] = [2, 1.8];
/** In coarser layers noise is stronger by at most so many times what it is in the second. */
const GROWS = 1.5;
/** σ falls to less than this part of what it is in the dark where a picture is stretched. */
const STRETCHED = 0.8;

/** A stretch undone, of values from 0 to 1. */
export interface Unstretching {
  of(v: number): number;
  /** Its slope where the stretched one has a value. */
  slope(v: number): number;
}

/** Schlick's (1994) by its middle, and asinh (Lupton et al. 2004) by the asinh of its strength. */
const schlick = (m: number): Unstretching => ({
  of: (v) => (m * v) / (1 - m - (1 - 2 * m) * v),
  slope: (v) => (m * (1 - m)) / (1 - m - (1 - 2 * m) * v) ** 2
});
const asinh = (a: number): Unstretching => ({
  of: (v) => Math.sinh(a * v) / Math.sinh(a),
  slope: (v) => (a * Math.cosh(a * v)) / Math.sinh(a)
});
/** So many of each are tried, evenly in the logarithm. */
const TRIED = 60;
const spread = (from: number, to: number): number[] =>
  Array.from({ length: TRIED }, (_, i) => from * (to / from) ** (i / (TRIED - 1)));
const FAMILIES = [
  { make: schlick, tried: spread(2e-5, 0.45) },
  { make: asinh, tried: spread(0.5, 14) }
];
/** Which of them undoes a stretch: the family's number and its one value. */
export interface Undoing {
  readonly family: number;
  readonly by: number;
}
const undoes = ({ family, by }: Undoing): Unstretching => FAMILIES[family].make(by);

const within = (v: number): number => (v > 0 ? (v < 1 ? v : 1) : 0);
const through = ({ of, slope }: Unstretching, { value, scatter }: Square): Square => ({
  value: of(within(value)),
  scatter: scatter * slope(within(value))
});

/** Whether noise is weaker where a picture is bright, as a stretch makes it. */
export function looksStretched(squares: readonly Square[]): boolean {
  if (squares.length === 0) return false;
  const places = placesOf(inOrderOfValue(squares));
  return places.at(-1)!.sigma < STRETCHED * places[0].sigma;
}

/** Stars by which a stretch is told: so few at least, and the brightest so many times as high as the faintest. */
const [FEWEST, RANGE] = [12, 1.05];
/** What is this bright may be burnt out. */
const BURNT = 0.9995;
/** The samples of a star's square that are looked at, in pixels from its middle. */
const CORE = 6;

/** One star as it stands in a square of samples: over what is about it, and where it is the highest. */
export interface Core {
  readonly ground: number;
  readonly peak: number;
  readonly samples: readonly number[];
}

/** The light about the middle of a square of samples; null where a sample is missing or it may be burnt out. */
function coreOf(square: Float32Array, side: number): Core | null {
  const border: number[] = [];
  const samples: number[] = [];
  const middle = (side - 1) / 2;
  for (let j = 0; j < side; j++)
    for (let i = 0; i < side; i++) {
      const v = square[j * side + i];
      if (!(v === v)) return null;
      const d = Math.hypot(i - middle, j - middle);
      if (d <= CORE) samples.push(v);
      else if (d > middle) border.push(v);
    }
  const [ground, peak] = [medianOf(border), Math.max(...samples)];
  return peak < BURNT && peak > ground ? { ground, peak, samples } : null;
}

/** What is lower than this part of a star's height is its foot, in which others stand. */
const FOOT = 0.05;
/** How high a star is, and on how many samples its light stands, both in the logarithm, once a stretch is undone. */
function sizeOf({ ground, peak, samples }: Core, { of }: Unstretching): { height: number; size: number } {
  const base = of(within(ground));
  const least = FOOT * (of(within(peak)) - base);
  let [sum, squares] = [0, 0];
  for (const sample of samples) {
    const v = of(within(sample)) - base;
    if (!(v > least)) continue;
    sum += v;
    squares += v * v;
  }
  return { height: Math.log(of(within(peak)) - base), size: Math.log((sum * sum) / squares) };
}

/** The slope of what most pairs agree on (Theil 1950, Sen 1968). */
function slopeOf(sizes: readonly { height: number; size: number }[]): number {
  const slopes: number[] = [];
  sizes.forEach((a, i) => {
    for (const b of sizes.slice(0, i))
      if (Math.abs(a.height - b.height) > 0.1) slopes.push((a.size - b.size) / (a.height - b.height));
  });
  return medianOf(slopes);
}

/** The stars by which a stretch is told; none where they are too few or too much alike to tell. */
function tellingOf(all: readonly Core[]): readonly Core[] {
  // Faint ones look wider by their noise.
  const cores = [...all]
    .sort((a, b) => b.peak - b.ground - (a.peak - a.ground))
    .slice(0, Math.min(MOST_STARS, Math.max(FEWEST, all.length >> 1)));
  const heights = cores.map(({ peak, ground }) => peak - ground);
  return cores.length < FEWEST || Math.max(...heights) < RANGE * Math.min(...heights) ? [] : cores;
}

const AS_IT_IS: Unstretching = { of: (v) => v, slope: () => 1 };
/** Where stars grow by more than this power of their height they were stretched. */
const GROWN = 0.2;

/** Whether bright stars are wider than faint ones, as a stretch makes them. */
function starsLookStretched(all: readonly Core[]): boolean {
  const cores = tellingOf(all);
  return cores.length > 0 && slopeOf(cores.map((core) => sizeOf(core, AS_IT_IS))) > GROWN;
}

/**
 * What a stretch is undone by, told by the stars: once it is undone, bright and faint ones are spread alike. Null where they are too few
 * or too much alike to tell.
 */
function unstretchedBy(all: readonly Core[]): Undoing | null {
  const cores = tellingOf(all);
  if (cores.length === 0) return null;
  let best: Undoing | null = null;
  let least = Infinity;
  for (const [family, { make, tried: values }] of FAMILIES.entries()) {
    const tried = values.map((by) => {
      const one = make(by);
      const sizes = cores.map((core) => sizeOf(core, one));
      return { by, sizes, slope: Math.abs(slopeOf(sizes)) };
    });
    const { by, sizes } = tried.reduce((a, b) => (b.slope < a.slope ? b : a));
    const middle = medianOf(sizes.map(({ size }) => size));
    const scatter = medianOf(sizes.map(({ size }) => Math.abs(size - middle)));
    if (!(scatter < least)) continue;
    [least, best] = [scatter, { family, by }];
  }
  return best;
}

/** How many times as strong a layer's noise is as the finest has it for white noise, where it lies in the middle of all values. */
function lumpsOf(curves: readonly NoiseCurve[]): number[] {
  const [finest] = curves;
  const lumps = curves.map((curve) => {
    const by = finest.sigmas
      .map((sigma, i) => {
        const value = finest.from + ((finest.to - finest.from) * i) / (finest.sigmas.length - 1);
        return sigma > 0 ? sigmaAt(curve, value) / sigma : 1;
      })
      .sort((a, b) => a - b);
    const middle = by[by.length >> 1];
    return middle > WHITE ? middle : 1;
  });
  // What a nebula adds grows from layer to layer.
  return lumps.map((one) => Math.min(one, GROWS * (lumps[1] ?? 1)));
}

/**
 * The noise of a layer where it is not just that of the finest. The finest tells where the others say nothing: those of a low picture
 * or of one that misses many samples have few squares, or none.
 */
function strongerThan({ from, to, sigmas }: NoiseCurve, layer: NoiseCurve): NoiseCurve {
  return {
    ...{ from, to },
    sigmas: sigmas.map((white, i) => {
      const sigma = sigmaAt(layer, from + ((to - from) * i) / (sigmas.length - 1));
      return sigma > WHITE * white ? sigma : white;
    })
  };
}

/** Stars by which a stretch is told are peaks over so many σ; so many of the brightest that are not burnt out. */
const [RISES, MOST_STARS] = [20, 120];

/** Stars of a part, each in the middle of a square. */
function coresIn(plane: Float32Array, width: number, height: number): Core[] {
  const found: Core[] = [];
  const side = 2 * STAR_REACH + 1;
  for (const peak of starPeaks(plane, width, height, RISES, width * height)) {
    const [x, y] = [Math.floor(peak.x) - STAR_REACH, Math.floor(peak.y) - STAR_REACH];
    if (x < 0 || y < 0 || x + side > width || y + side > height) continue;
    const square = new Float32Array(side * side);
    for (let j = 0; j < side; j++)
      square.set(plane.subarray((y + j) * width + x, (y + j) * width + x + side), j * side);
    const core = starPlace(square, side) && coreOf(square, side);
    if (core) found.push(core);
    if (found.length === MOST_STARS) break;
  }
  return found;
}

/** What a band of the picture tells of its light. */
export interface LightPart {
  /** Of each layer: value and scatter of its squares one after another, as that goes to others fast. */
  readonly squares: readonly Float64Array[];
  readonly cores: readonly Core[];
}

/** @param rect a band of layers, at full size */
export function lightOfBand(rect: Rect, region: (rect: Rect) => Seen): LightPart {
  const grey = greyOf(region(rect));
  const cores = coresIn(grey, rect.width, rect.height);
  const squares = squaresOfBand(grey, rect, LAYERS).map((some) =>
    Float64Array.from(some.flatMap(({ value, scatter }) => [value, scatter]))
  );
  return { squares, cores };
}

/** The light of a picture by its bands, in their order: plain data. */
export interface KnownLight extends Omit<StarLight, 'read'> {
  readonly undoing: Undoing | null;
}

export function lightOfBands(parts: readonly LightPart[]): KnownLight {
  const cores = parts.flatMap((part) => part.cores);
  const squares = Array.from({ length: LAYERS }, (_, layer) =>
    parts.flatMap(({ squares: packed }) =>
      Array.from({ length: packed[layer].length / 2 }, (__, i): Square => ({
        value: packed[layer][2 * i],
        scatter: packed[layer][2 * i + 1]
      }))
    )
  );
  const undoing = looksStretched(squares[0]) || starsLookStretched(cores) ? unstretchedBy(cores) : null;
  const undone = undoing && undoes(undoing);
  const seen = undone ? squares.map((some) => some.map((one) => through(undone, one))) : squares;
  const curves = seen.map(curveOf);
  const lumps = lumpsOf(curves);
  const [noise] = curves;
  // White noise in all of its layers; of what is lumpy, samples scatter by more than the finest tells.
  const [all, white] = [
    lumps.reduce((sum, by, layer) => sum + (by * layerResponse(layer)) ** 2, 0),
    lumps.reduce((sum, _, layer) => sum + layerResponse(layer) ** 2, 0)
  ];
  const spiked = lumps[1] > SHARPENED ? SPIKED : 1;
  const by = spiked * Math.sqrt(all / white);
  return {
    undoing,
    noise: scaledCurve(noise, by),
    layers: curves.map((curve) => scaledCurve(strongerThan(noise, curve), spiked))
  };
}

/** @param region reads a part of the picture at full size */
export function starLight({ undoing, ...light }: KnownLight, region: (rect: Rect) => Seen): StarLight {
  const undone = undoing && undoes(undoing);
  return {
    ...light,
    read(rect) {
      const grey = greyOf(region(rect));
      return undone ? grey.map((v) => (v === v ? undone.of(within(v)) : v)) : grey;
    }
  };
}
