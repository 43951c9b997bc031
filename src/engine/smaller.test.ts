import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { paperProfile } from '../../e2e/paper-profile';
import type { OwnSpace } from '../core/colour/own';
import type { SpaceId } from '../core/colour/output';
import { decodeImage } from '../core/files';
import { headOf } from '../core/heads';
import type { Frame, Samples } from '../core/raster/frame';
import { floatFrame, greyFrame } from '../core/testing';
import { exportPicture, type ExportSettings } from './export';
import { nodePool } from './node/pool';
import { provideNodeWasm } from './node/wasm';
import type { Pool } from './pool';

/** Pictures that are exported an eighth of their size: what stands in the middle, where the picture's edge does not count. */
const SIZE = 64;
const SMALL = 8;
const MIDDLE = [2, 3, 4, 5];
const MISSING = Number.NaN;

let pool: Pool;
beforeAll(() => {
  provideNodeWasm();
  pool = nodePool(2);
});
afterAll(() => pool.close());

/** The samples of the file, as shares of its largest, and its channels. */
async function exported(
  frame: Frame,
  settings: ExportSettings
): Promise<{ channels: number; at: (x: number, y: number) => readonly number[] }> {
  pool.register('f', frame);
  const { width, height, alpha, encoding } = frame;
  const shape = { width, height, alpha, encoding, mayMiss: frame.missing > 0 };
  const picture = { head: headOf('f', encoding), steps: [], pins: [] };
  const file = await exportPicture(pool, shape, picture, settings);
  const { samples, ...read } = await decodeImage(new Uint8Array(await file.arrayBuffer()));
  pool.forget('f');
  const most = (of: Samples): number =>
    of instanceof Float32Array ? 1 : of instanceof Uint8Array ? 255 : 65535;
  const channels = samples.length / (read.width * read.height);
  return {
    channels,
    at: (x, y) =>
      Array.from({ length: channels }, (_, c) => samples[(y * read.width + x) * channels + c] / most(samples))
  };
}

/** Black and white columns in turn. */
const lines = greyFrame(SIZE, SIZE, (x) => x % 2);

describe('half the light of black and white lines', () => {
  // 0.5 by the curves of IEC 61966-2-1, IEC 61966-2-5, ITU-R BT.2020 and ISO 22028-2.
  const codes: Record<Exclude<SpaceId, 'display-p3'>, number> = {
    srgb: 0.735357,
    'adobe-rgb': 0.5 ** (256 / 563),
    rec2020: 1.09929682680944 * 0.5 ** 0.45 - 0.09929682680944,
    prophoto: 0.5 ** (1 / 1.8)
  };
  const spaces = Object.entries(codes) as [SpaceId, number][];
  const files = [
    ['png', 'u16', 1],
    ['png', 'u8', 1],
    // Floats of greys in another space are not the same to the last bit.
    ['tiff', 'f32', null],
    ['jpeg', 'u8', 3]
  ] as const;

  it.each(spaces.flatMap(([space, code]) => files.map((file) => [space, ...file, code] as const)))(
    'is in %s, in %s of %s, with %s channels, %f',
    async (space, format, depth, channels, code) => {
      const made = await exported(lines, { format, depth, space, quality: 100, longerSide: SMALL });
      if (channels) expect(made.channels).toBe(channels);
      for (const x of MIDDLE)
        for (const v of made.at(x, x))
          expect(Math.abs(v - code)).toBeLessThan(depth === 'u8' ? 0.006 : 0.002);
    }
  );

  it('is as it is where the values are light', async () => {
    const linear = { ...lines, encoding: 'linear' as const };
    for (const depth of ['f32', 'u16'] as const) {
      const made = await exported(linear, { format: 'fits', depth, grey: true, longerSide: SMALL });
      expect(made.channels).toBe(1);
      for (const x of MIDDLE) expect(Math.abs(made.at(x, x)[0] - 0.5)).toBeLessThan(0.002);
    }
  });

  it('is by a profile of one’s own what the profile makes of that grey', async () => {
    const { profile } = await pool.run('profile', { file: new Blob([paperProfile()]), name: 'Matte.icc' });
    const { title, key, profile: bytes } = profile;
    const space: OwnSpace = { title, key, profile: bytes, intent: 'relative', blackPoint: false };
    const settings = { format: 'tiff', depth: 'u16', space } as const;
    const flat = await exported(
      greyFrame(SMALL, SMALL, () => 0.735357),
      settings
    );
    const made = await exported(lines, { ...settings, longerSide: SMALL });
    expect(made.channels).toBe(3);
    for (const x of MIDDLE)
      made.at(x, x).forEach((v, c) => expect(Math.abs(v - flat.at(0, 0)[c])).toBeLessThan(0.003));
  });
});

describe('missing samples', () => {
  // The left half, and one in the right.
  const isMissing = (x: number, y: number): boolean => x < SIZE / 2 || (x === 50 && y === 37);
  const colour = [0.8, 0.6, 0.2];
  const holed = floatFrame(
    SIZE,
    SIZE,
    Array.from({ length: SIZE * SIZE }, (_, i) =>
      isMissing(i % SIZE, Math.floor(i / SIZE)) ? [MISSING, MISSING, MISSING] : colour
    ).flat()
  );

  it.each([
    ['fits', 'f32', MISSING],
    ['tiff', 'f32', 0],
    ['png', 'u16', 0],
    ['webp', 'u8', 0]
  ] as const)('are not taken for black beside others: %s of %s', async (format, depth, none) => {
    const made = await exported(holed, { format, depth, quality: 100, longerSide: SMALL });
    for (let y = 0; y < SMALL; y++)
      for (let x = 0; x < SMALL; x++)
        made.at(x, y).forEach((v, c) => {
          if (x < SMALL / 2) expect(v).toBe(none);
          else expect(Math.abs(v - colour[c])).toBeLessThan(depth === 'u8' ? 0.004 : 2e-5);
        });
  });

  it('leave greys in one plane, and take part in another space too', async () => {
    const grey = greyFrame(SIZE, SIZE, (x, y) => (isMissing(x, y) ? MISSING : x % 2));
    const settings = {
      format: 'png',
      depth: 'u8',
      dither: true,
      space: 'prophoto',
      longerSide: SMALL
    } as const;
    const made = await exported(grey, settings);
    expect(made.channels).toBe(1);
    expect(made.at(2, 4)[0]).toBe(0);
    expect(Math.abs(made.at(6, 2)[0] - 0.5 ** (1 / 1.8))).toBeLessThan(0.006);
  });
});

it('alpha weighs what is there', async () => {
  // Every other column can't be seen: it takes no part in the colour.
  const data = Buffer.from(
    Array.from({ length: SIZE * SIZE }, (_, i) => (i % 2 ? [255, 255, 255, 0] : [120, 60, 30, 255])).flat()
  );
  const file = await sharp(data, { raw: { width: SIZE, height: SIZE, channels: 4 } })
    .png()
    .toBuffer();
  const { frame } = await pool.run('open', { file: new Blob([new Uint8Array(file)]) });
  const made = await exported(frame, { format: 'png', depth: 'u16', longerSide: SMALL });
  for (const x of MIDDLE)
    [120, 60, 30, 127.5].forEach((v, c) => expect(Math.abs(made.at(x, x)[c] - v / 255)).toBeLessThan(0.01));
});
