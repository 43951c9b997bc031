import { modelOf } from '../src/core/colour';
import { randomStream } from '../src/core/random';
import { fractal, noise } from './noise';

/** What happens to a developed picture afterwards: coded RGB 0…1, interleaved, changed in place. */
export type Finish = (coded: Float32Array, width: number, height: number) => void;

const BORDER = 0.035;
/** What each dye has left: the tone that black and white have faded to. The cyan dye went first. */
const FADED: readonly (readonly [number, number])[] = [
  [0.36, 0.93],
  [0.2, 0.8],
  [0.16, 0.66]
];

/** A colour print after decades in a drawer, scanned: white border, faded dyes, dust and a crease. */
export const oldPrint =
  (seed: number): Finish =>
  (coded, width, height) => {
    const random = randomStream(seed);
    const border = BORDER * height;
    const dust = Array.from({ length: 70 }, () => ({
      x: random() * width,
      y: random() * height,
      r: (0.4 + 1.6 * random() ** 3) * (width / 1200),
      long: random() < 0.15 ? 9 : 1
    }));
    for (let y = 0; y < height; y++) {
      for (let x = 0; x < width; x++) {
        const inside = Math.min(x, y, width - 1 - x, height - 1 - y) - border;
        const picture = Math.min(1, Math.max(0, inside / 2 + 0.5));
        const paper = 0.965 + 0.012 * fractal((x / width) * 60, (y / width) * 60, seed, 3);
        const crease = Math.abs(x - 0.31 * width - 0.05 * y) < 0.9 ? 0.08 : 0;
        for (let c = 0; c < 3; c++) {
          const at = (y * width + x) * 3 + c;
          const [low, high] = FADED[c];
          const tone = paper + (coded[at] - paper) * picture + crease;
          coded[at] = low + (high - low) * Math.min(1, tone);
        }
      }
    }
    for (const { x, y, r, long } of dust) {
      for (let v = Math.floor(y - r * 2); v <= y + r * 2; v++) {
        for (let u = Math.floor(x - r * 2 * long); u <= x + r * 2 * long; u++) {
          if (u < 0 || v < 0 || u >= width || v >= height) continue;
          const bend = long > 1 ? r * Math.sin((u - x) / (r * 4)) : 0;
          const cover = Math.min(1, Math.max(0, r - Math.hypot((u - x) / long, v - y - bend)));
          for (let c = 0; c < 3; c++) {
            const at = (v * width + u) * 3 + c;
            coded[at] += (FADED[c][1] * 0.98 - coded[at]) * cover * 0.7;
          }
        }
      }
    }
  };

/** Parts of the picture, left to right and top to bottom, where the sensor was fooled by the weave. */
export const MOIRE = { left: 0.2, right: 0.72, top: 0.32, bottom: 0.86 } as const;

/** The false colours that a sensor sees in a weave as fine as its own pixels: bands in a and b, none in L. */
export const moire: Finish = (coded, width, height) => {
  const n = width * height;
  const planes = [0, 1, 2].map((c) => Float32Array.from({ length: n }, (_, i) => coded[3 * i + c]));
  const lab = planes.map(() => new Float32Array(n));
  modelOf('lab').kernels.coded.fromRgb(planes, lab, n);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const u = x / width;
      const v = y / width;
      const grey = Math.hypot(lab[1][i] - 0.5, lab[2][i] - 0.5) * 256;
      const patch =
        edge(u, MOIRE.left, MOIRE.right) *
        edge((v * width) / height, MOIRE.top, MOIRE.bottom) *
        (grey < 9 ? 1 : 0);
      if (patch === 0) continue;
      const bend = 0.5 * noise(u * 5, v * 5, 2);
      const strength = patch * (0.75 + 0.35 * noise(u * 8, v * 8, 5));
      lab[1][i] += (13 * strength * Math.sin(2 * Math.PI * (38 * (u + 0.7 * v) + bend))) / 256;
      lab[2][i] += (15 * strength * Math.sin(2 * Math.PI * (38 * (u + 0.7 * v) + bend) + 2.1)) / 256;
    }
  }
  modelOf('lab').kernels.coded.toRgb(lab, planes, n);
  for (let i = 0; i < n; i++) {
    for (let c = 0; c < 3; c++) coded[3 * i + c] = Math.min(1, Math.max(0, planes[c][i]));
  }
};

/** 1 between two places, falling softly to 0 outside. */
function edge(v: number, from: number, to: number): number {
  const t = Math.min(1, Math.max(0, Math.min(v - from, to - v) / 0.06 + 0.5));
  return t * t * (3 - 2 * t);
}
