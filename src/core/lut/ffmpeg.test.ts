import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { writeCube } from '../files/cube';
import { randomStream } from '../random';
import { throughTable, type Cube, type Interpolation } from './table';

/** Another's reading of the same files: ffmpeg's filter lut3d. The set-up of the tests puts it there where it may. */
const FFMPEG = '/usr/bin/ffmpeg';

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

  function theirs(cube: Cube, by: Interpolation): Uint16Array {
    writeFileSync(join(folder, 'table.cube'), writeCube({ title: 'Bent', curves: null, cube }));
    const raw = ['-f', 'rawvideo', '-pix_fmt', 'rgb48le'];
    execFileSync(
      FFMPEG,
      [
        ...['-v', 'error', '-y', ...raw, '-s', `${SIDE}x${SIDE}`, '-i', 'in.raw'],
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
});
