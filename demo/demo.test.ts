import { describe, expect, it } from 'vitest';
import { develop } from './camera';
import { samples } from './list';
import { sampleShot } from './samples';
import { trace } from './trace';

const WIDTH = 60;
const HEIGHT = 40;

/** Mean of each channel of a small rendering, in a window given in parts of the picture. */
function means(id: string, x0: number, y0: number, x1: number, y1: number): number[] {
  const { scene, camera } = sampleShot(id);
  const coded = develop(trace(scene, WIDTH, HEIGHT), WIDTH, HEIGHT, { ...camera, grain: 0 });
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

  it('is the same each time', () => {
    const { scene } = sampleShot('jug-under-lamps');
    expect(trace(scene, 24, 16)).toEqual(trace(scene, 24, 16));
    expect(samples.map((s) => s.id)).toEqual(['jug-under-lamps', 'quench-tank', 'drying-yard']);
  });
});
