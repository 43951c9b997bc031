import { fractal } from '../noise';

/** Light of an object of the sky over a grid of every so many pixels, to be read between them. */
export type Glow = (x: number, y: number) => number;

const STEP = 4;

/** A smooth function of a place, computed on a coarse grid and read by Catmull–Rom splines. */
export function onGrid(width: number, height: number, light: Glow): Float32Array {
  const [columns, rows] = [Math.ceil(width / STEP) + 4, Math.ceil(height / STEP) + 4];
  const coarse = new Float32Array(columns * rows);
  for (let j = 0; j < rows; j++)
    for (let i = 0; i < columns; i++) coarse[j * columns + i] = light((i - 1) * STEP, (j - 1) * STEP);
  const weights = Array.from({ length: STEP }, (_, k) => {
    const t = k / STEP;
    return [
      0.5 * (-t + 2 * t * t - t ** 3),
      0.5 * (2 - 5 * t * t + 3 * t ** 3),
      0.5 * (t + 4 * t * t - 3 * t ** 3),
      0.5 * (t ** 3 - t * t)
    ];
  });
  const out = new Float32Array(width * height);
  for (let y = 0; y < height; y++) {
    const wy = weights[y % STEP];
    const row = Math.floor(y / STEP);
    for (let x = 0; x < width; x++) {
      const wx = weights[x % STEP];
      const column = Math.floor(x / STEP);
      let sum = 0;
      for (let j = 0; j < 4; j++) {
        const at = (row + j) * columns + column;
        sum +=
          wy[j] *
          (wx[0] * coarse[at] + wx[1] * coarse[at + 1] + wx[2] * coarse[at + 2] + wx[3] * coarse[at + 3]);
      }
      out[y * width + x] = Math.max(0, sum);
    }
  }
  return out;
}

const bell = (r: number, width: number): number => Math.exp(-0.5 * (r / width) ** 2);
const smoothstep = (a: number, b: number, v: number): number => {
  const t = Math.min(1, Math.max(0, (v - a) / (b - a)));
  return t * t * (3 - 2 * t);
};

/** Folds of gas: noise whose place is moved by noise, its ridges drawn out. */
function folds(u: number, v: number, seed: number): number {
  const [du, dv] = [fractal(u, v, seed, 4), fractal(u + 7.3, v - 3.1, seed, 4)];
  const ridge = 1 - Math.abs(fractal(1.7 * u + 1.4 * du, 1.7 * v + 1.4 * dv, seed + 3, 6)) * 2.4;
  return Math.max(0, ridge) ** 3;
}

/**
 * The Lantern: a shell of gas about a hollow, lit from within, with a dark bar across it. Sulphur stands at the rim, hydrogen in all
 * of it, oxygen within.
 */
export function lantern(line: 'S' | 'H' | 'O', width: number, height: number): Glow {
  const size = Math.min(width, height);
  return (x, y) => {
    const [u, v] = [(x - 0.53 * width) / size, (y - 0.47 * height) / size];
    const warp = 0.16 * fractal(3 * u, 3 * v, 2, 4);
    const r = Math.hypot(u * 0.92, v * 1.12) + warp;
    const shell = bell(r - 0.3, 0.085);
    const inside = bell(r, 0.2);
    // Beyond its outermost gas there is nothing but sky.
    const edge = smoothstep(0.62, 0.42, Math.hypot(u, v));
    const wide = bell(r, 0.3) * (0.5 + 0.5 * fractal(2 * u, 2 * v, 9, 4));
    const gas = folds(2.6 * u, 2.6 * v, 21);
    const bar =
      1 - 0.85 * bell(v - 0.12 * Math.sin(6 * u) - 0.02, 0.028) * smoothstep(0.34, 0.12, Math.abs(u));
    const pillars =
      1 - 0.5 * smoothstep(0.14, 0.5, fractal(5 * u + 3, 2.2 * v, 5, 5) + 0.3 * bell(r - 0.2, 0.1));
    const share = { S: [0.55, 0.05, 0.1], H: [1, 0.5, 0.32], O: [0.18, 0.8, 0.1] }[line];
    return (
      edge *
      bar *
      pillars *
      (share[0] * shell * (0.25 + 1.3 * gas) + share[1] * inside * (0.45 + 0.5 * gas) + share[2] * wide)
    );
  };
}

/** The Quern: a spiral galaxy seen slantwise, with a yellow bulge, blue arms, dust lanes, and red knots of hydrogen. */
export function quern(filter: 'L' | 'R' | 'G' | 'B' | 'H', width: number, height: number): Glow {
  const size = Math.min(width, height);
  const turn = 0.55;
  return (x, y) => {
    const [dx, dy] = [(x - 0.48 * width) / size, (y - 0.52 * height) / size];
    const u = dx * Math.cos(turn) + dy * Math.sin(turn);
    const v = (dy * Math.cos(turn) - dx * Math.sin(turn)) / 0.52;
    const r = Math.hypot(u, v) + 1e-6;
    const angle = Math.atan2(v, u);
    const winding = angle - 3.1 * Math.log(r + 0.04) + 0.7 * fractal(4 * u, 4 * v, 4, 4);
    const arms = (0.5 + 0.5 * Math.cos(2 * winding)) ** 2.5;
    const lane = (0.5 + 0.5 * Math.cos(2 * winding + 0.75)) ** 8;
    const edge = smoothstep(0.6, 0.32, r);
    const bulge = Math.exp(-r / 0.035) * 2.2 + Math.exp(-r / 0.11) * 0.35 * edge;
    const disc = Math.exp(-r / 0.17) * edge;
    const clumps = Math.max(0, 0.35 + 1.5 * fractal(14 * u, 14 * v, 8, 5));
    const dust = 1 - 0.75 * lane * smoothstep(0.03, 0.1, r) * Math.max(0, 0.5 + fractal(7 * u, 7 * v, 6, 5));
    const young = disc * arms * clumps * smoothstep(0.04, 0.14, r);
    const knots =
      Math.max(0, fractal(26 * u, 26 * v, 12, 4) - 0.16) * 5 * disc * arms * smoothstep(0.06, 0.15, r);
    const old = bulge + 0.25 * disc;
    const mix = {
      L: [1, 1.1, 0.5],
      R: [1.05, 0.72, 1.1],
      G: [0.86, 0.95, 0.25],
      B: [0.58, 1.4, 0.3],
      H: [0.09, 0.08, 1.5]
    }[filter];
    return dust * (mix[0] * old + mix[1] * young + mix[2] * knots);
  };
}
