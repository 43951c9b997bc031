import { describe, expect, it } from 'vitest';
import { inArena, inRoom, takePlane } from '../kernels/arena';
import { randomStream, scattered } from '../random';
import { evaluate } from '../path/evaluate';
import { denoisePlane } from '../spatial/denoise';
import { shrinkBlocks } from '../spatial/shrink-blocks';
import { floatFrame, greyFrame, planOf, render, softFrame, stepOf } from '../testing';

const random = randomStream(61);

describe('blocks shrunk in the cosine transform', () => {
  const [width, height] = [52, 40];
  const noise = { from: 0, to: 1, sigmas: [0.02, 0.05, 0.03] };
  const plane = Float32Array.from(
    { length: width * height },
    (_, i) => 0.5 + 0.3 * Math.sin((i % width) / 5) + 0.04 * scattered(random)
  );
  const pilot = plane.map((v, i) => 0.9 * v + 0.02 * Math.cos(i / 7));

  it.each([
    [null, 1],
    [pilot, 1],
    [null, 2],
    [pilot, 2]
  ] as const)('come to the same four at a time, with a pilot or without (%#)', (guide, rows) => {
    const made = (take: (n: number) => Float32Array): Float32Array => {
      const at = [plane, ...(guide ? [guide] : [])].map((from) => {
        const to = take(from.length);
        to.set(from);
        return to;
      });
      const [sum, weights] = [take(plane.length), take(plane.length)];
      sum.fill(0);
      weights.fill(0);
      shrinkBlocks(at[0], at[1] ?? null, sum, weights, { width, height }, noise, 2.7, rows);
      return sum.map((v, i) => v / weights[i]);
    };
    const plain = made((n) => new Float32Array(n));
    const fast = inRoom(() => made((n) => takePlane(n).subarray(0, n)));
    plain.forEach((v, i) => {
      if (v === v) expect(Math.abs(fast[i] - v)).toBeLessThan(2e-6);
    });
  });

  it('of a plane without noise give it back', () => {
    const [sum, weights] = [0, 1].map(() => new Float32Array(plane.length));
    shrinkBlocks(plane, null, sum, weights, { width, height }, { from: 0, to: 1, sigmas: [0, 0] }, 2.7, 1);
    for (let y = 8; y < height - 8; y++)
      for (let i = y * width + 8; i < (y + 1) * width - 8; i++)
        expect(sum[i] / weights[i]).toBeCloseTo(plane[i], 5);
  });
});

describe.each([1, 2] as const)('noise of a plane, blocks at every row or every second (%i)', (rows) => {
  it.each([
    [0, 0, 97, 61],
    [3, 5, 40, 33],
    [7, 2, 3, 2],
    [1, 1, 1, 1]
  ])('comes out the same in the kernels’ memory and outside, at %i, %i, %i × %i', (x, y, width, height) => {
    const n = width * height;
    const plane = Float32Array.from(
      { length: n },
      (_, i) => 0.5 + 0.2 * Math.sin(i / 9) + 0.05 * scattered(random)
    );
    const how = { noise: { from: 0.2, to: 0.8, sigmas: [0.04, 0.07] }, threshold: 2.5, scales: 3, rows };
    const plain = new Float32Array(n);
    denoisePlane({ x, y, width, height, plane }, plain, how, () => undefined);
    const fast = inRoom(
      () => {
        const [at, out] = [takePlane(n), takePlane(n)];
        at.set(plane);
        denoisePlane({ x, y, width, height, plane: at }, out, how, () => undefined);
        expect(inArena([at, out])).toBe(true);
        return out.slice(0, n);
      },
      8 * 2 ** 20
    );
    plain.forEach((v, i) => expect(Math.abs(fast[i] - v)).toBeLessThan(2e-6));
  });
});

describe('taking noise out', () => {
  const [WIDTH, HEIGHT] = [430, 90];
  const noisy = greyFrame(
    WIDTH,
    HEIGHT,
    (x, y) => 0.4 + 0.2 * Math.sin(x / 17) * Math.cos(y / 23) + 0.02 * scattered(random)
  );

  const coloured = floatFrame(
    WIDTH,
    HEIGHT,
    Float32Array.from(
      { length: 3 * WIDTH * HEIGHT },
      (_, i) => 0.4 + 0.2 * Math.sin(i / (40 + 20 * (i % 3))) + 0.02 * scattered(random)
    )
  );

  it.each([
    [8, noisy, null],
    [16, noisy, null],
    [32, noisy, null],
    [32, coloured, { model: 'lab', channels: ['l', 'a', 'b'] }]
  ] as const)(
    'up to %i px comes to the same in parts, whatever their corners (%#)',
    (coarsest, frame, on) => {
      const plan = planOf(frame, [stepOf('denoise', { coarsest }, on ? { on } : {})]);
      const all = evaluate(plan, 0, { x: 0, y: 0, width: WIDTH, height: HEIGHT }).planes[0];
      for (const rect of [
        { x: 0, y: 0, width: 40, height: 30 },
        { x: 201, y: 33, width: 27, height: 45 },
        { x: 383, y: 59, width: 47, height: 31 }
      ]) {
        const [part] = evaluate(plan, 0, rect).planes;
        for (let y = 0; y < rect.height; y++)
          for (let x = 0; x < rect.width; x++)
            expect(part[y * rect.width + x]).toBe(all[(rect.y + y) * WIDTH + rect.x + x]);
      }
    }
  );

  it('takes nothing at a strength of 0, and less than all at less; each channel its own', () => {
    const plain = render(noisy, []);
    const rms = (planes: readonly Float32Array[], c: number): number =>
      Math.sqrt(planes[c].reduce((sum, v, i) => sum + (v - plain[c][i]) ** 2, 0) / plain[c].length);
    expect(render(noisy, [stepOf('denoise', { strength: 0 })])).toEqual(plain);
    const each = render(noisy, [stepOf('denoise', { strength: { r: 0, g: 0.5, b: 1 } })]);
    expect(each[0]).toEqual(plain[0]);
    expect(rms(each, 1)).toBeLessThan(0.9 * rms(each, 2));
    // Those that are not named have all of it.
    expect(rms(render(noisy, [stepOf('denoise', { strength: { r: 0 } })]), 2)).toBe(rms(each, 2));
    expect(rms(each, 2)).toBeGreaterThan(0.018);
    expect(rms(each, 2)).toBeLessThan(0.021);
  });

  it('keeps more of what is faint with more detail', () => {
    // A net of lines as strong as the noise.
    const net = greyFrame(200, 160, (x, y) => 0.5 + 0.02 * Math.cos((x + y) / 2) + 0.02 * scattered(random));
    const strength = (detail: number): number => {
      const [plane] = render(net, [stepOf('denoise', { detail })]);
      return plane.reduce(
        (sum, v, i) => sum + (v - 0.5) * Math.cos(((i % 200) + Math.floor(i / 200)) / 2),
        0
      );
    };
    const full = 0.02 * 0.5 * 200 * 160;
    expect(strength(2) / full).toBeGreaterThan(strength(1) / full);
    expect(strength(1) / full).toBeGreaterThan(strength(0) / full);
    expect(strength(2) / full).toBeGreaterThan(0.8);
  });

  it('keeps alpha, missing samples and their neighbours: a gap is no edge', () => {
    const gap = greyFrame(160, 120, (x, y) =>
      x > 60 && x < 80 && y > 40 && y < 60 ? Number.NaN : 0.5 + 0.02 * scattered(random)
    );
    const [plane] = render(gap, [stepOf('denoise')]);
    const [came] = render(gap, []);
    came.forEach((v, i) => expect(Number.isNaN(plane[i])).toBe(Number.isNaN(v)));
    for (let y = 30; y < 70; y++)
      for (let x = 50; x < 90; x++) {
        const v = plane[y * 160 + x];
        if (v === v) expect(Math.abs(v - 0.5)).toBeLessThan(0.016);
      }
  });

  it.each([
    [1, 1],
    [1, 40],
    [3, 2],
    [17, 9]
  ])('leaves a picture of %i × %i one of numbers', (width, height) => {
    const planes = render(
      greyFrame(width, height, () => 0.3 + 0.01 * scattered(random)),
      [stepOf('denoise')]
    );
    for (const v of planes[0]) expect(Math.abs(v - 0.3)).toBeLessThan(0.06);
  });

  it('leaves a picture without noise as it is, but for what is as faint as its own grain', () => {
    const frame = softFrame(160, 120);
    const [before, after] = [render(frame, [])[0], render(frame, [stepOf('denoise', { strength: 0.25 })])[0]];
    before.forEach((v, i) => expect(Math.abs(after[i] - v)).toBeLessThan(0.02));
  });
});
