import { fitPolynomial, fitSpline, surfaceAt, surfaceRows, type Sample, type Surface } from './surface';
import { MAD_TO_SIGMA, skyOf } from './sky';

/** How the sky under a picture is modelled. */
export interface SkyHow {
  readonly model: 'polynomial' | 'smooth';
  readonly degree: number;
  /** The smallest thing that the smooth model follows, in thousandths of the longer side. */
  readonly size: number;
  readonly stiffness: number;
  /** Objects that rise so many σ over the model are left out, with so many pixels about them, found so many times. */
  readonly spare: { readonly above: number; readonly grow: number; readonly rounds: number } | null;
  /** Places in full-size pixels whose box counts whatever it holds, and such whose box does not. */
  readonly added: readonly (readonly [number, number])[];
  readonly removed: readonly (readonly [number, number])[];
}

/** A square of sky that was looked at. */
export interface SkyBox {
  /** Its middle and its side, in full-size pixels. */
  readonly x: number;
  readonly y: number;
  readonly size: number;
  readonly used: boolean;
}

export interface SkyModel {
  readonly surface: Surface;
  /** Of the model over the whole picture. */
  readonly mean: number;
  readonly boxes: readonly SkyBox[];
  /** The part of the picture that was spared. */
  readonly spared: number;
  /** Which of the samples that were looked at were: 1 where one was; null where none was to be. */
  readonly spares: { readonly width: number; readonly height: number; readonly marks: Uint8Array } | null;
}

/** A plane at some level, and how many full-size pixels one of its samples stands for. */
export interface Plane {
  readonly samples: Float32Array;
  readonly width: number;
  readonly height: number;
  readonly scale: number;
}

/** Boxes along the longer side. */
const BOXES = 48;
const SMALLEST_BOX = 6;
/** A box counts where so much of it is there and not spared. */
const LEAST_THERE = 0.25;
/** Of a surface that is found at once, and of one that takes its time. */
const [MOST_ROUNDS, FEW_ROUNDS] = [40, 8];
/** The degree of a surface that follows no object. */
const STIFF = 2;
/** Objects only add light: what is above the model goes out sooner than what is below. */
const [ABOVE, BELOW] = [1.5, 4];

/** u and v of a place in samples. */
const toPlace = ({ width, height }: Plane): ((x: number, y: number) => { u: number; v: number }) => {
  const half = Math.max(width, height) / 2;
  return (x, y) => ({ u: (x - width / 2) / half, v: (y - height / 2) / half });
};

interface Box extends Sample {
  readonly x: number;
  readonly y: number;
  readonly always: boolean;
}

function boxesOf(plane: Plane, side: number, spared: Uint8Array | null, how: SkyHow): Box[] {
  const { samples, width, height, scale } = plane;
  const place = toPlace(plane);
  const near =
    (x: number, y: number, within: number) =>
    ([px, py]: readonly [number, number]): boolean =>
      Math.abs(px / scale - x) <= within && Math.abs(py / scale - y) <= within;
  const level = (left: number, top: number, always: boolean): number | null => {
    const found = new Float32Array(side * side);
    let n = 0;
    for (let y = Math.max(0, top); y < Math.min(height, top + side); y++)
      for (let x = Math.max(0, left); x < Math.min(width, left + side); x++) {
        const i = y * width + x;
        if (samples[i] === samples[i] && (always || !spared?.[i])) found[n++] = samples[i];
      }
    return n >= (always ? 1 : LEAST_THERE * side * side) ? skyOf(found, n).level : null;
  };
  const boxes: Box[] = [];
  const [across, down] = [Math.max(1, Math.floor(width / side)), Math.max(1, Math.floor(height / side))];
  for (let j = 0; j < down; j++) {
    for (let i = 0; i < across; i++) {
      const [left, top] = [
        across > 1 ? Math.round((i * (width - side)) / (across - 1)) : 0,
        down > 1 ? Math.round((j * (height - side)) / (down - 1)) : 0
      ];
      const [x, y] = [left + side / 2, top + side / 2];
      if (how.removed.some(near(x, y, side / 2))) continue;
      const value = level(left, top, false);
      if (value !== null) boxes.push({ ...place(x, y), x, y, value, always: false });
    }
  }
  for (const [px, py] of how.added) {
    const [x, y] = [px / scale, py / scale];
    const value = level(Math.round(x - side / 2), Math.round(y - side / 2), true);
    if (value !== null) boxes.push({ ...place(x, y), x, y, value, always: true });
  }
  return boxes;
}

interface Fitted {
  readonly surface: Surface;
  readonly used: readonly boolean[];
}

/** Work that can be left at every step; it says nothing of how far it is. */
type Stepwise<T> = Generator<void, T, void>;

/**
 * Fits a surface to boxes, again and again without those that hold more than sky, until it settles.
 * @param begun the boxes that it begins with, of those that always count
 */
function* settledFit(
  boxes: readonly Box[],
  fit: (samples: readonly Sample[]) => Surface,
  begun: readonly boolean[] = boxes.map(() => true),
  rounds = MOST_ROUNDS
): Stepwise<Fitted> {
  let used = begun;
  let surface = fit(boxes.filter((_, i) => used[i]));
  for (let round = 0; round < rounds; round++) {
    yield;
    const rests = boxes.map(({ u, v, value }) => value - surfaceAt(surface, u, v));
    const below = rests
      .filter((r, i) => used[i] && r < 0)
      .map((r) => -r)
      .sort((a, b) => a - b);
    const sigma = below.length > 0 ? MAD_TO_SIGMA * below[below.length >> 1] : 0;
    const next = rests.map((r, i) => boxes[i].always || (r <= ABOVE * sigma && r >= -BELOW * sigma));
    if (next.every((u, i) => u === used[i]) || next.filter(Boolean).length < 6) break;
    used = next;
    surface = fit(boxes.filter((_, i) => next[i]));
  }
  return { surface, used };
}

/** Marks samples about which the mean of twenty-five rises over a surface by so many σ of one, and those about them. */
function objectsOver(plane: Plane, surface: Surface, above: number, grow: number): Uint8Array {
  const { samples, width, height } = plane;
  const rests = new Float32Array(samples.length);
  const row = new Float32Array(width);
  const { u, v } = toPlace(plane)(0.5, 0.5);
  const step = 2 / Math.max(width, height);
  const fill = surfaceRows(surface, u, step, width);
  for (let y = 0; y < height; y++) {
    fill(v + y * step, row);
    for (let x = 0; x < width; x++) rests[y * width + x] = samples[y * width + x] - row[x];
  }
  const smooth = boxMean(rests, width, height, 2);
  const { level, sigma } = skyOf(rests);
  const out = new Uint8Array(samples.length);
  for (let i = 0; i < out.length; i++) out[i] = smooth[i] - level > above * sigma ? 1 : 0;
  return grown(out, width, height, Math.round(grow / plane.scale));
}

/** Means over squares of 2·r + 1; missing samples left out. */
function boxMean(plane: Float32Array, width: number, height: number, r: number): Float32Array {
  const along = (
    from: Float32Array,
    stride: number,
    length: number,
    lines: number,
    next: number
  ): Float32Array => {
    const out = new Float32Array(from.length);
    for (let line = 0; line < lines; line++) {
      const begin = line * next;
      for (let i = 0; i < length; i++) {
        let [sum, count] = [0, 0];
        for (let k = Math.max(0, i - r); k <= Math.min(length - 1, i + r); k++) {
          const v = from[begin + k * stride];
          if (v !== v) continue;
          sum += v;
          count++;
        }
        out[begin + i * stride] = count > 0 ? sum / count : Number.NaN;
      }
    }
    return out;
  };
  return along(along(plane, 1, width, height, width), width, height, width, 1);
}

/** A mask grown by a square of 2·r + 1, by how far the last mark lies behind. */
function grown(mask: Uint8Array, width: number, height: number, r: number): Uint8Array {
  if (r <= 0) return mask;
  const along = (
    from: Uint8Array,
    stride: number,
    length: number,
    lines: number,
    next: number
  ): Uint8Array => {
    const out = new Uint8Array(from.length);
    for (let line = 0; line < lines; line++) {
      const begin = line * next;
      for (const [first, way] of [
        [0, 1],
        [length - 1, -1]
      ]) {
        let since = Infinity;
        for (let k = 0, i = first; k < length; k++, i += way) {
          since = from[begin + i * stride] ? 0 : since + 1;
          if (since <= r) out[begin + i * stride] = 1;
        }
      }
    }
    return out;
  };
  return along(along(mask, 1, width, height, width), width, height, width, 1);
}

/** The model of the sky under a plane, found bit by bit. */
export function* skyModel(plane: Plane, how: SkyHow): Stepwise<SkyModel> {
  const { width, height, scale } = plane;
  const longer = Math.max(width, height);
  const spacing = Math.max(0.01, (2 * how.size) / 1000);
  const usual = Math.round(longer / BOXES);
  const side = Math.min(
    Math.min(width, height),
    Math.max(
      SMALLEST_BOX,
      how.model === 'smooth' ? Math.min(usual, Math.round((spacing * longer) / 4)) : usual
    )
  );
  const fit = (samples: readonly Sample[]): Surface =>
    how.model === 'polynomial'
      ? fitPolynomial(samples, how.degree)
      : fitSpline(samples, {
          ...{ halfWidth: width / longer, halfHeight: height / longer, spacing },
          penalty: samples.length * spacing ** 2 * 10 ** (5 * how.stiffness - 5)
        });
  // A surface that bends more would begin by following the objects: it begins with the boxes that a stiff one takes for sky.
  function* fitted(of: readonly Box[]): Stepwise<Fitted> {
    if (how.model === 'polynomial' && how.degree <= STIFF) return yield* settledFit(of, fit);
    const { used } = yield* settledFit(of, (samples) => fitPolynomial(samples, STIFF));
    return yield* settledFit(of, fit, used, how.model === 'smooth' ? FEW_ROUNDS : MOST_ROUNDS);
  }
  let spared: Uint8Array | null = null;
  let boxes = boxesOf(plane, side, spared, how);
  let found = yield* fitted(boxes);
  for (let round = 0; how.spare && round < how.spare.rounds; round++) {
    spared = objectsOver(plane, found.surface, how.spare.above, how.spare.grow);
    yield;
    const next = boxesOf(plane, side, spared, how);
    // Where everything is spared, the last model stays.
    if (next.length < 6) break;
    boxes = next;
    found = yield* fitted(boxes);
  }
  const row = new Float32Array(width);
  const { u, v } = toPlace(plane)(0.5, 0.5);
  const step = 2 / longer;
  const fill = surfaceRows(found.surface, u, step, width);
  let sum = 0;
  for (let y = 0; y < height; y++) {
    fill(v + y * step, row);
    for (const value of row) sum += value;
  }
  return {
    surface: found.surface,
    mean: sum / (width * height),
    boxes: boxes.map(({ x, y }, i) => ({
      x: x * scale,
      y: y * scale,
      size: side * scale,
      used: found.used[i]
    })),
    spared: spared ? spared.reduce((n, s) => n + s, 0) / spared.length : 0,
    spares: spared && { width, height, marks: spared }
  };
}
