import { converter, wcagLuminance } from 'culori';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { decodeImage } from '../core/files';
import { headOf } from '../core/heads';
import { shapeOf } from '../core/path/shape';
import { noiseFrame, render, stepOf } from '../core/testing';
import { exportPicture, exportSize } from './export';
import { nodePool } from './node/pool';
import { provideNodeWasm } from './node/wasm';
import type { Pool } from './pool';

const frame = noiseFrame(320, 210, false, 'u16', 14);
const hot = stepOf('mix', { rows: { r: { r: 1.6, constant: -0.2 } } });
const head = headOf('f');
const picture = { head, pins: [] };
const exportedBytes = async (...given: Parameters<typeof exportPicture>): Promise<Uint8Array> =>
  new Uint8Array(await (await exportPicture(...given)).arrayBuffer());

let pool: Pool;

beforeAll(() => {
  provideNodeWasm();
  pool = nodePool(1);
  pool.register('f', frame);
});
afterAll(() => pool.close());

const toRgb = converter('rgb');

describe('a worker', () => {
  it('counts clipped samples at full size, over the part it is given', async () => {
    const rect = { x: 10, y: 20, width: 200, height: 100 };
    const ask = { ...picture, steps: [hot], rect, channels: ['rgb.r', 'rgb.g'] };
    const { counts } = await pool.run('clipped', ask);
    const [red] = render(frame, [hot]);
    let [low, high] = [0, 0];
    for (let y = 20; y < 120; y++) {
      for (let x = 10; x < 210; x++) {
        if (red[y * 320 + x] <= 0) low++;
        if (red[y * 320 + x] >= 1) high++;
      }
    }
    expect(counts[0]).toEqual({ low, high });
    expect(low).toBeGreaterThan(1000);
    expect(counts[1].low + counts[1].high).toBeLessThan(5);
  });

  it('measures the picture before and after a step', async () => {
    const ask = {
      ...picture,
      steps: [hot],
      places: ['head', { after: hot.id }] as const,
      channels: ['rgb.r']
    };
    const { measured } = await pool.run('measure', ask);
    const [before, after] = measured.map(({ histograms }) => histograms[0]);
    expect([before.total, after.total]).toEqual([320 * 210, 320 * 210]);
    expect(before.above).toBe(0);
    const [red] = render(frame, [hot]);
    expect(after.above).toBe(red.filter((v) => v > 1).length);
    expect(after.below).toBe(red.filter((v) => v < 0).length);
  });

  it('tells what a step has solved, and nothing of a step that solves nothing', async () => {
    const steps = [hot, stepOf('balance', { method: 'grey' })];
    const balance = (await pool.run('solved', { ...picture, steps, step: steps[1].id })).solved as {
      gain: number[];
    };
    const means = render(frame, [hot]).map((p) => p.reduce((sum, v) => sum + v, 0) / p.length);
    const [r, g, b] = means;
    const y = wcagLuminance({ mode: 'rgb', r, g, b });
    const grey = toRgb({ mode: 'lrgb', r: y, g: y, b: y }).r;
    balance.gain.forEach((gain, c) => expect(gain).toBeCloseTo(grey / means[c], 4));
    expect((await pool.run('solved', { ...picture, steps, step: hot.id })).solved).toBeNull();
  });

  it('solves from the pins that it is given', async () => {
    const steps = [stepOf('balance', { method: 'pins' })];
    const solved = async (x: number): Promise<number[]> => {
      const pins = [{ id: 'n', name: 'n', x, y: 7, size: 1, role: 'neutral' as const }];
      return (
        (await pool.run('solved', { head, steps, pins, step: steps[0].id })).solved as { gain: number[] }
      ).gain;
    };
    const [first, second] = [await solved(4), await solved(90)];
    expect(first).not.toEqual(second);
    expect(await solved(4)).toEqual(first);
  });

  it('reads places of the frame wherever the picture puts them', async () => {
    const steps = [stepOf('straighten', { crop: { x: 100, y: 50, width: 60, height: 40 } })];
    const spots = [
      { x: 120.5, y: 60.5, size: 1 },
      { x: 20.5, y: 60.5, size: 1 }
    ];
    const { values } = await pool.run('read', {
      ...picture,
      steps,
      spots,
      places: ['head', 'end']
    });
    expect(values[1][0]).toEqual(values[0][0]);
    expect(values[0][1]).not.toBeNull();
    expect(values[1][1]).toBeNull();
  });
});

describe('an export', () => {
  it('of a cropped picture has the size and the samples of the crop', async () => {
    const steps = [stepOf('straighten', { crop: { x: 31, y: 17, width: 150, height: 90 } })];
    const file = await exportedBytes(
      pool,
      shapeOf({ head, steps }, () => frame),
      { ...picture, steps },
      { format: 'tiff', depth: 'u16' }
    );
    const { width, height, samples } = await decodeImage(file);
    expect([width, height]).toEqual([150, 90]);
    const full = frame.levels[0].samples;
    for (let i = 0; i < samples.length; i += 41) {
      const [pixel, c] = [Math.floor(i / 3), i % 3];
      const at = ((17 + Math.floor(pixel / 150)) * 320 + 31 + (pixel % 150)) * 3 + c;
      expect(samples[i]).toBe(full[at]);
    }
  });

  it('of a turned picture stands upright', async () => {
    const steps = [stepOf('straighten', { angle: -90 })];
    const file = await exportedBytes(
      pool,
      shapeOf({ head, steps }, () => frame),
      { ...picture, steps },
      { format: 'png', depth: 'u8' }
    );
    const { width, height } = await decodeImage(file);
    expect([width, height]).toEqual([210, 320]);
  });

  it('is told its size beforehand, and never made larger', () => {
    expect(exportSize({ width: 300, height: 200 }, 150)).toEqual({ width: 150, height: 100 });
    expect(exportSize({ width: 300, height: 200 }, 900)).toEqual({ width: 300, height: 200 });
    expect(exportSize({ width: 3000, height: 1 }, 10)).toEqual({ width: 10, height: 1 });
  });
});
