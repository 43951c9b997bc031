import { describe, expect, it } from 'vitest';
import { randomStream, scattered } from '../random';
import { commonSky } from './common-sky';
import { seenOf } from './seen';

const [WIDTH, HEIGHT] = [640, 480];
const SKY = [0.02, 0.031, 0.024];
const SIGMA = 0.002;

/** How far each sample lies from its level, in σ. */
const NOISE = SKY.map((_, c) => {
  const random = randomStream(7 + c);
  return Float32Array.from({ length: WIDTH * HEIGHT }, () => scattered(random));
});

/**
 * A scattered sky with an even hydrogen cloud over 45 % of it, in red alone.
 * @param put what stands at a place instead of what is there
 */
const picture = (put: (x: number, y: number, value: number, channel: number) => number): Float32Array[] =>
  SKY.map((level, c) =>
    NOISE[c].map((noise, i) => {
      const [x, y] = [i % WIDTH, Math.floor(i / WIDTH)];
      const cloud = c === 0 && x > 0.55 * WIDTH ? 0.03 : 0;
      return put(x, y, level + cloud + SIGMA * noise, c);
    })
  );

/** How far the sky is found from where it was put, in σ of a sample, the furthest of the three. */
const farthest = (planes: Float32Array[], sky: readonly number[] = SKY): number => {
  const found = commonSky(
    seenOf(WIDTH, HEIGHT, planes as [Float32Array, Float32Array, Float32Array]),
    planes
  );
  return Math.max(...found.map((level, c) => Math.abs(level - sky[c]) / SIGMA));
};

describe('the sky at the same places in all channels', () => {
  it('is found beside a cloud that is in one channel alone', () => {
    expect(farthest(picture((_x, _y, v) => v))).toBeLessThan(0.1);
  });

  const border = (size: number, value: number) => (x: number, y: number, v: number) =>
    x < size || y < size || x >= WIDTH - size || y >= HEIGHT - size ? value : v;

  for (const size of [3, 8, 16, 31, 33, 64])
    it(`is found within a black border of ${size} px`, () => {
      expect(farthest(picture(border(size, 0)))).toBeLessThan(0.15);
    });

  for (const size of [16, 33]) {
    it(`is found within a white border of ${size} px`, () => {
      expect(farthest(picture(border(size, 1)))).toBeLessThan(0.15);
    });

    it(`is found within a missing border of ${size} px`, () => {
      expect(farthest(picture(border(size, Number.NaN)))).toBeLessThan(0.15);
    });
  }

  it('is found beside black corners of a turned picture', () => {
    expect(farthest(picture((x, y, v) => (x + 2 * y < 300 ? 0 : v)))).toBeLessThan(0.15);
  });

  it('is not taken for a dark lane of dust across it', () => {
    const lane = (x: number, y: number): number => (Math.abs(y - 0.3 * x - 150) < 12 ? 0.8 : 1);
    expect(farthest(picture((x, y, v) => v * lane(x, y)))).toBeLessThan(0.5);
  });

  it('is found in a picture of few values, whose sky is even in most places', () => {
    const coarse = (v: number): number => Math.round(v * 255) / 255;
    const sky = [5, 8, 6].map((v) => v / 255);
    const few = (_x: number, y: number, v: number, c: number): number =>
      y < 100 ? coarse(v + 0.2) : coarse(sky[c] + 0.15 * (v - SKY[c]));
    expect(farthest(picture(few), sky)).toBeLessThan(0.1);
  });
});
