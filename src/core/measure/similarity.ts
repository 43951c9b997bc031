/** How one set of places lies on another: matched triangles (Groth 1986), then least squares over all that agree. */
import type { Point } from '../raster/geometry';

/** (x, y) goes to (a·x − b·y + x0, b·x + a·y + y0): a shift, a turn and a scale. */
export interface Similarity {
  readonly a: number;
  readonly b: number;
  readonly x0: number;
  readonly y0: number;
}

export interface Agreement {
  readonly map: Similarity;
  /** How many places agree, and how far apart they lie then (root of the mean square). */
  readonly pairs: number;
  readonly rms: number;
}

export const mapped = ({ a, b, x0, y0 }: Similarity, { x, y }: Point): Point => ({
  x: a * x - b * y + x0,
  y: b * x + a * y + y0
});

/** The similarity of least squares between pairs of places (Umeyama 1991, in the plane). */
function fitSimilarity(from: readonly Point[], to: readonly Point[]): Similarity {
  const n = from.length;
  const mean = (points: readonly Point[]): Point => ({
    x: points.reduce((sum, p) => sum + p.x, 0) / n,
    y: points.reduce((sum, p) => sum + p.y, 0) / n
  });
  const [p, q] = [mean(from), mean(to)];
  let [along, across, size] = [0, 0, 0];
  from.forEach((f, i) => {
    const [fx, fy, tx, ty] = [f.x - p.x, f.y - p.y, to[i].x - q.x, to[i].y - q.y];
    along += fx * tx + fy * ty;
    across += fx * ty - fy * tx;
    size += fx * fx + fy * fy;
  });
  const [a, b] = [along / size, across / size];
  return { a, b, x0: q.x - (a * p.x - b * p.y), y0: q.y - (b * p.x + a * p.y) };
}

/** Of so many of the brightest places triangles are made. */
const CORNERS = 24;
/** The sides of a triangle that says something, in pixels; its two shorter ones to its longest. */
const [SHORTEST, FLATTEST] = [12, 0.1];
/** Places agree within so many pixels. */
const NEAR = 3;
/** Those of a triangle are told better than so. */
const TOLD = 0.75;
const LARGEST_SCALE = 2;
const MOST_TRIED = 40_000;
/** So much of the smaller set has to agree, and so many places. */
const [LEAST_PART, LEAST] = [0.2, 6];
/** Enough to try no further. */
const PLENTY = 0.6;
const ROUNDS = 12;
const CLIPPED_AT = 3;
/** What lies as near as this is not told apart. */
const FINEST = 0.25;

interface Triangle {
  /** From the corner between the longest side and the shortest. */
  readonly corners: readonly [Point, Point, Point];
  readonly longest: number;
  readonly middle: number;
  readonly shortest: number;
}

function trianglesOf(points: readonly Point[]): Triangle[] {
  const found: Triangle[] = [];
  const n = Math.min(CORNERS, points.length);
  for (let i = 0; i < n; i++)
    for (let j = i + 1; j < n; j++)
      for (let k = j + 1; k < n; k++) {
        const three = [points[i], points[j], points[k]];
        // Each side with the corner that lies across from it.
        const sides = three
          .map((corner, c) => {
            const [p, q] = [three[(c + 1) % 3], three[(c + 2) % 3]];
            return { corner, length: Math.hypot(p.x - q.x, p.y - q.y) };
          })
          .sort((u, v) => v.length - u.length);
        const [longest, middle, shortest] = sides.map(({ length }) => length);
        if (shortest < SHORTEST || shortest < FLATTEST * longest) continue;
        const [p, q, r] = [sides[1].corner, sides[2].corner, sides[0].corner];
        found.push({
          corners: [p, q, r],
          ...{ longest, middle: middle / longest, shortest: shortest / longest }
        });
      }
  return found;
}

/** Which way round the corners of a triangle go. */
const turns = ([p, q, r]: Triangle['corners']): boolean =>
  (q.x - p.x) * (r.y - p.y) - (q.y - p.y) * (r.x - p.x) > 0;

/** Finds the nearest place within `NEAR`. */
function nearestIn(points: readonly Point[]): (p: Point) => number {
  const cells = new Map<string, number[]>();
  points.forEach(({ x, y }, i) => {
    const key = `${Math.floor(x / NEAR)} ${Math.floor(y / NEAR)}`;
    cells.set(key, [...(cells.get(key) ?? []), i]);
  });
  return ({ x, y }) => {
    let [found, least] = [-1, NEAR];
    const [cx, cy] = [Math.floor(x / NEAR), Math.floor(y / NEAR)];
    for (let j = cy - 1; j <= cy + 1; j++)
      for (let i = cx - 1; i <= cx + 1; i++)
        for (const k of cells.get(`${i} ${j}`) ?? []) {
          const far = Math.hypot(points[k].x - x, points[k].y - y);
          if (far < least) [found, least] = [k, far];
        }
    return found;
  };
}

/**
 * How `from` lies on `to`, both from the brightest on, in pixels: a similarity without a mirror, of a scale of ½ to 2.
 * @returns null where too few places agree for it to be more than chance
 */
export function agreementOf(from: readonly Point[], to: readonly Point[]): Agreement | null {
  const least = Math.max(LEAST, Math.ceil(LEAST_PART * Math.min(from.length, to.length)));
  const plenty = Math.max(LEAST, Math.ceil(PLENTY * Math.min(from.length, to.length)));
  const nearest = nearestIn(to);
  const agreeing = (map: Similarity): number =>
    from.reduce((count, p) => count + (nearest(mapped(map, p)) >= 0 ? 1 : 0), 0);
  const others = trianglesOf(to).sort((p, q) => p.middle - q.middle);
  let best: { map: Similarity; count: number } | null = null;
  let tried = 0;
  search: for (const one of trianglesOf(from)) {
    const within = (2 * TOLD) / one.longest;
    let low = 0;
    let high = others.length;
    while (low < high) {
      const half = (low + high) >> 1;
      if (others[half].middle < one.middle - within) low = half + 1;
      else high = half;
    }
    for (let i = low; i < others.length && others[i].middle <= one.middle + within; i++) {
      const other = others[i];
      const scale = other.longest / one.longest;
      if (Math.abs(other.shortest - one.shortest) > within) continue;
      if (scale > LARGEST_SCALE || scale < 1 / LARGEST_SCALE) continue;
      if (turns(one.corners) !== turns(other.corners)) continue;
      if (tried++ > MOST_TRIED) break search;
      const map = fitSimilarity(one.corners, other.corners);
      const count = agreeing(map);
      if (count > (best?.count ?? 0)) best = { map, count };
      if (count >= plenty) break search;
    }
  }
  if (!best || best.count < least) return null;
  const agreed = settled(from, to, nearest, best.map);
  return agreed.pairs >= least ? agreed : null;
}

/** Fits again and again to the places that agree, the closer the better the fit is. */
function settled(
  from: readonly Point[],
  to: readonly Point[],
  nearest: (p: Point) => number,
  begun: Similarity
): Agreement {
  let map = begun;
  let most = NEAR;
  let found: Agreement = { map, pairs: 0, rms: NEAR };
  for (let round = 0; round < ROUNDS; round++) {
    const pairs = from.flatMap((p) => {
      const at = mapped(map, p);
      const k = nearest(at);
      return k >= 0 && Math.hypot(to[k].x - at.x, to[k].y - at.y) <= most ? [{ p, q: to[k] }] : [];
    });
    if (pairs.length < 3) break;
    map = fitSimilarity(
      pairs.map(({ p }) => p),
      pairs.map(({ q }) => q)
    );
    const squares = pairs.map(({ p, q }) => {
      const at = mapped(map, p);
      return (q.x - at.x) ** 2 + (q.y - at.y) ** 2;
    });
    const middle = squares.slice().sort((a, b) => a - b)[squares.length >> 1];
    found = {
      map,
      pairs: pairs.length,
      rms: Math.sqrt(squares.reduce((a, b) => a + b, 0) / squares.length)
    };
    // The median of squares about a place is 1.386 σ² (Rayleigh).
    most = Math.min(NEAR, Math.max(FINEST, CLIPPED_AT * Math.sqrt(middle / 1.386)));
  }
  return found;
}
