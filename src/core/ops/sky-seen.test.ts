import { expect, it } from 'vitest';
import { randomStream } from '../random';
import { stepOfHouse } from '../document';
import { floatFrame, planOf } from '../testing';
import { evaluate } from '../path/evaluate';
import { skySeen } from './sky-seen';

/** A slope of sky with a bright disc on it, and the noise of both. */
const [WIDTH, HEIGHT] = [480, 320];
const slope = (x: number, y: number): number => 0.05 + (0.02 * x) / WIDTH - (0.01 * y) / HEIGHT;
const inDisc = (x: number, y: number, r: number): boolean => Math.hypot(x - 300, y - 160) < r;
const random = randomStream(3);
const frame = floatFrame(
  WIDTH,
  HEIGHT,
  Float32Array.from({ length: 3 * WIDTH * HEIGHT }, (_, i) => {
    const [x, y] = [Math.floor(i / 3) % WIDTH, Math.floor(i / 3 / WIDTH)];
    return slope(x + 0.5, y + 0.5) + (inDisc(x, y, 40) ? 0.2 : 0) + 0.002 * (random() - 0.5);
  })
);
const how = { degree: 1, spare: { above: 3, grow: 6, rounds: 3 } };
const seen = (what: string): Float32Array => {
  const step = stepOfHouse(skySeen.id, skySeen.params.parse({ how, what }));
  const plan = planOf(frame, [step], [], 'linear');
  return evaluate(plan, 0, { x: 0, y: 0, width: WIDTH, height: HEIGHT }).planes[1];
};

it('the model of a sky is seen as a picture: the slope that was put in, under the disc as well', () => {
  const model = seen('model');
  for (const [x, y] of [
    [10, 10],
    [300, 160],
    [470, 310]
  ])
    expect(Math.abs(model[y * WIDTH + x] - slope(x + 0.5, y + 0.5))).toBeLessThan(2e-4);
});

it('what is spared stands on black: the disc and a little about it', () => {
  const spared = seen('spared');
  for (let y = 4; y < HEIGHT; y += 7)
    for (let x = 3; x < WIDTH; x += 7) {
      const there = spared[y * WIDTH + x] !== 0;
      if (inDisc(x, y, 38)) expect(there).toBe(true);
      if (!inDisc(x, y, 56)) expect(there).toBe(false);
    }
});
