import { exactDecode } from '../../src/core/colour/transfer';
import { modelOf } from '../../src/core/colour';
import { fractal, noise } from '../noise';
import { limbs, type Body, type Scene, type Surface, type Vector } from '../scene';
import { wood } from './materials';

export const COLUMNS = 10;
export const ROWS = 6;
const PITCH = 0.62;
const HALF = 0.27;
const LEFT = -3.98;
const FAR = -2.3;
/** The grey scale stands in front of the tiles. */
const GREY_Z = 1.72;

/** Linear reflectance of a colour of LAB. */
function reflectance(l: number, chroma: number, hue: number): Vector {
  const angle = (hue * Math.PI) / 180;
  const planes = [
    Float32Array.of(l / 100),
    Float32Array.of((chroma * Math.cos(angle)) / 256 + 0.5),
    Float32Array.of((chroma * Math.sin(angle)) / 256 + 0.5)
  ];
  modelOf('lab').kernels.coded.toRgb(planes, planes, 1);
  return planes.map((p) => Math.max(0.012, exactDecode(p[0]))) as unknown as Vector;
}

/** Ten hues from left to right, six tones from the far row to the near one. */
const glazes: readonly Vector[] = Array.from({ length: COLUMNS * ROWS }, (_, i) => {
  const column = i % COLUMNS;
  const row = Math.floor(i / COLUMNS);
  const l = 74 - 8.5 * row;
  const most = 20 + 24 * Math.sin((Math.PI * (row + 1.2)) / 7.4);
  return reflectance(l, most + 7 * noise(column * 3.3, row * 7.1), column * 36 + 4 * noise(column, row * 5));
});

const greys: readonly number[] = Array.from({ length: COLUMNS }, (_, i) => exactDecode(0.1 + (0.8 * i) / 9));

/** All tiles of a board as one body: rounded boxes repeated over a grid. */
function tiles(far: number, rows: number, colourOf: (column: number, row: number) => Surface): Body {
  const width = COLUMNS * PITCH;
  const depth = rows * PITCH;
  const at = (v: number, from: number, count: number): number =>
    Math.min(count - 1, Math.max(0, Math.floor((v - from) / PITCH)));
  return {
    centre: [LEFT + width / 2, 0.05, far + depth / 2],
    radius: Math.hypot(width, depth) / 2 + 0.2,
    distance(x, y, z) {
      const cx = LEFT + (at(x, LEFT, COLUMNS) + 0.5) * PITCH;
      const cz = far + (at(z, far, rows) + 0.5) * PITCH;
      const qx = Math.abs(x - cx) - HALF + 0.035;
      const qy = Math.abs(y - 0.06) - 0.03;
      const qz = Math.abs(z - cz) - HALF + 0.035;
      const outside = Math.hypot(Math.max(qx, 0), Math.max(qy, 0), Math.max(qz, 0));
      return (outside + Math.min(Math.max(qx, qy, qz), 0) - 0.035) * 0.85;
    },
    surface: (x, _, z) => colourOf(at(x, LEFT, COLUMNS), at(z, far, rows))
  };
}

const glazed = tiles(FAR, ROWS, (column, row) => ({ colour: glazes[row * COLUMNS + column], gloss: 0 }));
const greyScale = tiles(GREY_Z, 1, (column) => {
  const v = greys[column];
  return { colour: [v, v, v], gloss: 0 };
});

const skin: Body['surface'] = (x, y, z) => {
  const t = 1 + 0.13 * fractal(x * 7, y * 7, z * 7, 3) + 0.05 * noise(x * 40, y * 40, z * 40);
  return { colour: [0.5 * t, 0.3 * t, 0.2 * t], gloss: 0.03 };
};
const finger = (x: number, z: number, spread: number, length: number): [Vector, Vector, number][] => [
  [[x, 0.34, z], [x + spread * 0.55, 0.42, z - length * 0.55], 0.17],
  [[x + spread * 0.55, 0.42, z - length * 0.55], [x + spread, 0.26, z - length], 0.145]
];
/** A hand of unglazed clay lying on the board, fingers away from us. */
const hand = limbs(
  [
    [[3.1, 0.26, 1.5], [3.16, 0.28, 0.6], 0.34],
    [[3.45, 0.26, 1.5], [3.55, 0.28, 0.6], 0.34],
    [[3.25, 0.25, 2.6], [3.28, 0.27, 1.6], 0.36],
    ...finger(2.9, 0.42, -0.16, 1.1),
    ...finger(3.2, 0.3, -0.02, 1.35),
    ...finger(3.5, 0.34, 0.12, 1.25),
    ...finger(3.78, 0.5, 0.24, 1),
    [[2.92, 0.3, 1.4], [2.45, 0.36, 0.95], 0.18],
    [[2.45, 0.36, 0.95], [2.3, 0.26, 0.55], 0.15]
  ],
  0.16,
  skin
);

/** Sixty glaze tests, a grey scale and a clay hand on a board, in even neutral light. */
export const glazeTiles: Scene = {
  camera: { at: [0.05, 8.6, 4.8], towards: [0.05, 0, -0.05], angle: 0.84 },
  bodies: [glazed, greyScale, hand],
  lights: [
    { at: [-6, 9, 5], colour: [2.6, 2.6, 2.6], size: 1.6 },
    { at: [7, 10, 2], colour: [1.5, 1.5, 1.5], size: 2.2 }
  ],
  ambient: [0.3, 0.3, 0.3],
  floor: wood([0.16, 0.12, 0.085], [0.3, 0.23, 0.165]),
  wall: null,
  wallSurface: () => ({ colour: [0, 0, 0], gloss: 0 }),
  sky: () => [0.2, 0.2, 0.2]
};
