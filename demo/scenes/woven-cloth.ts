import { fractal, noise } from '../noise';
import { box, drape, thrown, type Body, type Scene } from '../scene';
import { glaze, wood } from './materials';

const FINE = 74;

/** Grey twill: warp and weft a few pixels apart. */
const weave: Body['surface'] = (x, y, z) => {
  const warp = Math.sin(2 * Math.PI * FINE * (x + 0.15 * y));
  const weft = Math.sin(2 * Math.PI * FINE * (z + 0.15 * y));
  const twill = Math.sin(2 * Math.PI * FINE * 0.25 * (x + z));
  const t = 0.33 * (1 + 0.1 * warp + 0.1 * weft + 0.08 * twill + 0.08 * fractal(x * 3, y * 3, z * 3, 3));
  return { colour: [t, t, t], gloss: 0 };
};

/** Where a fold of the cloth lies, above the table. */
const folds = (x: number, z: number): number => {
  const along = x * 0.8 + 0.35 * z + 0.5 * fractal(x * 0.5, z * 0.5, 3, 2);
  return 0.24 + 0.17 * Math.sin(along * 2.6) + 0.06 * Math.sin(along * 5.7 + z) + 0.07 * fractal(x, z, 8, 2);
};

const ribbon: Body['surface'] = (x, y, z) => {
  const t = 1 + 0.08 * noise(x * 60, y * 60, z * 60);
  return { colour: [0.42 * t, 0.05 * t, 0.06 * t], gloss: 0.15 };
};

/** Grey cloth over a table, with a ribbon, a bobbin box and a pot of dye. */
export const wovenCloth: Scene = {
  camera: { at: [0, 4.4, 6.6], towards: [0, 0.25, 0.1], angle: 0.66 },
  bodies: [
    drape([-0.35, 0, 0.2], [2.75, 1.75], folds, weave),
    drape([-0.2, 0, 0.9], [2.45, 0.16], (x, z) => folds(x, z) + 0.045, ribbon),
    thrown(
      [2.1, 0.3, -1.1],
      [
        [0, 0.3],
        [0.2, 0.5],
        [0.6, 0.52],
        [0.8, 0.44]
      ],
      0.05,
      glaze([0.06, 0.16, 0.34], 0.8)
    ),
    box([-1.9, 0.62, -1.05], [0.42, 0.16, 0.26], 0.04, (x, y, z) => {
      const t = 1 + 0.2 * noise(x * 3, y * 40, z * 40);
      return { colour: [0.4 * t, 0.26 * t, 0.13 * t], gloss: 0.1 };
    })
  ],
  lights: [{ at: [-6, 6, 3], colour: [3.4, 3.4, 3.4], size: 1 }],
  ambient: [0.26, 0.26, 0.26],
  floor: wood([0.13, 0.08, 0.05], [0.33, 0.22, 0.14]),
  wall: null,
  wallSurface: () => ({ colour: [0, 0, 0], gloss: 0 }),
  sky: () => [0.2, 0.2, 0.2]
};
