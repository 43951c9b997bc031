export type Vector = readonly [number, number, number];

/** Linear reflectance and shine of a surface at a point. */
export interface Surface {
  readonly colour: Vector;
  /** 0 matt … 1 glazed. */
  readonly gloss: number;
}

export interface Body {
  /** Centre and radius of a sphere that holds the body. */
  readonly centre: Vector;
  readonly radius: number;
  /** Signed distance (or a lower bound) from a point to the surface. */
  distance(x: number, y: number, z: number): number;
  surface(x: number, y: number, z: number): Surface;
  /** Where a ray meets it, or Infinity: for forms that need no walking along the ray. */
  meets?(from: Vector, along: Vector, most: number): number;
}

export interface Light {
  readonly at: Vector;
  readonly colour: Vector;
  /** Radius of the lamp or window: the softness of its shadows. */
  readonly size: number;
  /** A window: it lies flat across this direction and sends its light that way. */
  readonly facing?: Vector;
}

/** A room or yard: bodies on a floor, a back wall or a sky, lights. y is up, the camera looks along −z. */
export interface Scene {
  readonly camera: { readonly at: Vector; readonly towards: Vector; readonly angle: number };
  readonly bodies: readonly Body[];
  readonly lights: readonly Light[];
  readonly ambient: Vector;
  floor(x: number, z: number): Surface;
  /** No floor lies behind this z. */
  readonly floorEnds?: number;
  /** Rays to each light that decide whether a point lies at the edge of a shadow. */
  readonly shadowRays?: number;
  /** z of the wall, or null for a sky. */
  readonly wall: number | null;
  wallSurface(x: number, y: number): Surface;
  sky(dx: number, dy: number, dz: number): Vector;
  /** What lies between a point seen at `distance` and the lens: water, haze. */
  medium?(colour: Vector, distance: number, point: Vector): Vector;
}

const mix = (a: number, b: number, t: number): number => a + (b - a) * t;

/** Radius of a thrown form at height y: smooth through the (height, radius) points. */
function profile(points: readonly (readonly [number, number])[], y: number): number {
  const n = points.length - 1;
  if (y <= points[0][0]) return points[0][1];
  if (y >= points[n][0]) return points[n][1];
  let i = 0;
  while (points[i + 1][0] < y) i++;
  const [y0, r0] = points[i];
  const [y1, r1] = points[i + 1];
  const t = (y - y0) / (y1 - y0);
  const slope = (k: number): number => {
    const a = points[Math.max(0, k - 1)];
    const b = points[Math.min(n, k + 1)];
    return ((b[1] - a[1]) / (b[0] - a[0])) * (y1 - y0);
  };
  const t2 = t * t;
  const t3 = t2 * t;
  return (
    (2 * t3 - 3 * t2 + 1) * r0 +
    (t3 - 2 * t2 + t) * slope(i) +
    (-2 * t3 + 3 * t2) * r1 +
    (t3 - t2) * slope(i + 1)
  );
}

/** A form turned on a wheel, open at the top with a wall `thickness`; at (x, z) on height `base`. */
export function thrown(
  [x0, base, z0]: Vector,
  points: readonly (readonly [number, number])[],
  thickness: number,
  surface: Body['surface']
): Body {
  const height = points[points.length - 1][0];
  const widest = Math.max(...points.map(([, r]) => r));
  // Looked up rather than computed: the profile is asked for many times a ray.
  const STEPS = 512;
  const table = Float64Array.from({ length: STEPS + 2 }, (_, i) => profile(points, (i / STEPS) * height));
  const radiusAt = (y: number): number => {
    const at = Math.min(Math.max(y / height, 0), 1) * STEPS;
    const i = Math.floor(at);
    return mix(table[i], table[i + 1], at - i);
  };
  return {
    centre: [x0, base + height / 2, z0],
    radius: Math.hypot(height / 2, widest) * 1.02,
    distance(x, y, z) {
      const r = Math.hypot(x - x0, z - z0);
      const h = y - base;
      const wall = radiusAt(h);
      // Within the hollow the inner wall and the bottom are the nearest; elsewhere the outer wall.
      const shell =
        h > thickness && r < wall - thickness / 2 ? Math.min(wall - thickness - r, h - thickness) : r - wall;
      return Math.max(shell, -h, h - height) * 0.6;
    },
    surface
  };
}

/** A ring standing upright in the x–y plane: a handle. */
export function ring(
  centre: Vector,
  major: number,
  minor: number,
  squash: number,
  surface: Body['surface']
): Body {
  return {
    centre,
    radius: (major + minor) * Math.max(1, squash),
    distance(x, y, z) {
      const q = Math.hypot(x - centre[0], (y - centre[1]) / squash) - major;
      return (Math.hypot(q, z - centre[2]) - minor) * 0.7;
    },
    surface
  };
}

export function box(centre: Vector, half: Vector, round: number, surface: Body['surface']): Body {
  return {
    centre,
    radius: Math.hypot(...half) + round,
    distance(x, y, z) {
      const qx = Math.abs(x - centre[0]) - half[0];
      const qy = Math.abs(y - centre[1]) - half[1];
      const qz = Math.abs(z - centre[2]) - half[2];
      const outside = Math.hypot(Math.max(qx, 0), Math.max(qy, 0), Math.max(qz, 0));
      return outside + Math.min(Math.max(qx, qy, qz), 0) - round;
    },
    surface
  };
}

/** Where a ray enters and leaves a box; null where it misses. */
function through(
  centre: Vector,
  half: readonly number[],
  from: Vector,
  along: Vector
): [number, number] | null {
  let enters = -Infinity;
  let leaves = Infinity;
  for (let c = 0; c < 3; c++) {
    const a = (centre[c] - half[c] - from[c]) / along[c];
    const b = (centre[c] + half[c] - from[c]) / along[c];
    enters = Math.max(enters, Math.min(a, b));
    leaves = Math.min(leaves, Math.max(a, b));
  }
  return enters <= leaves && leaves > 0 ? [enters, leaves] : null;
}

/** A box with sharp edges, met exactly: walls and bars. */
export function slab(centre: Vector, half: Vector, surface: Body['surface']): Body {
  return {
    ...box(centre, half, 0, surface),
    meets(from, along, most) {
      const part = through(centre, half, from, along);
      return part && part[0] > 0 && part[0] < most ? part[0] : Infinity;
    }
  };
}

/** A ball whose surface is pushed in and out by `bumps`. */
export function lump(
  centre: Vector,
  radius: number,
  depth: number,
  bumps: (x: number, y: number, z: number) => number,
  surface: Body['surface']
): Body {
  return {
    centre,
    radius: radius + depth,
    distance(x, y, z) {
      const d = Math.hypot(x - centre[0], y - centre[1], z - centre[2]) - radius;
      return d > 2 * depth ? d - depth : (d - depth * bumps(x, y, z)) * 0.55;
    },
    surface
  };
}

/** A cloth lying over things: a thin sheet at `height` above the floor, `half` wide and deep around its centre. */
export function drape(
  [x0, , z0]: Vector,
  [halfX, halfZ]: readonly [number, number],
  height: (x: number, z: number) => number,
  surface: Body['surface']
): Body {
  const THICKNESS = 0.02;
  // Looked up rather than computed, as in `thrown`.
  const STEPS = 400;
  const size = STEPS + 2;
  const table = Float64Array.from({ length: size * size }, (_, i) =>
    height(x0 + halfX * ((2 * (i % size)) / STEPS - 1), z0 + halfZ * ((2 * Math.floor(i / size)) / STEPS - 1))
  );
  const low = table.reduce((a, b) => Math.min(a, b));
  const high = table.reduce((a, b) => Math.max(a, b));
  const heightAt = (x: number, z: number): number => {
    const u = Math.min(Math.max(((x - x0) / halfX + 1) / 2, 0), 1) * STEPS;
    const v = Math.min(Math.max(((z - z0) / halfZ + 1) / 2, 0), 1) * STEPS;
    const i = Math.floor(v) * size + Math.floor(u);
    const across = u - Math.floor(u);
    return mix(
      mix(table[i], table[i + 1], across),
      mix(table[i + size], table[i + size + 1], across),
      v - Math.floor(v)
    );
  };
  return {
    centre: [x0, (low + high) / 2, z0],
    radius: Math.hypot(halfX, halfZ, (high - low) / 2 + THICKNESS),
    distance(x, y, z) {
      const side = Math.max(Math.abs(x - x0) - halfX, Math.abs(z - z0) - halfZ);
      const above = Math.max(y - high, low - y) - THICKNESS;
      if (above > 0.05) return Math.max(side, above);
      return Math.max(side, Math.abs(y - heightAt(x, z)) - THICKNESS) * 0.5;
    },
    surface
  };
}

/** Bones of one flesh: capsules `[from, to, radius]` that run softly into one another. */
export function limbs(
  bones: readonly (readonly [Vector, Vector, number])[],
  softness: number,
  surface: Body['surface']
): Body {
  const ends = bones.flatMap(([from, to]) => [from, to]);
  const middle = [0, 1, 2].map((c) => ends.reduce((sum, e) => sum + e[c], 0) / ends.length);
  const centre = middle as unknown as Vector;
  const reach = Math.max(...ends.map((e) => Math.hypot(...e.map((v, c) => v - centre[c]))));
  return {
    centre,
    radius: reach + Math.max(...bones.map(([, , r]) => r)) + softness,
    distance(x, y, z) {
      let near = Infinity;
      for (const [a, b, radius] of bones) {
        const [dx, dy, dz] = [b[0] - a[0], b[1] - a[1], b[2] - a[2]];
        const [px, py, pz] = [x - a[0], y - a[1], z - a[2]];
        const length2 = dx * dx + dy * dy + dz * dz;
        const t = length2 > 0 ? Math.min(1, Math.max(0, (px * dx + py * dy + pz * dz) / length2)) : 0;
        const d = Math.hypot(px - dx * t, py - dy * t, pz - dz * t) - radius;
        const h = Math.max(0, softness - Math.abs(near - d)) / softness;
        near = near === Infinity ? d : Math.min(near, d) - (h * h * softness) / 4;
      }
      return near * 0.8;
    },
    surface
  };
}

/** Lattice places a side that are read as one far from a surface. */
const COARSE = 4;

/**
 * A form given by its signed distance, read once on a lattice of `steps` along the longest side between two corners,
 * for forms that are too costly to be asked for at every step of a ray.
 */
export function modelled(
  low: Vector,
  high: Vector,
  steps: number,
  distance: Body['distance'],
  surface: Body['surface']
): Body {
  const size = high.map((v, c) => v - low[c]);
  const cell = Math.max(...size) / steps;
  const [nx, ny, nz] = size.map((v) => Math.ceil(v / cell) + 1);
  let table: Float32Array | null = null;
  // Far from the surface every fourth place is read and the rest taken from between: there only the way on counts.
  const read = (): Float32Array => {
    const values = new Float32Array(nx * ny * nz);
    const at = (u: number, j: number, k: number): number =>
      distance(low[0] + u * cell, low[1] + j * cell, low[2] + k * cell);
    const far = COARSE * cell * 2;
    for (let k0 = 0; k0 < nz; k0 += COARSE)
      for (let j0 = 0; j0 < ny; j0 += COARSE)
        for (let u0 = 0; u0 < nx; u0 += COARSE) {
          const middle = at(u0 + COARSE / 2, j0 + COARSE / 2, k0 + COARSE / 2);
          const near = Math.abs(middle) < far;
          for (let k = k0; k < Math.min(nz, k0 + COARSE); k++)
            for (let j = j0; j < Math.min(ny, j0 + COARSE); j++)
              for (let u = u0; u < Math.min(nx, u0 + COARSE); u++)
                values[(k * ny + j) * nx + u] = near
                  ? at(u, j, k)
                  : middle - Math.sign(middle) * COARSE * cell * 0.9;
        }
    return values;
  };
  const half = size.map((v) => v / 2);
  const centre = low.map((v, c) => v + half[c]) as unknown as Vector;
  const HIT = 0.0015;
  return {
    centre,
    radius: Math.hypot(...half),
    meets(from, along, most) {
      const part = through(centre, half, from, along);
      if (!part) return Infinity;
      const end = Math.min(part[1], most);
      for (let t = Math.max(0, part[0]), i = 0; t < end && i < 90; i++) {
        const d = this.distance(from[0] + along[0] * t, from[1] + along[1] * t, from[2] + along[2] * t);
        if (d < HIT) return t;
        t += d;
      }
      return Infinity;
    },
    distance(x, y, z) {
      const beside = Math.max(
        Math.abs(x - centre[0]) - half[0],
        Math.abs(y - centre[1]) - half[1],
        Math.abs(z - centre[2]) - half[2]
      );
      if (beside > 0) return beside + 0.02;
      const u = Math.min((x - low[0]) / cell, nx - 1.001);
      const v = Math.min((y - low[1]) / cell, ny - 1.001);
      const w = Math.min((z - low[2]) / cell, nz - 1.001);
      const [i, j, k] = [Math.floor(u), Math.floor(v), Math.floor(w)];
      const at = (k * ny + j) * nx + i;
      const t = (table ??= read());
      const near = mix(mix(t[at], t[at + 1], u - i), mix(t[at + nx], t[at + nx + 1], u - i), v - j);
      const back = at + nx * ny;
      const far = mix(mix(t[back], t[back + 1], u - i), mix(t[back + nx], t[back + nx + 1], u - i), v - j);
      return mix(near, far, w - k) * 0.75;
    },
    surface
  };
}
