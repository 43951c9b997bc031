import { describe, expect, it } from 'vitest';
import { randomStream, scattered } from '../random';
import { finished } from '../testing';
import { noiseCurves, sigmaAt } from './noise-curve';

const [WIDTH, HEIGHT] = [512, 256];

describe('noise by the value of a plane', () => {
  it.each(Array.from({ length: 12 }, (_, seed) => seed))(
    'is what was put in from the darkest to the brightest, within 10 %% (seed %d)',
    (seed) => {
      const random = randomStream(900 + seed);
      // A slope on which σ falls to a fifth, as it does in a stretched picture.
      const dark = seed < 6 ? 0.05 + 0.1 * random() : -0.3 * random();
      const slope = (i: number): number => (i % WIDTH) / WIDTH;
      const sigma = (along: number): number => 0.03 - 0.024 * along;
      const plane = new Float32Array(WIDTH * HEIGHT).map(
        (_, i) => dark + 0.7 * slope(i) + sigma(slope(i)) * scattered(random)
      );
      const [curve] = finished(noiseCurves({ width: WIDTH, height: HEIGHT }, () => [plane]));
      for (const along of [0.05, 0.25, 0.5, 0.75, 0.95])
        expect(Math.abs(sigmaAt(curve, dark + 0.7 * along) / sigma(along) - 1)).toBeLessThan(0.1);
    }
  );
});
