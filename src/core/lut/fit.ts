import { haltonAt } from '../random';

/**
 * Nodes of a cube by least squares (conjugate gradients on the normal equations; Hestenes & Stiefel 1952): nodes that lie on a curved
 * function miss it everywhere between them, and all to one side. These lie where the cube comes nearest to what is wanted at the
 * nodes, half-way between them, at places about the greys, where hues meet in an edge that six tetrahedra have to follow, and at
 * colours that come often. The greys themselves are met exactly: their nodes stay on the function.
 */

const ROUNDS = 16;
/** What is left at a node, squared, that is nothing. */
const LEAST = 1e-16;
/** From a node to those that colours half-way lie between: along edges, and diagonals from dark to light. */
const DIRECTIONS = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
  [1, 1, 0],
  [1, 0, 1],
  [0, 1, 1],
  [1, 1, 1]
] as const;
/** Cells beside one that holds greys in which places are looked at, and how many in each. */
const BESIDE = 1;
const PLACES = 24;

/** What is wanted of a cube: a function over 0…1 in each channel, put through in place. */
export type Wanted = (planes: readonly Float32Array[]) => void;

/** Places and the corners of the tetrahedra that they lie in, with the part of each. */
interface Places {
  readonly planes: readonly Float32Array[];
  readonly corners: Int32Array;
  readonly parts: Float32Array;
}

/** Places about the diagonal of greys, 0…1, spread evenly (Halton 1960). */
function aboutGreys(size: number): Float32Array[] {
  const cells = size - 1;
  const beside = Array.from({ length: 2 * BESIDE + 1 }, (_, i) => i - BESIDE);
  const at: number[][] = [[], [], []];
  let count = 0;
  for (let cell = 0; cell < cells; cell++) {
    for (const [x, y, z] of beside.flatMap((x) => beside.flatMap((y) => beside.map((z) => [x, y, z])))) {
      const corner = [cell + x, cell + y, cell + z];
      if (corner.some((v) => v < 0 || v >= cells)) continue;
      for (let i = 0; i < PLACES; i++, count++)
        corner.forEach((v, k) => at[k].push((v + haltonAt(count + 1, [2, 3, 5][k])) / cells));
    }
  }
  return at.map((places) => Float32Array.from(places));
}

/** Finds the tetrahedra that places lie in (see `tetrahedral` in `table`). @param planes 0…1 */
function placesIn(size: number, planes: readonly Float32Array[]): Places {
  const count = planes[0].length;
  const corners = new Int32Array(4 * count);
  const parts = new Float32Array(4 * count);
  const step = [1, size, size * size];
  for (let i = 0; i < count; i++) {
    const place = planes.map((plane) => Math.min(1, Math.max(0, plane[i])) * (size - 1));
    const below = place.map((v) => Math.min(size - 2, Math.floor(v)));
    const part = place.map((v, k) => v - below[k]);
    const order = [0, 1, 2].sort((a, b) => part[b] - part[a]);
    let node = below.reduce((sum, v, k) => sum + v * step[k], 0);
    const falling = [1, ...order.map((k) => part[k]), 0];
    for (let k = 0; k < 4; k++) {
      corners[4 * i + k] = node;
      parts[4 * i + k] = falling[k] - falling[k + 1];
      if (k < 3) node += step[order[k]];
    }
  }
  return { planes, corners, parts };
}

/** All places of a lattice over 0…1, red running fastest. */
export function lattice(side: number): Float32Array[] {
  const planes = [0, 1, 2].map(() => new Float32Array(side ** 3));
  for (let z = 0, i = 0; z < side; z++)
    for (let y = 0; y < side; y++)
      for (let x = 0; x < side; x++, i++) {
        planes[0][i] = x / (side - 1);
        planes[1][i] = y / (side - 1);
        planes[2][i] = z / (side - 1);
      }
  return planes;
}

/**
 * @param size nodes along an axis
 * @param often places of colours that come often, 0…1; they count as those about the greys do
 * @returns the nodes' values, a plane a channel
 */
export function fitNodes(size: number, wanted: Wanted, often: readonly Float32Array[]): Float32Array[] {
  const fine = lattice(2 * size - 1);
  wanted(fine);
  const greys = aboutGreys(size);
  const about = placesIn(
    size,
    greys.map((plane, c) => joinedPlanes(plane, often[c]))
  );
  const values = about.planes.map((plane) => plane.slice());
  wanted(values);
  const pairs = pairsOf(size);
  return fine.map((plane, c) => fitPlane(size, pairs, plane, about, values[c]));
}

function joinedPlanes(a: Float32Array, b: Float32Array): Float32Array {
  const out = new Float32Array(a.length + b.length);
  out.set(a);
  out.set(b, a.length);
  return out;
}

/** Pairs of nodes that a colour half-way lies between: for each, their places and that of the colour on the finer lattice. */
function pairsOf(size: number): Int32Array {
  const side = 2 * size - 1;
  const found: number[] = [];
  for (const [dx, dy, dz] of DIRECTIONS) {
    const over = dx + size * (dy + size * dz);
    const half = dx + side * (dy + side * dz);
    for (let z = 0; z < size - dz; z++)
      for (let y = 0; y < size - dy; y++)
        for (let x = 0; x < size - dx; x++) {
          const node = x + size * (y + size * z);
          found.push(node, node + over, 2 * (x + side * (y + side * z)) + half);
        }
  }
  return Int32Array.from(found);
}

function fitPlane(
  size: number,
  pairs: Int32Array,
  fine: Float32Array,
  { corners, parts }: Places,
  values: Float32Array
): Float32Array {
  const side = 2 * size - 1;
  const count = size ** 3;
  const holdGreys = (v: Float64Array): void => {
    for (let i = 0; i < size; i++) v[i * (1 + size + size * size)] = 0;
  };
  /** What changes of the nodes come to, put back onto them. */
  const normal = (v: Float64Array, out: Float64Array): void => {
    out.set(v);
    for (let i = 0; i < pairs.length; i += 3) {
      const half = 0.25 * (v[pairs[i]] + v[pairs[i + 1]]);
      out[pairs[i]] += half;
      out[pairs[i + 1]] += half;
    }
    for (let i = 0; i < corners.length; i += 4) {
      let at = 0;
      for (let k = i; k < i + 4; k++) at += parts[k] * v[corners[k]];
      for (let k = i; k < i + 4; k++) out[corners[k]] += parts[k] * at;
    }
    holdGreys(out);
  };
  const nodes = new Float64Array(count);
  for (let z = 0, node = 0; z < size; z++)
    for (let y = 0; y < size; y++)
      for (let x = 0; x < size; x++, node++) nodes[node] = fine[2 * (x + side * (y + side * z))];
  // What the function leaves of the nodes as they stand, put back onto them: at the nodes themselves that is nothing.
  const left = new Float64Array(count);
  for (let i = 0; i < pairs.length; i += 3) {
    const [node, other] = [pairs[i], pairs[i + 1]];
    const rest = 0.5 * (fine[pairs[i + 2]] - 0.5 * (nodes[node] + nodes[other]));
    left[node] += rest;
    left[other] += rest;
  }
  for (let i = 0; i < corners.length; i += 4) {
    let rest = values[i / 4];
    for (let k = i; k < i + 4; k++) rest -= parts[k] * nodes[corners[k]];
    for (let k = i; k < i + 4; k++) left[corners[k]] += parts[k] * rest;
  }
  holdGreys(left);
  // How much counts at each node: cells where colours come often must not keep the others waiting (Jacobi's preconditioner).
  const counts = new Float64Array(count).fill(1);
  for (let i = 0; i < pairs.length; i += 3) {
    counts[pairs[i]] += 0.25;
    counts[pairs[i + 1]] += 0.25;
  }
  for (let k = 0; k < corners.length; k++) counts[corners[k]] += parts[k] ** 2;
  const scaled = (v: Float64Array): Float64Array => v.map((one, i) => one / counts[i]);
  let even = scaled(left);
  const way = even.slice();
  const bent = new Float64Array(count);
  let length = dot(left, even);
  for (let round = 0; round < ROUNDS && length > LEAST * count; round++) {
    normal(way, bent);
    const step = length / dot(way, bent);
    for (let i = 0; i < count; i++) {
      nodes[i] += step * way[i];
      left[i] -= step * bent[i];
    }
    even = scaled(left);
    const next = dot(left, even);
    const turn = next / length;
    for (let i = 0; i < count; i++) way[i] = even[i] + turn * way[i];
    length = next;
  }
  return Float32Array.from(nodes);
}

function dot(a: Float64Array, b: Float64Array): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) sum += a[i] * b[i];
  return sum;
}
