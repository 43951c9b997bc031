import { fractal, noise } from '../noise';
import { box, thrown, type Scene, type Surface, type Vector } from '../scene';
import { clay, glaze } from './materials';

/** How water takes light away over a unit of way: red first. */
const ABSORBED: Vector = [0.36, 0.055, 0.04];
const GLOW: Vector = [0.006, 0.1, 0.115];

/** Bright nets of light that waves throw on the floor. */
function caustic(x: number, z: number): number {
  const bend = 0.35 * fractal(x * 0.9, z * 0.9, 2, 2);
  const a = Math.abs(noise(x * 1.7 + bend * 3, z * 1.7, 3));
  const b = Math.abs(noise(x * 2.3 - bend * 3, z * 2.3 + 5, 8));
  return 0.75 + 0.9 * Math.exp(-a * 9) + 0.6 * Math.exp(-b * 11);
}

function tiles(x: number, z: number): Surface {
  const joint =
    Math.min(Math.abs(x / 0.9 - Math.round(x / 0.9)), Math.abs(z / 0.9 - Math.round(z / 0.9))) < 0.022;
  const tone =
    (joint ? 0.4 : 0.62 + 0.05 * noise(Math.floor(x / 0.9) * 9.1, Math.floor(z / 0.9) * 7.7)) * caustic(x, z);
  const grit = 1 + 0.1 * fractal(x * 12, z * 12, 1, 3);
  return { colour: [tone * grit, tone * grit * 0.98, tone * grit * 0.94], gloss: 0.05 };
}

/** Fired ware cooling at the bottom of a tank, seen through a good length of water. */
export const quenchTank: Scene = {
  camera: { at: [0.1, 6, 8], towards: [-0.15, 0.2, 0], angle: 0.64 },
  bodies: [
    thrown(
      [-1.6, 0, 0.4],
      [
        [0, 0.5],
        [0.2, 0.8],
        [0.7, 1.15],
        [0.95, 1.22]
      ],
      0.08,
      glaze([0.78, 0.76, 0.7], 0.5)
    ),
    thrown(
      [1.15, 0, -0.9],
      [
        [0, 0.5],
        [0.4, 0.78],
        [1.1, 0.62],
        [1.5, 0.4],
        [1.8, 0.5]
      ],
      0.07,
      clay([0.62, 0.26, 0.13])
    ),
    thrown(
      [1.5, 0, 1.3],
      [
        [0, 0.3],
        [0.15, 0.55],
        [0.45, 0.72]
      ],
      0.06,
      glaze([0.7, 0.12, 0.08], 0.5)
    ),
    thrown(
      [-0.3, 0, -1.7],
      [
        [0, 0.34],
        [0.5, 0.5],
        [1, 0.38],
        [1.25, 0.44]
      ],
      0.06,
      glaze([0.66, 0.5, 0.16], 0.5)
    ),
    box([0.15, 0.09, 1.75], [1.05, 0.07, 0.07], 0.03, () => ({ colour: [0.2, 0.2, 0.2], gloss: 0.5 })),
    box([-3.6, 0.6, 0], [0.25, 0.6, 6], 0.05, (x, y, z) => tiles(y + x, z))
  ],
  lights: [
    { at: [-3.5, 9, 2], colour: [4.2, 4.2, 4.1], size: 0.9 },
    { at: [5, 7, 5], colour: [1.1, 1.15, 1.2], size: 1.6 }
  ],
  ambient: [0.3, 0.32, 0.33],
  floor: tiles,
  wall: null,
  wallSurface: () => ({ colour: [0, 0, 0], gloss: 0 }),
  sky: () => GLOW,
  medium(colour, distance, point) {
    const way = distance + Math.max(0, 2.5 - point[1]);
    return colour.map((v, c) => {
      const left = Math.exp(-ABSORBED[c] * way);
      return v * left + GLOW[c] * (1 - Math.exp(-0.09 * way));
    }) as unknown as Vector;
  }
};
