import { expect, it } from 'vitest';
import { stepOfHouse } from '../document';
import { evaluate } from '../path/evaluate';
import { randomStream, scattered } from '../random';
import { floatFrame, planOf, stepOf } from '../testing';
import { deconvolve } from './deconvolve';
import { ringsSeen } from './rings-seen';

const SIDE = 96;
const whole = { x: 0, y: 0, width: SIDE, height: SIDE };
const random = randomStream(5);
/** One star on an even sky with a little noise. */
const sky = new Float32Array(SIDE * SIDE).map((_, i) => {
  const r2 = ((i % SIDE) - 48.3) ** 2 + (Math.floor(i / SIDE) - 47.6) ** 2;
  return 0.1 + 0.0005 * scattered(random) + 0.6 * Math.exp(-r2 / 4);
});
const frame = floatFrame(
  SIDE,
  SIDE,
  Float32Array.from({ length: 3 * sky.length }, (_, i) => sky[Math.floor(i / 3)])
);
const how = (rings: number): object => ({ psf: { kind: 'gauss', fwhm: 4.2 }, iterations: 25, rings });
const sharpened = (rings: number): Float32Array =>
  evaluate(planOf(frame, [stepOf('deconvolve', how(rings))], [], 'linear'), 0, whole).planes[0];
const held = (rings: number, channels = ['rgb.r', 'rgb.g', 'rgb.b']): Float32Array => {
  const given = { how: deconvolve.params.parse(how(rings)), channels };
  const step = stepOfHouse(ringsSeen.id, given);
  return evaluate(planOf(frame, [step], [], 'linear'), 0, whole).planes[0];
};

it('rings are seen where sharpening holds them, as strongly as it is told to, and nowhere else', () => {
  const [plain, raised, mask] = [sharpened(0), sharpened(0.6), held(0.6)];
  let [lifted, seen] = [0, 0];
  mask.forEach((v, i) => {
    // What is held is lifted there; the star's own light, of which that is taken, is not in it.
    if (raised[i] > plain[i] + 1e-4) {
      lifted++;
      expect(v).toBeGreaterThan(0);
    }
    if (v > 0) seen++;
  });
  expect(lifted).toBeGreaterThan(20);
  expect(seen).toBeLessThan(600);
  expect(Math.max(...mask)).toBeLessThanOrEqual(0.6 + 1e-6);
  expect(Math.max(...mask)).toBeGreaterThan(0.55);
  const far = mask.filter((_, i) => Math.hypot((i % SIDE) - 48, Math.floor(i / SIDE) - 48) > 40);
  expect(far.every((v) => v === 0)).toBe(true);
  expect(held(0).every((v) => v === 0)).toBe(true);
  // Of lightness the light is the same, as it is of a grey picture.
  const ofLight = held(0.6, ['lab.l']);
  const apart = ofLight.filter((v, i) => Math.abs(v - mask[i]) > 0.05);
  expect(apart.length).toBeLessThan(0.02 * mask.length);
  expect(Math.max(...ofLight)).toBeGreaterThan(0.55);
});
