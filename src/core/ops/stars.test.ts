import { describe, expect, it } from 'vitest';
import { modelOf, type Planes } from '../colour';
import { randomStream } from '../random';
import { wholeField } from '../spatial/field';
import { givenFor } from './op';
import { stars, type StarsParams } from './stars';

const [WIDTH, HEIGHT] = [60, 50];
const n = WIDTH * HEIGHT;
/** Samples that are missing: in a disc, at its rim, and far from any. */
const MISSING = [20 * WIDTH + 20, 20 * WIDTH + 31, 45 * WIDTH + 3];

function planesOf(grey: boolean, missing: boolean): Planes {
  const random = randomStream(8);
  const planes = [0, 1, 2].map((c) => {
    const plane = Float32Array.from({ length: n }, () => 0.1 * (c + 1) + 0.02 * random());
    for (const i of missing ? MISSING : []) plane[i] = Number.NaN;
    return plane;
  });
  return (grey ? planes.map(() => planes[0].slice()) : planes) as unknown as Planes;
}

function made(keep: StarsParams['keep'], planes: Planes, missing: boolean): Float32Array[] {
  const params = stars.params.parse({ keep, grow: 0 });
  const found = [
    { x: 20.5, y: 20.5, radius: 6, height: 1 },
    { x: 40, y: 30.25, radius: 4, height: 1 }
  ];
  const coefficients = stars.prepare(params, givenFor(modelOf('rgb')), { stars: found, more: 0 });
  const present = new Float32Array(n).fill(1);
  for (const i of MISSING) present[i] = 0;
  const out = planes.map(() => new Float32Array(n)) as unknown as Planes;
  const field = wholeField({ x: 0, y: 0, width: WIDTH, height: HEIGHT });
  const around = { scale: 1, taken: [], absent: [], encoding: 'linear' as const, planes };
  stars.kernel({ ...field, ...around, ...(missing && { present }) }, coefficients, out);
  return [...out];
}

describe.each([
  ['colours', false],
  ['greys', true]
])('stars taken out of %s', (_, grey) => {
  it.each([
    ['are all there', false],
    ['are missing here and there', true]
  ])('and they add up to the very samples where these %s', (_, missing) => {
    const planes = planesOf(grey, missing);
    const [rest, light] = (['rest', 'stars'] as const).map((keep) => made(keep, planes, missing));
    let changed = 0;
    planes.forEach((plane, c) => {
      for (let i = 0; i < n; i++) {
        expect(Math.fround(rest[c][i] + light[c][i])).toBe(plane[i]);
        if (light[c][i] !== 0 && plane[i] === plane[i]) changed++;
      }
    });
    // Nearly all of the two discs’ 163 samples, and none beside them.
    expect(changed).toBeGreaterThan(3 * 150);
    expect(changed).toBeLessThanOrEqual(3 * 163);
    for (const i of missing ? MISSING : [])
      expect([rest, light].flatMap((one) => one.map((plane) => plane[i]))).toEqual(Array(6).fill(NaN));
  });
});
