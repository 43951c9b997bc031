import { fractal, noise } from '../noise';
import { box, modelled, type Body, type Scene, type Vector } from '../scene';
import { plaster, wood } from './materials';
import { wallWithWindow } from './rooms';

const ellipsoid = (x: number, y: number, z: number, [cx, cy, cz]: Vector, [rx, ry, rz]: Vector): number => {
  const [px, py, pz] = [(x - cx) / rx, (y - cy) / ry, (z - cz) / rz];
  const k = Math.hypot(px, py, pz);
  const g = Math.hypot(px / rx, py / ry, pz / rz);
  return k < 1e-6 ? -Math.min(rx, ry, rz) : (k * (k - 1)) / g;
};
const bone = (x: number, y: number, z: number, a: Vector, b: Vector, from: number, to = from): number => {
  const [dx, dy, dz] = [b[0] - a[0], b[1] - a[1], b[2] - a[2]];
  const t = Math.min(
    1,
    Math.max(0, ((x - a[0]) * dx + (y - a[1]) * dy + (z - a[2]) * dz) / (dx * dx + dy * dy + dz * dz))
  );
  return Math.hypot(x - a[0] - dx * t, y - a[1] - dy * t, z - a[2] - dz * t) - (from + (to - from) * t);
};
/** Union and hollow of distances that run softly into each other over `k`. */
const join = (a: number, b: number, k: number): number => {
  const h = Math.max(0, k - Math.abs(a - b)) / k;
  return Math.min(a, b) - (h * h * k) / 4;
};
const hollow = (a: number, b: number, k: number): number => -join(-a, b, k);

/** A head as it is built up of clay: skull, face, brow, eyes, nose, lips, ears, on a neck and a cut-off chest. */
function head(px: number, y: number, z: number): number {
  const x = Math.abs(px);
  let d = ellipsoid(x, y, z, [0, 2.98, -0.14], [0.64, 0.7, 0.76]);
  d = join(d, ellipsoid(x, y, z, [0, 2.56, 0.16], [0.47, 0.62, 0.47]), 0.3);
  d = join(d, ellipsoid(x, y, z, [0, 2.08, 0.36], [0.2, 0.15, 0.2]), 0.24);
  d = join(d, bone(x, y, z, [0.5, 2.45, -0.05], [0.2, 2.1, 0.3], 0.13), 0.16);
  d = join(d, ellipsoid(x, y, z, [0.34, 2.56, 0.36], [0.15, 0.13, 0.14]), 0.2);
  d = hollow(d, ellipsoid(x, y, z, [0.23, 2.79, 0.66], [0.19, 0.1, 0.13]), 0.12);
  d = join(d, bone(x, y, z, [0.07, 2.92, 0.6], [0.36, 2.94, 0.47], 0.055, 0.04), 0.09);
  d = join(d, ellipsoid(x, y, z, [0.22, 2.775, 0.5], [0.12, 0.085, 0.1]), 0.02);
  d = join(d, bone(x, y, z, [0.11, 2.8, 0.57], [0.34, 2.8, 0.5], 0.026), 0.02);
  d = join(d, bone(x, y, z, [0.12, 2.72, 0.56], [0.32, 2.735, 0.5], 0.024), 0.03);
  d = hollow(d, bone(x, y, z, [0.13, 2.758, 0.62], [0.31, 2.763, 0.56], 0.016), 0.02);
  d = join(d, bone(x, y, z, [0, 2.88, 0.6], [0, 2.54, 0.8], 0.05, 0.075), 0.09);
  d = join(d, ellipsoid(x, y, z, [0.08, 2.5, 0.71], [0.065, 0.05, 0.08]), 0.05);
  d = hollow(d, ellipsoid(x, y, z, [0.05, 2.455, 0.75], [0.03, 0.02, 0.04]), 0.02);
  d = join(d, bone(x, y, z, [0, 2.325, 0.65], [0.15, 2.3, 0.58], 0.034, 0.02), 0.03);
  d = join(d, bone(x, y, z, [0, 2.24, 0.64], [0.12, 2.26, 0.58], 0.042, 0.022), 0.03);
  d = hollow(d, bone(x, y, z, [0, 2.285, 0.71], [0.16, 2.285, 0.61], 0.014), 0.02);
  d = join(d, ellipsoid(x, y, z, [0.63, 2.7, -0.06], [0.06, 0.2, 0.13]), 0.05);
  d = hollow(d, ellipsoid(x, y, z, [0.7, 2.71, 0], [0.05, 0.12, 0.07]), 0.04);
  d = join(d, bone(x, y, z, [0, 2.3, -0.18], [0, 1.3, -0.22], 0.36, 0.42), 0.2);
  d = join(d, bone(x, y, z, [0, 1.2, -0.15], [0.95, 1.02, -0.2], 0.36, 0.3), 0.3);
  d = join(d, ellipsoid(x, y, z, [0, 0.95, 0], [0.8, 0.5, 0.46]), 0.3);
  // Hair, pressed on in strands, and the marks of thumbs.
  const crown = Math.max(0, Math.min(1, (y - 2.98 - 0.62 * Math.max(0, z - 0.15)) * 4));
  const strands = 0.016 * Math.sin(30 * px + 4 * noise(px * 3, y * 2, z * 2));
  const thumbs = 0.011 * fractal(px * 4, y * 4, z * 4, 2);
  return Math.max(d - crown * (0.05 + strands) - thumbs, 0.72 - y);
}

const rawClay: Body['surface'] = (x, y, z) => {
  const grit = 1 + 0.2 * fractal(x * 26, y * 26, z * 26, 3);
  const wash = 1 + 0.22 * fractal(x * 2.4, y * 2.4, z * 2.4, 3);
  return { colour: [0.56 * grit * wash, 0.29 * grit * wash, 0.17 * grit], gloss: 0.05 };
};

/** A head of unglazed clay on a block, the window at its side the only light worth the name. */
export const clayFigure: Scene = {
  camera: { at: [0.95, 2.6, 7], towards: [-0.42, 2.3, 0], angle: 0.68 },
  bodies: [
    ...wallWithWindow(-2.4, [-4.4, -2.1, 1.3, 4.6], [2, 3], plaster([0.24, 0.23, 0.22]), () => ({
      colour: [0.3, 0.29, 0.27],
      gloss: 0.1
    })),
    modelled([-1.35, 0.66, -1.1], [1.35, 3.95, 1.05], 250, head, rawClay),
    box([0, 0.36, -0.1], [0.95, 0.36, 0.55], 0.03, (x, y, z) =>
      wood([0.1, 0.065, 0.04], [0.24, 0.16, 0.1])(x, z + 2 * y)
    )
  ],
  lights: [
    { at: [-4.6, 3.5, 0.9], colour: [1.9, 2.05, 2.3], size: 1.1, facing: [1, 0, 0] },
    { at: [5, 3.4, 3.6], colour: [0.12, 0.085, 0.055], size: 0.7 }
  ],
  ambient: [0.05, 0.05, 0.055],
  floor: wood([0.09, 0.06, 0.04], [0.22, 0.15, 0.095]),
  floorEnds: -2.4,
  shadowRays: 12,
  wall: null,
  wallSurface: () => ({ colour: [0, 0, 0], gloss: 0 }),
  sky: (dx, dy) => {
    const v = 1 + 0.5 * fractal(dx * 5, dy * 8, 3, 4);
    return [1.1 * v, 1.3 * v, 1.6 * v];
  }
};
