import { fractal, noise } from '../noise';
import { box, drape, ring, thrown, type Scene } from '../scene';
import { clay, glaze, linen, plaster, wood } from './materials';

const cloth = linen([0.82, 0.82, 0.81]);
const dark = glaze([0.03, 0.035, 0.04], 0.5);

/** The packing table: crocks on a white cloth, a black bottle, a green jar. */
export const packingTable: Scene = {
  camera: { at: [0.3, 3.1, 8.6], towards: [0, 0.95, 0], angle: 0.66 },
  bodies: [
    drape(
      [-0.4, 0, 0.6],
      [2.6, 1.5],
      (x, z) => 0.07 + 0.06 * fractal(x * 1.3, z * 1.6, 4, 3) + 0.025 * Math.sin(x * 5 + z * 2),
      cloth
    ),
    thrown(
      [-1.3, 0.05, 0.2],
      [
        [0, 0.5],
        [0.3, 0.72],
        [1, 0.78],
        [1.5, 0.6],
        [1.7, 0.66]
      ],
      0.07,
      glaze([0.46, 0.3, 0.12], 0.7)
    ),
    thrown(
      [0.35, 0.05, -0.3],
      [
        [0, 0.36],
        [0.4, 0.5],
        [1.1, 0.46],
        [1.6, 0.16],
        [2.2, 0.14],
        [2.35, 0.22]
      ],
      0.05,
      dark
    ),
    thrown(
      [1.55, 0.05, 0.4],
      [
        [0, 0.42],
        [0.25, 0.66],
        [0.8, 0.7],
        [1.15, 0.5],
        [1.3, 0.55]
      ],
      0.06,
      glaze([0.1, 0.3, 0.13], 0.8)
    ),
    thrown(
      [0.4, 0.05, 1.35],
      [
        [0, 0.3],
        [0.12, 0.5],
        [0.36, 0.62]
      ],
      0.05,
      glaze([0.12, 0.18, 0.42], 0.8)
    )
  ],
  lights: [{ at: [-5, 6.5, 5], colour: [3.1, 3.1, 3.05], size: 0.8 }],
  ambient: [0.2, 0.2, 0.2],
  floor: wood([0.1, 0.06, 0.035], [0.28, 0.17, 0.1]),
  wall: -2.8,
  wallSurface: plaster([0.36, 0.37, 0.34]),
  sky: () => [0, 0, 0]
};

/** The kiln door: bricks, a stack of shelves, folded white aprons on a stool. */
export const kilnDoor: Scene = {
  camera: { at: [-0.3, 2.3, 8.8], towards: [0.1, 1.3, 0], angle: 0.66 },
  bodies: [
    box([-1.7, 1.4, -1.2], [1.1, 1.4, 0.5], 0.05, (x, y, z) => {
      const row = Math.floor(y / 0.32);
      const joint =
        Math.abs(y / 0.32 - Math.round(y / 0.32)) < 0.07 ||
        Math.abs(x / 0.7 + (row % 2) / 2 - Math.round(x / 0.7 + (row % 2) / 2)) < 0.035;
      const tone = joint ? 0.5 : 1 + 0.3 * noise(row * 3.1, Math.floor(x / 0.7 + (row % 2) / 2) * 5.3);
      const grit = 1 + 0.15 * fractal(x * 14, y * 14, z * 14, 3);
      return { colour: [0.4 * tone * grit, 0.17 * tone * grit, 0.1 * tone * grit], gloss: 0 };
    }),
    box([-1.7, 0.9, -0.68], [0.5, 0.8, 0.06], 0.04, () => ({ colour: [0.022, 0.022, 0.024], gloss: 0.1 })),
    box([1.25, 0.5, 0.2], [0.55, 0.5, 0.45], 0.04, () => ({ colour: [0.22, 0.13, 0.07], gloss: 0.1 })),
    box([1.25, 1.12, 0.2], [0.44, 0.05, 0.36], 0.06, cloth),
    box([1.2, 1.29, 0.22], [0.4, 0.04, 0.33], 0.05, cloth),
    thrown(
      [0.1, 0, 1.1],
      [
        [0, 0.4],
        [0.4, 0.62],
        [1, 0.5],
        [1.3, 0.36],
        [1.5, 0.44]
      ],
      0.06,
      clay([0.42, 0.24, 0.14])
    ),
    thrown(
      [2.6, 0, -0.8],
      [
        [0, 0.5],
        [0.7, 0.78],
        [1.5, 0.66],
        [2.1, 0.4],
        [2.3, 0.5]
      ],
      0.07,
      glaze([0.08, 0.14, 0.36], 0.8)
    ),
    ring([-3.2, 0.75, 0.4], 0.6, 0.08, 1.1, () => ({ colour: [0.16, 0.17, 0.12], gloss: 0.2 }))
  ],
  lights: [{ at: [5.5, 7, 6], colour: [3.3, 3.3, 3.25], size: 0.9 }],
  ambient: [0.2, 0.2, 0.2],
  floor: (x, z) => {
    const t = 1 + 0.25 * fractal(x * 1.4, z * 1.4, 6, 4) + 0.1 * noise(x * 24, z * 24);
    return { colour: [0.26 * t, 0.25 * t, 0.22 * t], gloss: 0.02 };
  },
  wall: -2.9,
  wallSurface: plaster([0.4, 0.39, 0.36]),
  sky: () => [0, 0, 0]
};
