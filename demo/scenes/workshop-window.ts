import { fractal } from '../noise';
import { box, ring, thrown, type Body, type Scene, type Vector } from '../scene';
import { clay, glaze, plaster, wood } from './materials';
import { wallWithWindow } from './rooms';

const Z = -3;
const OPENING = [-2.3, 0.7, 1.55, 3.75] as const;

const plank =
  (dark: Vector, light: Vector): Body['surface'] =>
  (x, y, z) =>
    wood(dark, light)(x, z + 3 * y);
const benchWood = plank([0.16, 0.1, 0.06], [0.34, 0.23, 0.14]);
const bar: Body['surface'] = () => ({ colour: [0.34, 0.32, 0.27], gloss: 0.1 });

/** Hill, sea and a bright sky outside. */
function outside(dx: number, dy: number, dz: number): Vector {
  const across = dx / -dz;
  const up = dy / Math.hypot(dx, dz);
  const hill = 0.045 + 0.07 * Math.exp(-((across + 0.42) ** 2) / 0.05) + 0.02 * fractal(across * 7, 1, 2, 4);
  if (up > hill) {
    const cloud = Math.max(0, fractal(across * 3.2, up * 9, 7, 5) + 0.12);
    const sky: Vector = [1.05 - 1.5 * up, 1.42 - 1.2 * up, 2 - 0.8 * up];
    return sky.map((v) => v + 2.4 * cloud) as unknown as Vector;
  }
  if (up > -0.02) {
    const grass = 1 + 0.6 * fractal(across * 40, up * 60, 5, 3);
    return [0.5 * grass, 0.62 * grass, 0.26 * grass];
  }
  const wave = 1 + 0.5 * fractal(across * 18, up * 150, 3, 3);
  return [0.5 * wave, 0.78 * wave, 0.92 * wave];
}

const shelf = (y: number): Body => box([2.6, y, -2.55], [1.25, 0.05, 0.4], 0.015, benchWood);
const pot = (x: number, base: number, z: number, size: number, surface: Body['surface']): Body =>
  thrown(
    [x, base, z],
    (
      [
        [0, 0.3],
        [0.2, 0.46],
        [0.55, 0.5],
        [0.8, 0.3],
        [0.95, 0.36]
      ] as const
    ).map(([h, r]) => [h * size, r * size] as const),
    0.04 * size,
    surface
  );

/** A dark workshop: ware on the bench and the shelves, and a bright window on the sea. */
export const workshopWindow: Scene = {
  camera: { at: [0.5, 2.25, 7.2], towards: [0.1, 1.95, -1], angle: 0.72 },
  bodies: [
    ...wallWithWindow(Z, OPENING, [3, 2], plaster([0.5, 0.45, 0.38]), bar),
    box([-0.4, 0.92, -0.7], [3.1, 0.07, 0.75], 0.02, benchWood),
    box([-3.2, 0.45, -0.7], [0.12, 0.45, 0.6], 0.02, benchWood),
    box([2.4, 0.45, -0.7], [0.12, 0.45, 0.6], 0.02, benchWood),
    shelf(2.2),
    shelf(3.15),
    pot(1.75, 2.26, -2.5, 0.62, glaze([0.06, 0.32, 0.33], 0.8)),
    pot(2.45, 2.26, -2.5, 0.72, clay([0.5, 0.22, 0.12])),
    pot(3.15, 2.26, -2.5, 0.55, glaze([0.6, 0.42, 0.12], 0.7)),
    pot(1.95, 3.21, -2.5, 0.55, glaze([0.78, 0.77, 0.72], 0.7)),
    pot(2.8, 3.21, -2.5, 0.66, glaze([0.45, 0.1, 0.07], 0.7)),
    pot(-2.05, 0.99, -0.75, 1.1, glaze([0.78, 0.77, 0.74], 0.9)),
    ring([-1.46, 1.52, -0.75], 0.24, 0.05, 1.25, glaze([0.78, 0.77, 0.74], 0.9)),
    pot(-0.55, 0.99, -0.55, 0.7, clay([0.55, 0.25, 0.13])),
    pot(0.5, 0.99, -0.9, 1.25, glaze([0.05, 0.2, 0.34], 0.9)),
    thrown(
      [1.55, 0.99, -0.5],
      [
        [0, 0.22],
        [0.1, 0.4],
        [0.32, 0.62],
        [0.42, 0.66]
      ],
      0.05,
      glaze([0.1, 0.36, 0.14], 0.9)
    )
  ],
  lights: [
    { at: [-0.8, 2.65, -2.95], colour: [0.62, 0.74, 0.95], size: 1.1, facing: [0, 0, 1] },
    { at: [4.5, 4.6, 5], colour: [0.3, 0.18, 0.085], size: 0.7 }
  ],
  ambient: [0.03, 0.027, 0.024],
  floor: wood([0.1, 0.075, 0.055], [0.24, 0.18, 0.13]),
  floorEnds: Z,
  shadowRays: 12,
  wall: null,
  wallSurface: () => ({ colour: [0, 0, 0], gloss: 0 }),
  sky: outside
};
