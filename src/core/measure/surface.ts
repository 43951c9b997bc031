/** Smooth surfaces over a picture, fitted to values at places. Places are in parts of half its longer side from its middle. */

export interface Sample {
  readonly u: number;
  readonly v: number;
  readonly value: number;
}

/** A surface as plain data. */
export type Surface =
  | { readonly kind: 'polynomial'; readonly degree: number; readonly terms: readonly number[] }
  | {
      readonly kind: 'spline';
      readonly columns: number;
      readonly rows: number;
      readonly spacing: number;
      /** Where the first node stands. */
      readonly left: number;
      readonly top: number;
      readonly nodes: readonly number[];
    };

const knownPowers = new Map<number, readonly (readonly [number, number])[]>();

/** Powers of u and v up to a degree, in the order of `terms`. */
function powersOf(degree: number): readonly (readonly [number, number])[] {
  const known = knownPowers.get(degree);
  if (known) return known;
  const powers = Array.from({ length: degree + 1 }, (_, total) =>
    Array.from({ length: total + 1 }, (_, v) => [total - v, v] as const)
  ).flat();
  knownPowers.set(degree, powers);
  return powers;
}

/** Each power's part at a place, into `out`. */
function termsAt(degree: number, u: number, v: number, out: Float64Array): void {
  // In the order of `powersOf`: all of one total before those of the next.
  for (let total = 0, i = 0; total <= degree; total++)
    for (let q = 0; q <= total; q++, i++) out[i] = u ** (total - q) * v ** q;
}

/** Solves A·x = b for a symmetric positive matrix (Cholesky); what can't be told of it is 0. */
function solved(a: Float64Array, b: Float64Array): Float64Array {
  const n = b.length;
  const l = a.slice();
  for (let j = 0; j < n; j++) {
    for (let i = j; i < n; i++) {
      let sum = l[i * n + j];
      for (let k = 0; k < j; k++) sum -= l[i * n + k] * l[j * n + k];
      if (i === j) l[j * n + j] = sum > 1e-12 ? Math.sqrt(sum) : 0;
      else l[i * n + j] = l[j * n + j] > 0 ? sum / l[j * n + j] : 0;
    }
  }
  const x = b.slice();
  for (let i = 0; i < n; i++) {
    for (let k = 0; k < i; k++) x[i] -= l[i * n + k] * x[k];
    x[i] = l[i * n + i] > 0 ? x[i] / l[i * n + i] : 0;
  }
  for (let i = n - 1; i >= 0; i--) {
    for (let k = i + 1; k < n; k++) x[i] -= l[k * n + i] * x[k];
    x[i] = l[i * n + i] > 0 ? x[i] / l[i * n + i] : 0;
  }
  return x;
}

/** The polynomial of least squares; of a lower degree where there are too few samples for it. */
export function fitPolynomial(samples: readonly Sample[], wanted: number): Surface {
  let degree = wanted;
  while (degree > 0 && powersOf(degree).length > samples.length) degree--;
  const powers = powersOf(degree);
  const n = powers.length;
  const a = new Float64Array(n * n);
  const b = new Float64Array(n);
  const terms = new Float64Array(n);
  for (const { u, v, value } of samples) {
    termsAt(degree, u, v, terms);
    for (let i = 0; i < n; i++) {
      b[i] += terms[i] * value;
      for (let j = 0; j < n; j++) a[i * n + j] += terms[i] * terms[j];
    }
  }
  return { kind: 'polynomial', degree, terms: Array.from(solved(a, b)) };
}

/** Weights of the four nodes about a place of a uniform cubic B-spline. */
const splineWeights = (t: number): [number, number, number, number] => [
  (1 - t) ** 3 / 6,
  (3 * t ** 3 - 6 * t * t + 4) / 6,
  (-3 * t ** 3 + 3 * t * t + 3 * t + 1) / 6,
  t ** 3 / 6
];

const ROUNDS = 120;
/** Up to so many nodes are solved at once, more by conjugate gradients. */
const MOST_AT_ONCE = 350;

/**
 * A polynomial of degree 2 and a cubic B-spline surface on it whose second differences are held down (P-splines, Eilers & Marx 1996).
 * @param spacing of its nodes, as places are told
 * @param penalty on second differences, against one sample
 */
export function fitSpline(
  samples: readonly Sample[],
  {
    halfWidth,
    halfHeight,
    spacing,
    penalty
  }: { halfWidth: number; halfHeight: number; spacing: number; penalty: number }
): Surface {
  const columns = Math.ceil((2 * halfWidth) / spacing) + 3;
  const rows = Math.ceil((2 * halfHeight) / spacing) + 3;
  const [left, top] = [-halfWidth - spacing, -halfHeight - spacing];
  const places = samples.map(({ u, v }) => {
    const [x, y] = [(u - left) / spacing - 1, (v - top) / spacing - 1];
    const [i, j] = [
      Math.min(columns - 4, Math.max(0, Math.floor(x))),
      Math.min(rows - 4, Math.max(0, Math.floor(y)))
    ];
    const [wx, wy] = [splineWeights(x - i), splineWeights(y - j)];
    return { at: j * columns + i, weights: wy.flatMap((b) => wx.map((a) => a * b)) };
  });
  const count = columns * rows;
  const offsets = Array.from({ length: 16 }, (_, k) => Math.floor(k / 4) * columns + (k % 4));
  const normal = (x: Float64Array): Float64Array => {
    const out = new Float64Array(count);
    for (const { at, weights } of places) {
      let sum = 0;
      for (let k = 0; k < 16; k++) sum += weights[k] * x[at + offsets[k]];
      for (let k = 0; k < 16; k++) out[at + offsets[k]] += weights[k] * sum;
    }
    const held = (a: number, b: number, c: number): void => {
      const bend = penalty * (x[a] - 2 * x[b] + x[c]);
      out[a] += bend;
      out[b] -= 2 * bend;
      out[c] += bend;
    };
    for (let j = 0; j < rows; j++)
      for (let i = 0; i < columns; i++) {
        const at = j * columns + i;
        if (i > 0 && i < columns - 1) held(at - 1, at, at + 1);
        if (j > 0 && j < rows - 1) held(at - columns, at, at + columns);
      }
    return out;
  };
  // The penalty is on how it bends away from a polynomial of degree 2, which a spline can be exactly: its nodes are those values less
  // a sixth of spacing² times the second derivatives.
  const plain = fitPolynomial(samples, 2);
  const bend = plain.kind === 'polynomial' ? 2 * ((plain.terms[3] ?? 0) + (plain.terms[5] ?? 0)) : 0;
  const nodes = Float64Array.from(
    { length: count },
    (_, k) =>
      surfaceAt(plain, left + (k % columns) * spacing, top + Math.floor(k / columns) * spacing) -
      (spacing * spacing * bend) / 6
  );
  const rest = new Float64Array(count);
  places.forEach(({ at, weights }, s) => {
    let value = samples[s].value;
    for (let k = 0; k < 16; k++) value -= weights[k] * nodes[at + offsets[k]];
    for (let k = 0; k < 16; k++) rest[at + offsets[k]] += weights[k] * value;
  });
  if (count <= MOST_AT_ONCE) {
    const matrix = new Float64Array(count * count);
    for (let k = 0; k < count; k++) {
      const unit = new Float64Array(count);
      unit[k] = 1;
      matrix.set(normal(unit), k * count);
    }
    solved(matrix, rest).forEach((v, k) => (nodes[k] += v));
    return { kind: 'spline', columns, rows, spacing, left, top, nodes: Array.from(nodes) };
  }
  const way = rest.slice();
  const dot = (a: Float64Array, b: Float64Array): number => {
    let sum = 0;
    for (let i = 0; i < count; i++) sum += a[i] * b[i];
    return sum;
  };
  let length = dot(rest, rest);
  const enough = 1e-10 * length;
  for (let round = 0; round < ROUNDS && length > enough; round++) {
    const bent = normal(way);
    const step = length / dot(way, bent);
    for (let i = 0; i < count; i++) {
      nodes[i] += step * way[i];
      rest[i] -= step * bent[i];
    }
    const next = dot(rest, rest);
    for (let i = 0; i < count; i++) way[i] = rest[i] + (next / length) * way[i];
    length = next;
  }
  return { kind: 'spline', columns, rows, spacing, left, top, nodes: Array.from(nodes) };
}

/** Fills a row of places with the surface, at one v. */
export type SurfaceRows = (v: number, out: Float32Array) => void;

/** The surface along rows of places: from u on, `n` of them so far apart. What all rows have alike is reckoned once. */
export function surfaceRows(surface: Surface, u: number, step: number, n: number): SurfaceRows {
  if (surface.kind === 'polynomial') {
    const powers = powersOf(surface.degree);
    return (v, out) => {
      // A polynomial in u alone, for this v.
      const along = new Float64Array(surface.degree + 1);
      powers.forEach(([p, q], i) => (along[p] += surface.terms[i] * v ** q));
      for (let i = 0; i < n; i++) {
        const x = u + i * step;
        let sum = 0;
        for (let p = surface.degree; p >= 0; p--) sum = sum * x + along[p];
        out[i] = sum;
      }
    };
  }
  const { columns, rows, spacing, left, top, nodes } = surface;
  const places = new Int32Array(n);
  const weights = new Float64Array(4 * n);
  for (let i = 0; i < n; i++) {
    const x = (u + i * step - left) / spacing - 1;
    places[i] = Math.min(columns - 4, Math.max(0, Math.floor(x)));
    weights.set(splineWeights(x - places[i]), 4 * i);
  }
  return (v, out) => {
    const y = (v - top) / spacing - 1;
    const j = Math.min(rows - 4, Math.max(0, Math.floor(y)));
    const wy = splineWeights(y - j);
    const row = Float64Array.from({ length: columns }, (_, c) =>
      wy.reduce((sum, w, k) => sum + w * nodes[(j + k) * columns + c], 0)
    );
    for (let i = 0, k = 0; i < n; i++, k += 4) {
      const at = places[i];
      out[i] =
        weights[k] * row[at] +
        weights[k + 1] * row[at + 1] +
        weights[k + 2] * row[at + 2] +
        weights[k + 3] * row[at + 3];
    }
  };
}

const one = new Float32Array(1);
const parts = new Float64Array(64);

/** The surface at one place. */
export function surfaceAt(surface: Surface, u: number, v: number): number {
  if (surface.kind === 'polynomial' && surface.terms.length <= parts.length) {
    termsAt(surface.degree, u, v, parts);
    let sum = 0;
    for (let i = 0; i < surface.terms.length; i++) sum += surface.terms[i] * parts[i];
    return sum;
  }
  surfaceRows(surface, u, 0, 1)(v, one);
  return one[0];
}
