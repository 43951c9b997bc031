import { describe, expect, it } from 'vitest';
import { develop, moved } from './camera';
import { samples } from './list';
import { sampleShot } from './samples';
import { trace } from './trace';

const WIDTH = 60;
const HEIGHT = 40;

/** Mean of each channel of a small rendering, in a window given in parts of the picture. */
function means(id: string, x0: number, y0: number, x1: number, y1: number): number[] {
  const { scene, camera, finish } = sampleShot(id);
  const coded = develop(trace(scene, WIDTH, HEIGHT), WIDTH, HEIGHT, { ...camera, grain: 0 });
  finish?.(coded, WIDTH, HEIGHT);
  const sums = [0, 0, 0];
  let count = 0;
  for (let y = Math.floor(y0 * HEIGHT); y < y1 * HEIGHT; y++) {
    for (let x = Math.floor(x0 * WIDTH); x < x1 * WIDTH; x++, count++) {
      for (let c = 0; c < 3; c++) sums[c] += coded[(y * WIDTH + x) * 3 + c];
    }
  }
  return sums.map((s) => s / count);
}

describe('the samples show what is wrong with them', () => {
  it('jug: the glaze is rose on the lamp’s side and near neutral on the daylight side', () => {
    const [lr, lg] = means('jug-under-lamps', 0.33, 0.5, 0.38, 0.65);
    const [dr, dg] = means('jug-under-lamps', 0.54, 0.5, 0.59, 0.6);
    expect(lr - lg).toBeGreaterThan(0.1);
    expect(Math.abs(dr - dg)).toBeLessThan(0.05);
  });

  it('quench tank: red is far below green and blue', () => {
    const [r, g, b] = means('quench-tank', 0, 0, 1, 1);
    expect(r).toBeLessThan(0.45 * g);
    expect(r).toBeLessThan(0.45 * b);
  });

  it('drying yard: red leads, green trails, and the sky is dark', () => {
    const [r, g, b] = means('drying-yard', 0, 0, 1, 1);
    expect(r).toBeGreaterThan(b);
    expect(b).toBeGreaterThan(g);
    const sky = means('drying-yard', 0, 0, 1, 0.06);
    expect(Math.max(...sky)).toBeLessThan(0.5);
  });

  it.each(['old-print', 'old-print-two'])(
    '%s: faded towards red, black lifted, on paper that was white',
    (id) => {
      const [r, g, b] = means(id, 0, 0, 1, 1);
      expect(r).toBeGreaterThan(g + 0.08);
      expect(g).toBeGreaterThan(b + 0.05);
      const [pr, , pb] = means(id, 0, 0, 1, 0.02);
      expect(pr - pb).toBeGreaterThan(0.2);
    }
  );

  it('glaze tiles: the grey scale is grey and rises', () => {
    const patches = [0.095, 0.33, 0.49, 0.645, 0.722].map((x) =>
      means('glaze-tiles', x, 0.81, x + 0.025, 0.86)
    );
    patches.forEach((rgb) => expect(Math.max(...rgb) - Math.min(...rgb)).toBeLessThan(0.02));
    patches.slice(1).forEach(([r], i) => expect(r).toBeGreaterThan(patches[i][0] + 0.05));
  });

  it('woven cloth: false colours come and go over grey', () => {
    const coded = new Float32Array(240 * 160 * 3).fill(0.5);
    sampleShot('woven-cloth').finish!(coded, 240, 160);
    const off = Array.from({ length: 240 * 160 }, (_, i) => coded[3 * i] - coded[3 * i + 1]);
    expect(Math.max(...off)).toBeGreaterThan(0.03);
    expect(Math.min(...off)).toBeLessThan(-0.03);
    expect(Math.abs(off.reduce((a, b) => a + b, 0) / off.length)).toBeLessThan(0.005);
  });

  it('harbour in haze: little between dark and light, orange against grey', () => {
    const thirds = [0, 1, 2].map((i) => means('harbour-in-haze', 0, i / 3, 1, (i + 1) / 3)[1]);
    expect(Math.max(...thirds) - Math.min(...thirds)).toBeLessThan(0.25);
    const [r, , b] = means('harbour-in-haze', 0.42, 0.76, 0.5, 0.9);
    expect(r - b).toBeGreaterThan(0.1);
  });

  it('workshop window: a bright window in a dark room, more than one frame can hold', () => {
    const window = means('workshop-window', 0.23, 0.15, 0.3, 0.25);
    const room = means('workshop-window', 0.6, 0.1, 0.66, 0.3);
    expect(Math.min(...window)).toBeGreaterThan(0.95);
    expect(Math.max(...room)).toBeLessThan(0.25);
    const { exposures, files } = sampleShot('workshop-window');
    expect(exposures).toHaveLength(files.length);
    // Two stops apart: four times the light.
    expect(exposures!.map((e) => e.gain)).toEqual([0.25, 1, 4]);
  });

  it('a camera that moved shows the picture further right and down, between pixels too', () => {
    const light = new Float32Array(5 * 4 * 3);
    light.fill(1, (1 * 5 + 2) * 3, (1 * 5 + 2) * 3 + 3);
    const at = (out: Float32Array, x: number, y: number): number => out[(y * 5 + x) * 3];
    expect(at(moved(light, 5, 4, [1, 2]), 3, 3)).toBe(1);
    const half = moved(light, 5, 4, [0.5, 0]);
    expect([at(half, 2, 1), at(half, 3, 1)]).toEqual([0.5, 0.5]);
  });

  it('clay figure: lit from the window’s side, its red channel the lightest', () => {
    const lit = means('clay-figure', 0.48, 0.45, 0.52, 0.55);
    const shade = means('clay-figure', 0.64, 0.45, 0.69, 0.55);
    expect(lit[0]).toBeGreaterThan(1.5 * shade[0]);
    expect(lit[0]).toBeGreaterThan(lit[2] + 0.15);
  });

  it('is the same each time', () => {
    const { scene } = sampleShot('jug-under-lamps');
    expect(trace(scene, 24, 16)).toEqual(trace(scene, 24, 16));
    expect(samples.map((s) => s.id)).toHaveLength(14);
  });
});
