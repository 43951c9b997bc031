import { fractal, noise } from '../noise';
import type { Body, Surface, Vector } from '../scene';

/** Glaze: an even colour that pools a little darker here and there, with crawling specks. */
export const glaze =
  (colour: Vector, gloss = 1): Body['surface'] =>
  (x, y, z): Surface => {
    const pool = 1 + 0.05 * fractal(x * 2.2, y * 3.1, z * 2.2, 3);
    const speck = noise(x * 46, y * 46, z * 46) > 0.86 ? 0.86 : 1;
    return { colour: [colour[0] * pool * speck, colour[1] * pool * speck, colour[2] * pool * speck], gloss };
  };

/** Fired clay with throwing rings and grit. */
export const clay =
  (colour: Vector): Body['surface'] =>
  (x, y, z): Surface => {
    const rings = 1 + 0.05 * Math.sin(y * 55 + 2 * noise(x * 3, y * 2, z * 3));
    const grit = 1 + 0.16 * fractal(x * 30, y * 30, z * 30, 2);
    const tone = rings * grit;
    return { colour: [colour[0] * tone, colour[1] * tone, colour[2] * tone], gloss: 0.04 };
  };

export const wood =
  (dark: Vector, light: Vector) =>
  (x: number, z: number): Surface => {
    const board = Math.floor(z / 1.15);
    const along = x * 0.35 + board * 7.3;
    const rings =
      0.5 +
      0.5 * Math.sin(14 * (z * 1.1 + 0.35 * fractal(along, z * 2, board, 3)) + 5 * noise(along, board, 1));
    const fibre = 0.5 + 0.5 * noise(x * 1.6 + board * 3, z * 60, board);
    const t = 0.65 * rings + 0.35 * fibre;
    const seam = Math.abs(z / 1.15 - Math.round(z / 1.15)) < 0.012 ? 0.45 : 1;
    const colour = dark.map((d, c) => (d + (light[c] - d) * t) * seam) as unknown as Vector;
    return { colour, gloss: 0.12 };
  };

export const plaster =
  (colour: Vector) =>
  (x: number, y: number): Surface => {
    const t = 1 + 0.09 * fractal(x * 0.9, y * 0.9, 4, 5) + 0.05 * fractal(x * 14, y * 14, 9, 2);
    return { colour: [colour[0] * t, colour[1] * t, colour[2] * t], gloss: 0 };
  };

/** Matt linen, a little uneven. */
export const linen =
  (colour: Vector): Body['surface'] =>
  (x, y, z): Surface => {
    const thread = 1 + 0.05 * Math.sin(x * 160) * Math.sin(z * 160) + 0.04 * fractal(x * 5, y * 5, z * 5, 3);
    return { colour: [colour[0] * thread, colour[1] * thread, colour[2] * thread], gloss: 0 };
  };
