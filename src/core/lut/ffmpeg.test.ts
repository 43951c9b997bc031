import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { converter, differenceCiede2000, type Lab65 } from 'culori';
import sharp from 'sharp';
import { writeCube } from '../files/cube';
import { evaluate } from '../path/evaluate';
import { randomStream } from '../random';
import { floatFrame, planOf, stepOf } from '../testing';
import { bake, errorBetween, stepOfTable } from './bake';
import { throughTable, type Cube, type Interpolation } from './table';

/** Another's reading of the same files: ffmpeg's filter lut3d. The set-up of the tests puts it there where it may. */
const FFMPEG = '/usr/bin/ffmpeg';

const toLab = converter('lab');
const difference = differenceCiede2000();

/** Balance, mix, curves in LAB, colour with a band, and levels about one glaze. */
const tilePath = [
  stepOf('balance', { gain: { r: 0.96, g: 1, b: 1.08 } }),
  stepOf('mix', { rows: { r: { r: 1.1, g: -0.1 }, g: { r: 0.08, g: 0.92 }, b: { g: 0.12, b: 0.88 } } }),
  stepOf(
    'curves',
    {
      curves: {
        l: [
          [0, 0],
          [0.3, 0.25],
          [0.7, 0.76],
          [1, 1]
        ]
      }
    },
    { on: { model: 'lab', channels: ['l'] } }
  ),
  stepOf('colour', {
    saturation: 12,
    bands: [{ centre: 40, width: 90, hue: 8, saturation: 15, lightness: 4 }]
  }),
  stepOf(
    'levels',
    { channels: { all: { black: 0.02, mid: 1.15, white: 0.97, outBlack: 0, outWhite: 1 } } },
    {
      where: {
        terms: [{ source: { kind: 'distance', to: [55, 35, 40], space: 'ab', range: 60 } }]
      }
    }
  )
];

const SIDE = 256;
const N = SIDE * SIDE;
const random = randomStream(41);

/** A cube that bends every channel by all. */
function bent(size: number, high: number): Cube {
  const values = new Float32Array(3 * size ** 3);
  const at = (i: number): number => i / (size - 1);
  for (let b = 0; b < size; b++)
    for (let g = 0; g < size; g++)
      for (let r = 0; r < size; r++) {
        const [u, v, w] = [at(r), at(g), at(b)];
        const row = [u ** 0.6 * (1 - 0.3 * w), 0.5 + 0.5 * Math.sin(5 * v * u), v * w + 0.2 * (1 - u)];
        values.set(
          row.map((x) => Math.fround(Number(Math.min(1, Math.max(0, x)).toFixed(7)))),
          3 * (r + size * (g + size * b))
        );
      }
  return { size, low: [0, 0, 0], high: [high, high, high], values };
}

describe.skipIf(!existsSync(FFMPEG))('a cube, as ffmpeg has it', () => {
  let folder: string;
  const samples = Uint16Array.from({ length: 3 * N }, () => random() * 65536);
  beforeAll(() => {
    folder = mkdtempSync(join(tmpdir(), 'kromba-lut-'));
    writeFileSync(join(folder, 'in.raw'), new Uint8Array(samples.buffer));
  });
  afterAll(() => rmSync(folder, { recursive: true }));

  function theirs(
    cube: Cube,
    by: Interpolation,
    source = 'in.raw',
    [width, height] = [SIDE, SIDE]
  ): Uint16Array {
    writeFileSync(join(folder, 'table.cube'), writeCube({ title: 'Bent', curves: null, cube }));
    const raw = ['-f', 'rawvideo', '-pix_fmt', 'rgb48le'];
    execFileSync(
      FFMPEG,
      [
        ...['-v', 'error', '-y', ...raw, '-s', `${width}x${height}`, '-i', source],
        ...['-vf', `lut3d=file=table.cube:interp=${by}`, ...raw, 'out.raw']
      ],
      { cwd: folder }
    );
    return new Uint16Array(new Uint8Array(readFileSync(join(folder, 'out.raw'))).buffer);
  }

  it.each(
    ([17, 33, 65] as const).flatMap((size) =>
      (['tetrahedral', 'trilinear'] as const).flatMap((by) => [1, 2].map((high) => ({ size, by, high })))
    )
  )('of $size³ nodes over 0 … $high, $by, within 2 of 65535', ({ size, by, high }) => {
    const cube = bent(size, high);
    const planes = [0, 1, 2].map((c) =>
      Float32Array.from({ length: N }, (_, i) => samples[3 * i + c] / 65535)
    );
    throughTable({ title: '', curves: null, cube }, planes, planes, N, by);
    const other = theirs(cube, by);
    let worst = 0;
    for (let i = 0; i < N; i++)
      for (let c = 0; c < 3; c++)
        worst = Math.max(worst, Math.abs(other[3 * i + c] - Math.round(planes[c][i] * 65535)));
    expect(worst).toBeLessThanOrEqual(2);
  });

  it.each([
    { size: 33, mean: 0.1, largest: 1.5 },
    { size: 65, mean: 0.05, largest: 0.7 }
  ])(
    'of a path over glaze tiles at $size: the report, by ffmpeg and culori',
    async ({ size, mean, largest }) => {
      const [width, height] = [480, 320];
      const { data } = await sharp('demo/samples/glaze-tiles.jpg')
        .resize(width, height, { kernel: 'nearest' })
        .raw()
        .toBuffer({ resolveWithObject: true });
      const rgb = Float32Array.from(data, (v) => v / 255);
      const plan = planOf(floatFrame(width, height, rgb), tilePath);
      const { table } = bake(plan, { title: 'Tiles', size, low: 0, high: 1, curves: false });
      const report = errorBetween(plan, planOf(floatFrame(width, height, rgb), [stepOfTable(table)]))!;
      writeFileSync(join(folder, 'tiles.raw'), new Uint8Array(Uint16Array.from(data, (v) => 257 * v).buffer));
      const out = theirs(table.cube!, 'tetrahedral', 'tiles.raw', [width, height]);
      const by = evaluate(plan, 0, { x: 0, y: 0, width, height }).planes;
      const labOf = (r: number, g: number, b: number): Lab65 => {
        const clamped = [r, g, b].map((v) => Math.min(1, Math.max(0, v)));
        // LAB of D50, named as culori's difference wants it.
        return { ...toLab({ mode: 'rgb', r: clamped[0], g: clamped[1], b: clamped[2] }), mode: 'lab65' };
      };
      const differences = Array.from({ length: width * height }, (_, i) =>
        difference(
          labOf(by[0][i], by[1][i], by[2][i]),
          labOf(out[3 * i] / 65535, out[3 * i + 1] / 65535, out[3 * i + 2] / 65535)
        )
      );
      const found = differences.reduce((sum, v) => sum + v, 0) / differences.length;
      const worst = differences.reduce((most, v) => Math.max(most, v), 0);
      expect(Math.abs(report.mean - found)).toBeLessThan(0.01);
      expect(Math.abs(report.largest - worst)).toBeLessThan(0.01);
      expect(found).toBeLessThan(mean);
      expect(worst).toBeLessThan(largest);
    }
  );
});
