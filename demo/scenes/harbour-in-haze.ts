import { fractal, noise } from '../noise';
import { box, lump, thrown, type Body, type Scene, type Surface, type Vector } from '../scene';

const HAZE: Vector = [0.5, 0.535, 0.56];

const float: Body['surface'] = (x, y, z) => {
  const worn = 1 + 0.18 * fractal(x * 5, y * 5, z * 5, 3);
  const scuff = noise(x * 11, y * 17, z * 11) > 0.62 ? 1.25 : 1;
  return { colour: [0.62 * worn, 0.19 * worn * scuff, 0.055 * worn * scuff], gloss: 0.07 };
};
const buoy = (centre: Vector, radius: number): Body =>
  lump(centre, radius, 0.02, (x, y, z) => noise(x * 3, y * 3, z * 3), float);

/** Knotted twine: two sets of threads across a heap. */
const net: Body['surface'] = (x, y, z): Surface => {
  const u = x * 13 + 0.5 * noise(x * 3, y * 3, z * 3) + y * 7;
  const v = z * 13 + 0.5 * noise(z * 3, x * 3, y * 3) - y * 7;
  const thread = Math.max(1 - 6 * Math.abs(u - Math.round(u)), 1 - 6 * Math.abs(v - Math.round(v)), 0);
  const tone = 0.5 + 0.5 * fractal(x * 4, y * 4, z * 4, 3);
  const colour = [0.05, 0.085, 0.075].map((c, i) => c * (0.7 + tone) + thread * [0.1, 0.19, 0.17][i]);
  return { colour: colour as unknown as Vector, gloss: 0 };
};
const heap = (centre: Vector, radius: number): Body =>
  lump(
    centre,
    radius,
    0.3 * radius,
    (x, y, z) => fractal(x * 1.7, y * 1.7, z * 1.7, 3) * 1.5 + 0.2 * noise(x * 9, y * 9, z * 9),
    net
  );

/** A blue hull that rusts through its paint. */
const hull: Body['surface'] = (x, y, z): Surface => {
  const run = fractal(x * 2.4, y * 0.7, z * 2.4, 4) + 0.35 * noise(x * 9, y * 2, z * 9);
  const rust = Math.min(1, Math.max(0, (run - 0.06) * 5 + 0.5 * Math.max(0, 0.5 - y)));
  const paint: Vector = y > 1.3 ? [0.5, 0.52, 0.52] : [0.085, 0.16, 0.24];
  const grit = 1 + 0.2 * fractal(x * 15, y * 15, z * 15, 2);
  const iron: Vector = [0.27 * grit, 0.115 * grit, 0.055 * grit];
  return { colour: paint.map((p, c) => p + (iron[c] - p) * rust) as unknown as Vector, gloss: 0.08 };
};

const planks: Body['surface'] = (x, y, z) => {
  const t = 0.8 + 0.25 * noise(x * 1.4, y * 40, z * 40);
  return { colour: [0.2 * t, 0.18 * t, 0.15 * t], gloss: 0 };
};

/** Nets, floats and a rusting hull on a quay, under a white sky, with haze that thickens with the way. */
export const harbourInHaze: Scene = {
  camera: { at: [0.2, 2.5, 8.6], towards: [0, 1, -1], angle: 0.72 },
  bodies: [
    box([1.6, 0.95, -2.6], [3.1, 0.95, 0.8], 0.16, hull),
    box([2.7, 2.3, -2.7], [0.9, 0.55, 0.55], 0.05, hull),
    box([0.2, 2.6, -2.6], [0.05, 1.6, 0.05], 0.02, planks),
    heap([-1.7, 0.2, 0.7], 1.15),
    heap([-3.1, 0.1, -0.6], 1),
    heap([2.4, 0.05, 1.4], 0.8),
    buoy([-0.55, 0.36, 1.7], 0.36),
    buoy([-1.25, 0.95, 1.35], 0.34),
    buoy([-2.2, 1.05, 1.15], 0.33),
    buoy([-0.1, 0.33, 2.4], 0.33),
    buoy([1.55, 0.34, 1.95], 0.34),
    buoy([2.35, 0.8, 2], 0.31),
    buoy([0.75, 0.3, 1.2], 0.3),
    box([-4.4, 0.6, -4.5], [1.3, 0.6, 0.8], 0.05, planks),
    thrown(
      [3.8, 0, 0.2],
      [
        [0, 0.42],
        [0.4, 0.48],
        [0.9, 0.46],
        [1.05, 0.42]
      ],
      0.06,
      planks
    ),
    lump(
      [-14, -1, -26],
      9,
      2,
      (x, y, z) => fractal(x * 0.3, y * 0.3, z * 0.3, 4),
      () => ({ colour: [0.1, 0.13, 0.08], gloss: 0 })
    ),
    lump(
      [9, -3, -34],
      12,
      2.4,
      (x, y, z) => fractal(x * 0.25, y * 0.25, z * 0.25, 4),
      () => ({ colour: [0.09, 0.12, 0.09], gloss: 0 })
    )
  ],
  lights: [{ at: [-8, 16, 8], colour: [9, 9.1, 9.2], size: 5 }],
  ambient: [0.46, 0.47, 0.48],
  floor(x, z) {
    const quay = z > -1.4;
    if (!quay) {
      const ripple = 1 + 0.16 * noise(x * 2.2, z * 6) + 0.1 * noise(x * 7, z * 17);
      return { colour: [0.16 * ripple, 0.2 * ripple, 0.21 * ripple], gloss: 0 };
    }
    const slab =
      Math.min(Math.abs(x / 1.8 - Math.round(x / 1.8)), Math.abs(z / 1.1 - Math.round(z / 1.1))) < 0.012;
    const t = (slab ? 0.55 : 1) * (1 + 0.22 * fractal(x * 1.6, z * 1.6, 3, 5) + 0.1 * noise(x * 30, z * 30));
    return { colour: [0.235 * t, 0.23 * t, 0.215 * t], gloss: 0.02 };
  },
  wall: null,
  wallSurface: () => ({ colour: [0, 0, 0], gloss: 0 }),
  sky: (_, dy) => HAZE.map((h) => h * (1 + 0.12 * Math.max(0, dy))) as unknown as Vector,
  medium(colour, distance) {
    const clear = Math.exp(-0.055 * distance);
    return colour.map((v, c) => v * clear + HAZE[c] * (1 - clear)) as unknown as Vector;
  }
};
