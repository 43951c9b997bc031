import { execFileSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { inArena, inRoom, takePlane } from '../kernels/arena';
import { randomStream } from '../random';
import { layerResponse, layersReach, splineSmooth, throughLayers } from './a-trous';
import { wholeField } from './field';

const [WIDTH, HEIGHT, LAYERS] = [61, 47, 4];
const field = wholeField({ x: 0, y: 0, width: WIDTH, height: HEIGHT });
const random = randomStream(19);
const plane = Float32Array.from({ length: WIDTH * HEIGHT }, () => random());

function taken(from: Float32Array, around = field): { layers: Float32Array[]; rest: Float32Array } {
  const layers: Float32Array[] = [];
  const rest = throughLayers(from, around, LAYERS, (layer) => layers.push(layer.slice()));
  return { layers, rest: rest.slice(0, from.length) };
}

/** The transform by its definition: the whole 5 × 5 of the spline at each place, in doubles; and the responses, from one sample. */
const PYTHON = `
import sys, numpy as np
w, h, count = ${WIDTH}, ${HEIGHT}, ${LAYERS}
def smooth(c, step):
    k = np.array([1, 4, 6, 4, 1]) / 16.0
    p = np.pad(c, 2 * step, mode='edge')
    out = np.zeros_like(c)
    for j in range(5):
        for i in range(5):
            out += k[j] * k[i] * p[j * step:j * step + c.shape[0], i * step:i * step + c.shape[1]]
    return out
c = np.frombuffer(sys.stdin.buffer.read(), np.float32).astype(float).reshape(h, w)
found = []
for n in range(count):
    s = smooth(c, 2 ** n)
    found.append(c - s)
    c = s
found.append(c)
one = np.zeros((331, 331)); one[165, 165] = 1
powers = []
for n in range(6):
    s = smooth(one, 2 ** n)
    powers.append(np.sqrt(((one - s) ** 2).sum()))
    one = s
sys.stdout.buffer.write(np.concatenate([np.array(found).ravel(), powers]).astype(np.float32).tobytes())`;

describe('the à trous transform', () => {
  it.each([
    [61, 47],
    [128, 64],
    [1, 1],
    [3, 100],
    [200, 2]
  ])(
    'smooths %i × %i samples to the same bits whether they lie in the kernels’ memory or not',
    (width, height) => {
      const samples = Float32Array.from({ length: width * height }, () => random() - 0.2);
      const whole = wholeField({ x: 0, y: 0, width, height });
      const some = { ...whole, present: samples.map((v) => (v < 0 ? 0 : 1)) };
      for (const around of [whole, some])
        for (const step of [1, 2, 4, 16, 64]) {
          const slow = new Float32Array(samples.length);
          splineSmooth(samples, slow, around, step);
          inRoom(() => {
            const [from, to] = [takePlane(samples.length), takePlane(samples.length)];
            expect(inArena([from, to])).toBe(true);
            from.set(samples);
            splineSmooth(from, to, around, step);
            expect(to).toEqual(slow);
          }, 2 ** 20);
        }
    }
  );

  it('adds up to the plane again', () => {
    const { layers, rest } = taken(plane);
    plane.forEach((v, i) => expect(layers.reduce((sum, layer) => sum + layer[i], rest[i])).toBeCloseTo(v, 6));
  });

  it.skipIf(!existsSync('/usr/lib/python3/dist-packages/numpy'))(
    'is what numpy makes of its definition, and so are its responses to noise',
    () => {
      const out = execFileSync('/usr/bin/python3', ['-c', PYTHON], {
        input: Buffer.from(plane.buffer),
        maxBuffer: 2 ** 24
      });
      const theirs = new Float32Array(out.buffer.slice(out.byteOffset, out.byteOffset + out.length));
      const { layers, rest } = taken(plane);
      [...layers, rest].forEach((layer, k) =>
        layer.forEach((v, i) => expect(Math.abs(v - theirs[k * plane.length + i])).toBeLessThan(1e-5))
      );
      theirs
        .subarray((LAYERS + 1) * plane.length)
        .forEach((power, k) => expect(Math.abs(layerResponse(k) / power - 1)).toBeLessThan(2e-3));
    }
  );

  it('knows how far it reaches: a sample further away changes nothing, one as far away does', () => {
    const far = plane.slice();
    const [x, y] = [30, 23];
    for (const [count, away] of [
      [1, 2],
      [2, 6],
      [3, 14]
    ]) {
      expect(layersReach(count)).toBe(away);
      const at = (from: Float32Array): number =>
        throughLayers(from, field, count, () => undefined)[y * WIDTH + x];
      const before = at(plane);
      far.set(plane);
      far[y * WIDTH + x + away + 1] += 1;
      expect(at(far)).toBe(before);
      far[y * WIDTH + x + away] += 1000;
      expect(at(far)).not.toBe(before);
    }
  });

  it('leaves missing samples out: an even plane stays even beside them', () => {
    const present = Float32Array.from(plane, (_, i) => (i % 7 === 0 || i % WIDTH < 20 ? 0 : 1));
    const even = Float32Array.from(plane, (_, i) => (present[i] > 0 ? 0.3 : 0));
    const out = new Float32Array(even.length);
    for (const step of [1, 2, 8]) {
      splineSmooth(even, out, { ...field, present }, step);
      out.forEach((v, i) => present[i] > 0 && expect(v).toBeCloseTo(0.3, 5));
    }
  });

  it('of one sample is nothing but the rest', () => {
    const one = wholeField({ x: 0, y: 0, width: 1, height: 1 });
    const found: number[] = [];
    const rest = throughLayers(Float32Array.of(0.7), one, 3, ([v]) => found.push(v));
    found.forEach((v) => expect(v).toBeCloseTo(0, 6));
    expect(rest[0]).toBeCloseTo(0.7, 6);
  });
});
