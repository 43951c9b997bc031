import { eitherWay, inRoom, simd, takePlane } from '../kernels/arena';
import { scaledCurve, sigmaAt, type NoiseCurve } from '../measure/noise-curve';
import { grow, type Rect } from '../raster/raster';
import { BLOCK, curveTable, shrinkBlocks, STEP } from './shrink-blocks';

export interface DenoiseHow {
  /** The noise of the plane, by its own value. */
  readonly noise: NoiseCurve;
  /** Coefficients under so many σ hold nothing. */
  readonly threshold: number;
  /** How often it is halved: each time noise twice as coarse is taken out. */
  readonly scales: number;
  /** Blocks begin at every row of a level, or at every second: that leaves more noise, in half of the time. */
  readonly rows: 1 | 2;
}

/** A plane over a rectangle of its level. */
interface Part extends Rect {
  readonly plane: Float32Array;
}

/** What a coarser scale says otherwise counts up to so many σ, and for less the more it is beyond: there it is structure. */
const BELIEVED = 0.25;

/** How many samples around one a size by itself depends on: two rounds of blocks, and what is read of it by its halves. */
const OWN_REACH = 2 * (BLOCK - 1) + 3;

/** The same of all sizes. */
export const denoiseReach = (scales: number): number => OWN_REACH * (2 ** scales - 1);

const mod = (v: number, by: number): number => ((v % by) + by) % by;
/** The place in a row of so many samples that stands for one beyond its ends: as in a mirror at its edge. */
const mirrored = (i: number, count: number): number => {
  const k = mod(i, 2 * count);
  return k < count ? k : 2 * count - 1 - k;
};

/** A plane with a margin of mirrored samples, so that every sample lies in as many blocks; begins at an even step of its level. */
function withMargin({ x, y, width, height, plane }: Part, rows: number): Part {
  const [left, top] = [BLOCK + mod(x, STEP), BLOCK + mod(y, STEP * rows)];
  const [w, h] = [left + width + BLOCK + STEP, top + height + BLOCK + STEP * rows];
  const out = takePlane(w * h);
  for (let v = 0; v < h; v++) {
    const from = mirrored(v - top, height) * width;
    const to = v * w;
    for (let u = 0; u < left; u++) out[to + u] = plane[from + mirrored(u - left, width)];
    out.set(plane.subarray(from, from + width), to + left);
    for (let u = left + width; u < w; u++) out[to + u] = plane[from + mirrored(u - left, width)];
  }
  return { x: x - left, y: y - top, width: w, height: h, plane: out };
}

/** One round over all blocks, written into `out`. */
function round(
  part: Part,
  pilot: Part | null,
  out: Float32Array,
  { noise, threshold, rows }: DenoiseHow
): void {
  inRoom(() => {
    const wide = withMargin(part, rows);
    const n = wide.width * wide.height;
    const guide = pilot && withMargin(pilot, rows).plane;
    const [sum, weights] = [takePlane(n), takePlane(n)];
    sum.fill(0, 0, n);
    weights.fill(0, 0, n);
    shrinkBlocks(wide.plane, guide, sum, weights, wide, noise, threshold, rows);
    const first = (part.y - wide.y) * wide.width + part.x - wide.x;
    const { width, height } = part;
    eitherWay(
      [sum, weights, out],
      (s, w, to) => simd.quotientRows(s + 4 * first, w + 4 * first, to, width, height, wide.width),
      () => {
        for (let v = 0; v < height; v++)
          for (let u = 0, i = first + v * wide.width; u < width; u++, i++)
            out[v * width + u] = sum[i] / weights[i];
      }
    );
  });
}

const clamped = (v: number, most: number): number => (v < 0 ? 0 : v > most ? most : v);

/** The next coarser level: means of two by two, counted from the picture's corner. */
function halved({ x, y, width, height, plane }: Part): Part {
  const [left, top] = [Math.floor(x / 2), Math.floor(y / 2)];
  const [w, h] = [Math.floor((x + width - 1) / 2) - left + 1, Math.floor((y + height - 1) / 2) - top + 1];
  const out = takePlane(w * h);
  const plainly = (): void => {
    for (let v = 0; v < h; v++) {
      const a = clamped(2 * (top + v) - y, height - 1) * width;
      const b = clamped(2 * (top + v) + 1 - y, height - 1) * width;
      for (let u = 0; u < w; u++) {
        const i = clamped(2 * (left + u) - x, width - 1);
        const k = clamped(2 * (left + u) + 1 - x, width - 1);
        out[v * w + u] = 0.25 * (plane[a + i] + plane[a + k] + plane[b + i] + plane[b + k]);
      }
    }
  };
  eitherWay([plane, out], (from, to) => simd.halveBlocks(from, x, y, width, height, to, w, h), plainly);
  return { x: left, y: top, width: w, height: h, plane: out };
}

/** Adds a coarser level to a plane, straight between its samples: the nearer of two counts three quarters. */
function addExpanded({ x, y, width, height, plane }: Part, coarse: Part): void {
  const nearer = (v: number, from: number, most: number): number => clamped((v >> 1) - from, most);
  const further = (v: number, from: number, most: number): number =>
    clamped((v >> 1) + (v & 1 ? 1 : -1) - from, most);
  const plainly = (): void => {
    for (let v = 0; v < height; v++) {
      const a = nearer(y + v, coarse.y, coarse.height - 1) * coarse.width;
      const b = further(y + v, coarse.y, coarse.height - 1) * coarse.width;
      for (let u = 0; u < width; u++) {
        const i = nearer(x + u, coarse.x, coarse.width - 1);
        const k = further(x + u, coarse.x, coarse.width - 1);
        plane[v * width + u] +=
          0.75 * (0.75 * coarse.plane[a + i] + 0.25 * coarse.plane[a + k]) +
          0.25 * (0.75 * coarse.plane[b + i] + 0.25 * coarse.plane[b + k]);
      }
    }
  };
  eitherWay(
    [plane, coarse.plane],
    (to, from) =>
      simd.addDoubled(to, x, y, width, height, from, coarse.x, coarse.y, coarse.width, coarse.height),
    plainly
  );
}

/** Of what `coarse` says otherwise than `made`, what is to be believed; written into `coarse`. */
function believed(coarse: Float32Array, made: Float32Array, n: number, noise: NoiseCurve): void {
  eitherWay(
    [coarse, made],
    (to, from) => simd.believedPart(to, from, n, BELIEVED, curveTable(noise)),
    () => {
      for (let i = 0; i < n; i++) {
        const by = coarse[i] - made[i];
        const most = BELIEVED * sigmaAt(noise, made[i]);
        const size = Math.max(0, Math.min(Math.abs(by), 2 * most - Math.abs(by)));
        coarse[i] = by < 0 ? -size : size;
      }
    }
  );
}

/** A part of a part, by its place in it. */
function cut({ x, y, width, plane }: Part, rect: Rect): Part {
  const out = takePlane(rect.width * rect.height);
  for (let v = 0; v < rect.height; v++) {
    const from = (rect.y + v) * width + rect.x;
    out.set(plane.subarray(from, from + rect.width), v * rect.width);
  }
  return { x: x + rect.x, y: y + rect.y, width: rect.width, height: rect.height, plane: out };
}

/** The places of a coarser part that `addExpanded` looks at for those of a finer one. */
function underneath({ x, y }: Rect, needed: Rect, coarse: Rect): Rect {
  const along = (from: number, size: number, coarseFrom: number, most: number): [number, number] => {
    const first = Math.max(0, Math.floor(from / 2) - 1 - coarseFrom);
    const last = Math.min(most - 1, Math.floor((from + size - 1) / 2) + 1 - coarseFrom);
    return [first, last - first + 1];
  };
  const [left, width] = along(x + needed.x, needed.width, coarse.x, coarse.width);
  const [top, height] = along(y + needed.y, needed.height, coarse.y, coarse.height);
  return { x: left, y: top, width, height };
}

/**
 * Takes noise out of a plane: two rounds of shrunk blocks, the second led by the first, at its own size and at halves of it, each of which
 * says what is coarser than a block (Pierazzo, Lebrun, Rais, Morel & Facciolo 2017, multi-scale DCT). Each size is computed only as far
 * around what is asked for as it is needed there.
 * @param goOn called between rounds; what it throws ends it
 * @param needed what is asked for, by its place in the part: `out` is left as it is elsewhere, or filled with whatever comes
 */
export function denoisePlane(
  part: Part,
  out: Float32Array,
  how: DenoiseHow,
  goOn: () => void,
  needed: Rect = { x: 0, y: 0, width: part.width, height: part.height }
): void {
  const near = grow(needed, OWN_REACH, part.width, part.height);
  const all = near.width === part.width && near.height === part.height;
  inRoom(() => {
    const own = all ? part : cut(part, near);
    const made = { ...own, plane: all ? out : takePlane(own.width * own.height) };
    inRoom(() => {
      const pilot = takePlane(own.width * own.height);
      goOn();
      round(own, null, pilot, how);
      goOn();
      round(own, { ...own, plane: pilot }, made.plane, how);
    });
    if (how.scales > 1 && part.width * part.height > 1)
      inRoom(() => {
        const came = halved(part);
        const fine = halved(made);
        const coarse = { ...came, plane: takePlane(came.width * came.height) };
        const noise = scaledCurve(how.noise, 0.5);
        denoisePlane(
          came,
          coarse.plane,
          { ...how, noise, scales: how.scales - 1 },
          goOn,
          underneath(part, needed, came)
        );
        const under = all ? coarse : cut(coarse, { ...fine, x: fine.x - came.x, y: fine.y - came.y });
        believed(under.plane, fine.plane, fine.width * fine.height, how.noise);
        addExpanded(made, under);
      });
    if (all) return;
    for (let v = needed.y; v < needed.y + needed.height; v++) {
      const from = (v - near.y) * own.width + needed.x - near.x;
      out.set(made.plane.subarray(from, from + needed.width), v * part.width + needed.x);
    }
  });
}
