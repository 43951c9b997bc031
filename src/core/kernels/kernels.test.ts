import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { compileKernels } from '../../../scripts/kernels';
import { fillChannel, labAndLuminance, modelOf, newPlanes } from '../colour';
import { decode, encode, exactDecode, exactEncode } from '../colour/transfer';
import { bend, makeCurve, readCurve } from '../curve';
import { levelsAt } from '../ops/levels';
import { mix } from '../ops/mix';
import { opOf } from '../ops';
import { givenFor } from '../ops/op';
import { wholeField } from '../spatial/field';
import { randomStream } from '../random';
import { inArena, inRoom, simd, takePlane } from './arena';

const N = 10_003;
const random = randomStream(99);
const plain = (low: number, high: number): Float32Array[] =>
  newPlanes(3, N).map((p) => p.map(() => low + (high - low) * random()));

/** The same planes in the arena. */
const arena = (planes: readonly Float32Array[]): Float32Array[] =>
  planes.map((p) => {
    const plane = takePlane(p.length);
    plane.set(p);
    return plane;
  });

const worst = (a: readonly Float32Array[], b: readonly Float32Array[]): number =>
  a.reduce((m, plane, c) => plane.reduce((e, v, i) => Math.max(e, Math.abs(v - b[c][i])), m), 0);

function inOpenArena(run: () => void): void {
  inRoom(run, N * 4 * 24);
}

describe('the SIMD kernels', () => {
  it('are those of their sources', async () => {
    const kept = /'([A-Za-z0-9+/=]+)'/.exec(
      readFileSync(new URL('./binary.ts', import.meta.url), 'utf8')
    )![1];
    expect(Buffer.from(await compileKernels()).toString('base64')).toBe(kept);
  });

  it.each(['lab', 'cmyk'] as const)('give %s as the plain kernels do, both ways', (id) => {
    const model = modelOf(id);
    inOpenArena(() => {
      const rgb = plain(-0.2, 1.3);
      const wanted = newPlanes(model.planes, N);
      model.kernels.coded.fromRgb(rgb, wanted, N);
      const found = arena(newPlanes(model.planes, N));
      const fast = arena(rgb);
      expect(inArena([...found, ...fast])).toBe(true);
      model.kernels.coded.fromRgb(fast, found, N);
      expect(worst(wanted, found)).toBeLessThan(id === 'lab' ? 1.5e-6 : 1e-6);
      const back = newPlanes(3, N);
      model.kernels.coded.toRgb(wanted, back, N);
      model.kernels.coded.toRgb(arena(wanted), fast, N);
      expect(worst(back, fast)).toBeLessThan(1e-5);
      model.kernels.coded.toRgb(found, fast, N);
      if (id === 'lab') expect(worst(rgb, fast)).toBeLessThan(1.5e-5);
    });
  });

  it('lead from LAB back to RGB within 1e-5', () => {
    inOpenArena(() => {
      const rgb = plain(0, 1);
      const fast = arena(rgb);
      const values = arena(newPlanes(3, N));
      modelOf('lab').kernels.coded.fromRgb(fast, values, N);
      modelOf('lab').kernels.coded.toRgb(values, fast, N);
      expect(worst(rgb, fast)).toBeLessThan(1e-5);
    });
  });

  it('code and decode as the formula does', () => {
    inOpenArena(() => {
      const [v] = plain(-1.5, 3);
      const [x] = arena([v]);
      const y = takePlane(N);
      simd.decodePlane(x.byteOffset, y.byteOffset, N);
      v.forEach((c, i) =>
        expect(Math.abs(y[i] - exactDecode(c))).toBeLessThan(1e-6 * Math.max(1, Math.abs(c) ** 2.4))
      );
      simd.encodePlane(x.byteOffset, y.byteOffset, N);
      v.forEach((l, i) => expect(Math.abs(y[i] - exactEncode(l))).toBeLessThan(5e-7 * Math.max(1, l)));
      expect(decode(encode(0.4))).toBeCloseTo(0.4, 6);
    });
  });

  it.each([
    [{ rows: { r: { r: 0.8, g: 0.3, constant: -0.1 }, b: { r: 1 } } }],
    [{ light: 'linear', rows: { g: { r: 0.4, b: 0.6 } } }],
    [{ model: 'lab', rows: { a: { a: 1.5, b: -0.3, l: 0.1 }, l: { l: 1, a: 0.2 } } }],
    [{ model: 'cmyk', rows: { m: { m: 0.5, y: 0.2 }, k: { k: 0.9, c: 0.1, constant: 0.02 } } }]
  ])('mix as the plain kernel does: %j', (given) => {
    const coefficients = mix.prepare(mix.params.parse(given), givenFor(modelOf('rgb')), null);
    const place = {
      ...wholeField({ x: 0, y: 0, width: N, height: 1 }),
      scale: 1,
      taken: [],
      absent: [],
      encoding: 'coded' as const
    };
    inOpenArena(() => {
      const rgb = plain(-0.1, 1.2);
      const wanted = newPlanes(3, N);
      mix.kernel({ ...place, planes: rgb }, coefficients, wanted);
      const found = arena(rgb);
      mix.kernel({ ...place, planes: found }, coefficients, found);
      expect(worst(wanted, found)).toBeLessThan(3e-5);
    });
  });

  it.each([
    ['levels', { channels: { r: { mid: 2.3, black: 0.1 }, g: { mid: 0.3 }, b: { white: 0.9 } } }],
    [
      'curves',
      {
        curves: {
          r: [
            [0, 0.1],
            [0.3, 0.2],
            [0.7, 0.9],
            [1, 1]
          ],
          all: [
            [0.1, 0],
            [1, 0.8]
          ]
        }
      }
    ],
    [
      'colour',
      {
        hue: 20,
        vibrance: 30,
        bands: [
          { centre: 30, lightness: 20 },
          { centre: 200, width: 90, hue: 40 }
        ]
      }
    ],
    ['sharpen', { radius: 1.5, amount: 130, threshold: 0.05 }],
    ['smooth', { radius: 7, tolerance: 0.2 }],
    ['blur', { radius: 2.5 }],
    ['blur', { radius: 11 }]
  ])('%s as the plain kernel does: %j', (id, given) => {
    const op = opOf(id);
    const coefficients = op.prepare(op.params.parse(given), givenFor(modelOf('rgb')), null);
    const [width, height] = [1429, N / 1429];
    const place = {
      ...wholeField({ x: 17, y: 5, width, height }),
      scale: 1,
      taken: [],
      absent: [],
      encoding: 'coded' as const
    };
    inOpenArena(() => {
      const rgb = plain(-0.1, 1.2);
      const wanted = newPlanes(3, N);
      op.kernel({ ...place, planes: rgb }, coefficients, wanted);
      const found = arena(rgb);
      const out = arena(rgb);
      op.kernel({ ...place, planes: found }, coefficients, out);
      expect(worst(wanted, out)).toBeLessThan(5e-5);
    });
  });

  it.each([
    { black: 0.1, mid: 2.3, white: 0.9, outBlack: 0.05, outWhite: 1 },
    { black: 0, mid: 0.05, white: 1, outBlack: 0, outWhite: 1 },
    { black: 0.7, mid: 20, white: 0.2, outBlack: 0, outWhite: 0.8 }
  ])('set levels as the power says, within 1e-6 of what comes out: %j', (of) => {
    inOpenArena(() => {
      const [v] = plain(-0.2, 1.3);
      v.set([of.black, of.white, 0, 1]);
      const [x] = arena([v]);
      const coefficients = [[of]] as never;
      const place = {
        ...wholeField({ x: 0, y: 0, width: N, height: 1 }),
        scale: 1,
        taken: [],
        absent: [],
        encoding: 'coded' as const
      };
      opOf('levels').kernel({ ...place, planes: [x] }, coefficients, [x]);
      let error = 0;
      v.forEach((value, i) => {
        const wanted = levelsAt(of, value);
        error = Math.max(error, Math.abs(x[i] - wanted) / Math.max(1, Math.abs(wanted)));
      });
      // A float's own step where a small power begins is steeper than any formula.
      expect(error).toBeLessThan(of.mid > 10 ? 2e-6 : 1e-6);
    });
  });

  it.each([3, 9, 15, 40])('bend by a curve of %i points within 1e-6', (points) => {
    const curve = makeCurve(
      Array.from({ length: points }, (_, i) => [i / (points - 1), (i / (points - 1)) ** 0.6] as const)
    );
    // Few segments are chosen by looking at each, more are searched.
    expect(curve.few === null).toBe(points >= 16);
    inOpenArena(() => {
      const [v] = plain(-0.3, 1.4);
      const [x] = arena([v]);
      bend(curve, x, x, N);
      const error = v.reduce((e, value, i) => Math.max(e, Math.abs(x[i] - readCurve(curve, value))), 0);
      expect(error).toBeLessThan(1e-6);
    });
  });

  it('give luminance as the formula does', () => {
    inOpenArena(() => {
      const rgb = plain(0, 1);
      const out = takePlane(N);
      fillChannel('lum', arena(rgb), 'coded', out, N);
      const error = out.reduce((e, v, i) => {
        const light = rgb.map((plane) => exactDecode(plane[i]));
        const wanted = exactEncode(0.2126 * light[0] + 0.7152 * light[1] + 0.0722 * light[2]);
        return Math.max(e, Math.abs(v - wanted));
      }, 0);
      expect(error).toBeLessThan(1e-6);
    });
  });

  it.each(['arena', 'plain'])('give LAB and luminance of one decoding to the bit as of two, %s', (where) => {
    inOpenArena(() => {
      const given = plain(-0.2, 1.3);
      given[1][5] = Number.NaN;
      const rgb = where === 'arena' ? arena(given) : given;
      const empty = (): Float32Array[] => (where === 'arena' ? arena(newPlanes(4, N)) : newPlanes(4, N));
      const [apart, together] = [empty(), empty()];
      modelOf('lab').kernels.coded.fromRgb(rgb, apart.slice(0, 3), N);
      fillChannel('lum', rgb, 'coded', apart[3], N);
      labAndLuminance(rgb, together.slice(0, 3), together[3], N);
      for (const [c, plane] of apart.entries()) expect(together[c]).toEqual(plane);
    });
  });

  it.each([1, 2, 3, 4, 5, 11])('widen %i pixels of three channels and no more', (n) => {
    inOpenArena(() => {
      const samples = new Uint16Array(simd.memory.buffer, takePlane(64).byteOffset, 3 * n);
      samples.forEach((_, i) => (samples[i] = 1000 * i + 7));
      const planes = [0, 1, 2].map(() => takePlane(16).fill(-1));
      const [r, g, b] = planes.map((p) => p.byteOffset);
      simd.widenThree(samples.byteOffset, r, g, b, n, 1 / 65535);
      planes.forEach((plane, c) => {
        const wanted = Array.from({ length: n }, (_, i) => Math.fround(samples[3 * i + c] / 65535));
        expect([...plane.subarray(0, n)].every((v, i) => Math.abs(v - wanted[i]) < 1e-7)).toBe(true);
        expect(plane[n]).toBe(-1);
      });
    });
  });

  it('read and round integers exactly, and missing samples as 0', () => {
    inOpenArena(() => {
      const plane = takePlane(65536);
      const samples = new Uint16Array(simd.memory.buffer, takePlane(32768).byteOffset, 65536);
      samples.forEach((_, i) => (samples[i] = i));
      simd.widen16(samples.byteOffset, plane.byteOffset, 65536, 1, 1 / 65535);
      samples.fill(0);
      plane[7] = Number.NaN;
      simd.narrow16(plane.byteOffset, samples.byteOffset, 65536, 1);
      expect(samples[7]).toBe(0);
      samples[7] = 7;
      expect(samples.every((v, i) => v === i)).toBe(true);
    });
  });
});
