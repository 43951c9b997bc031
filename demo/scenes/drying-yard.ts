import { fractal, noise } from '../noise';
import { box, lump, thrown, type Body, type Scene, type Surface, type Vector } from '../scene';

/** What a camera without its infrared filter makes of near-infrared reflectance: red most, green least. */
const seen = (infrared: number, tint = 0): Vector => [
  infrared * (1 + 0.1 * tint),
  infrared * 0.46,
  infrared * (0.66 - 0.14 * tint)
];

const leaf: Body['surface'] = (x, y, z): Surface => {
  const leaves = noise(x * 15, y * 15, z * 15);
  const shade = 0.72 + 0.3 * leaves + 0.16 * noise(x * 41, y * 41, z * 41);
  return { colour: seen(0.82 * Math.max(0.12, shade), -0.4), gloss: 0.05 };
};
const bush = (centre: Vector, radius: number): Body =>
  lump(
    centre,
    radius,
    0.22 * radius,
    (x, y, z) => fractal(x * 2.4, y * 2.4, z * 2.4, 3) * 1.6 + 0.35 * noise(x * 13, y * 13, z * 13),
    leaf
  );

const board: Body['surface'] = (x, y, z) => ({
  colour: seen(0.42 * (1 + 0.25 * noise(x * 1.3, y * 30, z * 30))),
  gloss: 0.03
});
const raw =
  (tone: number): Body['surface'] =>
  (x, y, z) => ({
    colour: seen(tone * (1 + 0.05 * Math.sin(y * 60) + 0.1 * noise(x * 30, y * 30, z * 30)), 0.2),
    gloss: 0.03
  });

const FORMS: (readonly (readonly [number, number])[])[] = [
  [
    [0, 0.2],
    [0.2, 0.34],
    [0.5, 0.3],
    [0.72, 0.2],
    [0.85, 0.26]
  ],
  [
    [0, 0.2],
    [0.1, 0.32],
    [0.36, 0.44]
  ],
  [
    [0, 0.22],
    [0.4, 0.3],
    [0.8, 0.2],
    [1.05, 0.3]
  ]
];
const shelf = (y: number, offset: number): Body[] => [
  box([0.3, y, 0.1], [3.1, 0.05, 0.42], 0.02, board),
  ...[0, 1, 2, 3, 4, 5].map((i) =>
    thrown(
      [-2.4 + 1.05 * i + offset, y + 0.07, 0.1],
      FORMS[(i + Math.round(offset * 10)) % 3],
      0.04,
      raw([0.52, 0.4, 0.62][i % 3])
    )
  )
];

/** Racks of raw pots among bushes, taken in near-infrared: leaves glow, the sky is dark. */
export const dryingYard: Scene = {
  camera: { at: [0.4, 1.75, 8.6], towards: [0.1, 1.55, 0], angle: 0.78 },
  bodies: [
    ...shelf(0.62, 0),
    ...shelf(1.78, 0.2),
    box([-2.75, 1, 0.1], [0.07, 1, 0.36], 0.02, board),
    box([3.3, 1, 0.1], [0.07, 1, 0.36], 0.02, board),
    bush([-4.1, 0.9, -1.2], 1.5),
    bush([4.9, 1.1, -1.6], 1.7),
    bush([-1.6, 1.3, -4.5], 1.9),
    bush([2, 1.5, -5.5], 2.2),
    bush([-6.5, 1.6, -5], 2.4),
    bush([7.5, 1.4, -5], 2.4)
  ],
  lights: [{ at: [-9, 14, 9], colour: [18, 18, 18], size: 0.6 }],
  ambient: [0.34, 0.34, 0.36],
  floor: (x, z) => {
    const grass = 0.62 + 0.3 * noise(x * 9, z * 9) + 0.25 * noise(x * 33, z * 21, 3);
    const path = Math.exp(-((z - 2.2 + 0.3 * noise(x, 1)) ** 2) * 1.2);
    const stones = 0.34 * (1 + 0.3 * fractal(x * 6, z * 6, 2, 3));
    return {
      colour: seen(Math.max(0.08, grass * 0.75 * (1 - path) + stones * path), -0.3 * (1 - path)),
      gloss: 0
    };
  },
  wall: null,
  wallSurface: () => ({ colour: [0, 0, 0], gloss: 0 }),
  sky(dx, dy, dz) {
    const scale = 1.4 / Math.max(0.08, dy + 0.12);
    const cloud = Math.max(0, fractal(dx * scale, dz * scale, 6, 5) * 2.6 - 0.1);
    const clear = 0.1 + 0.12 * Math.exp(-4 * Math.max(0, dy));
    const c = Math.min(1, cloud);
    const blue: Vector = [clear * 1.15, clear * 0.46, clear * 0.42];
    const bright = seen(0.7);
    return [0, 1, 2].map((i) => blue[i] + (bright[i] - blue[i]) * c) as unknown as Vector;
  }
};
