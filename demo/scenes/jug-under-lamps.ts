import { ring, thrown, type Scene } from '../scene';
import { clay, glaze, plaster, wood } from './materials';

const white = glaze([0.84, 0.84, 0.83]);

/** A rose lamp from the left, daylight from the right; the jug in the middle is glazed white. */
export const jugUnderLamps: Scene = {
  camera: { at: [0, 2.15, 9.2], towards: [0.05, 1.28, 0], angle: 0.66 },
  bodies: [
    thrown(
      [-0.15, 0, 0.2],
      [
        [0, 0.62],
        [0.25, 0.86],
        [0.8, 1.04],
        [1.35, 0.86],
        [1.8, 0.5],
        [2.05, 0.46],
        [2.3, 0.6]
      ],
      0.07,
      white
    ),
    ring([0.78, 1.5, 0.2], 0.42, 0.085, 1.25, white),
    thrown(
      [-2.05, 0, -0.5],
      [
        [0, 0.42],
        [0.5, 0.62],
        [1.1, 0.48],
        [1.7, 0.3],
        [2.2, 0.36],
        [2.65, 0.55]
      ],
      0.06,
      clay([0.5, 0.2, 0.1])
    ),
    thrown(
      [1.95, 0, 0.75],
      [
        [0, 0.4],
        [0.15, 0.62],
        [0.5, 0.98],
        [0.82, 1.12]
      ],
      0.06,
      glaze([0.04, 0.33, 0.3])
    ),
    thrown(
      [2.25, 0, -1.1],
      [
        [0, 0.36],
        [0.6, 0.5],
        [1.2, 0.34],
        [1.55, 0.42]
      ],
      0.05,
      glaze([0.62, 0.45, 0.14], 0.6)
    ),
    thrown(
      [-1.1, 0, 1.5],
      [
        [0, 0.2],
        [0.12, 0.34],
        [0.34, 0.42]
      ],
      0.04,
      glaze([0.8, 0.8, 0.78])
    )
  ],
  lights: [
    { at: [-6.5, 4.2, 4.5], colour: [2.5, 1.08, 1.75], size: 0.55 },
    { at: [6.5, 5.2, 4.2], colour: [1.16, 1.22, 1.3], size: 1.3 }
  ],
  ambient: [0.15, 0.13, 0.145],
  floor: wood([0.14, 0.085, 0.05], [0.36, 0.24, 0.15]),
  wall: -2.6,
  wallSurface: plaster([0.42, 0.43, 0.4]),
  sky: () => [0, 0, 0]
};
