import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { paperProfile } from '../../e2e/paper-profile';
import type { OwnSpace } from '../core/colour/own';
import type { SpaceId } from '../core/colour/output';
import { decodeImage } from '../core/files';
import { headOf } from '../core/heads';
import { buildPyramid, sharedSamples, type Frame, type Samples } from '../core/raster/frame';
import { floatFrame, greyFrame } from '../core/testing';
import { exportPicture, type ExportProgress, type ExportSettings } from './export';
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
  settings: ExportSettings,
  onProgress?: (progress: ExportProgress) => void,
  signal?: AbortSignal
): Promise<{ channels: number; at: (x: number, y: number) => readonly number[] }> {
  pool.register('f', frame);
  const { width, height, alpha, encoding } = frame;
  const shape = { width, height, alpha, encoding, mayMiss: frame.missing > 0 };
  const picture = { head: headOf('f', encoding), steps: [], pins: [] };
  const file = await exportPicture(pool, shape, picture, settings, onProgress, signal).finally(() =>
    pool.forget('f')
  );
  const { samples, ...read } = await decodeImage(new Uint8Array(await file.arrayBuffer()));
  const most = (of: Samples): number =>
    of instanceof Float32Array ? 1 : of instanceof Uint8Array ? 255 : 65535;
  const channels = samples.length / (read.width * read.height);
  return {
    channels,
    at: (x, y) =>
      Array.from({ length: channels }, (_, c) => samples[(y * read.width + x) * channels + c] / most(samples))
  };
}

/** A profile of one’s own, as a space to write in. */
async function ownSpace(): Promise<OwnSpace> {
  const { profile } = await pool.run('profile', { file: new Blob([paperProfile()]), name: 'Matte.icc' });
  const { title, key, profile: bytes } = profile;
  return { title, key, profile: bytes, intent: 'relative', blackPoint: false };
}

const flat = (colour: readonly number[]): Frame =>
  floatFrame(SMALL, SMALL, Array.from({ length: SMALL * SMALL }, () => colour).flat());

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
    const settings = { format: 'tiff', depth: 'u16', space: await ownSpace() } as const;
    const whole = await exported(flat([0.735357, 0.735357, 0.735357]), settings);
    const made = await exported(lines, { ...settings, longerSide: SMALL });
    expect(made.channels).toBe(3);
    for (const x of MIDDLE)
      made.at(x, x).forEach((v, c) => expect(Math.abs(v - whole.at(0, 0)[c])).toBeLessThan(0.003));
  });
});

describe('half the light of columns of two colours', () => {
  // IEC 61966-2-1.
  const light = (code: number): number => (code <= 0.04045 ? code / 12.92 : ((code + 0.055) / 1.055) ** 2.4);
  const codeOf = (v: number): number => (v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055);
  const colours = [
    [1, 0.2, 0],
    [0.1, 0.6, 0.9]
  ];
  const between = colours[0].map((a, c) => codeOf((light(a) + light(colours[1][c])) / 2));
  const columns = floatFrame(
    SIZE,
    SIZE,
    Array.from({ length: SIZE * SIZE }, (_, i) => colours[i % 2]).flat()
  );

  it.each([
    ['srgb', 'png', 'u16'],
    ['display-p3', 'png', 'u16'],
    ['adobe-rgb', 'tiff', 'f32'],
    ['rec2020', 'png', 'u16'],
    ['prophoto', 'jpeg', 'u8']
  ] as const)('is that of their mean: %s in %s of %s', async (space, format, depth) => {
    const settings = { format, depth, space, quality: 100 } as const;
    const whole = await exported(flat(between), settings);
    const made = await exported(columns, { ...settings, longerSide: SMALL });
    for (const x of MIDDLE)
      made
        .at(x, x)
        .forEach((v, c) =>
          expect(Math.abs(v - whole.at(3, 3)[c])).toBeLessThan(depth === 'u8' ? 0.012 : 0.002)
        );
  });

  it('is coded where the values are light and the file is not', async () => {
    const linear = { ...lines, encoding: 'linear' as const };
    const made = await exported(linear, { format: 'png', depth: 'u16', longerSide: SMALL });
    for (const x of MIDDLE) expect(Math.abs(made.at(x, x)[0] - 0.735357)).toBeLessThan(0.002);
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

  it('are not taken for black by a profile of one’s own', async () => {
    const settings = { format: 'tiff', depth: 'u16', space: await ownSpace() } as const;
    const whole = await exported(flat(colour), settings);
    const made = await exported(holed, { ...settings, longerSide: SMALL });
    for (let y = 0; y < SMALL; y++)
      for (let x = 0; x < SMALL; x++)
        made.at(x, y).forEach((v, c) => {
          if (x < SMALL / 2) expect(v).toBe(0);
          else expect(Math.abs(v - whole.at(0, 0)[c])).toBeLessThan(2e-4);
        });
  });

  it('take no part beside what is transparent', async () => {
    const samples = sharedSamples('f32', SIZE * SIZE * 4);
    // Every other row can’t be seen, and is of another colour.
    for (let i = 0; i < SIZE * SIZE; i++) {
      const [x, y] = [i % SIZE, Math.floor(i / SIZE)];
      const what = isMissing(x, y) ? [MISSING, MISSING, MISSING] : y % 2 ? [1, 1, 1] : colour;
      samples.set([...what, y % 2 ? 0 : 1], 4 * i);
    }
    const levels = buildPyramid({ width: SIZE, height: SIZE, samples }, 4);
    const frame = { ...holed, alpha: true, levels };
    for (const [format, depth] of [
      ['tiff', 'f32'],
      ['webp', 'u8']
    ] as const) {
      const made = await exported(frame, { format, depth, quality: 100, longerSide: SMALL });
      for (const y of MIDDLE)
        for (const x of [5, 6])
          made
            .at(x, y)
            .forEach((v, c) =>
              expect(Math.abs(v - [...colour, 0.5][c])).toBeLessThan(depth === 'u8' ? 0.012 : 0.004)
            );
    }
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

it('is given up where it is cancelled while it is made smaller, and begins anew', async () => {
  const settings = { format: 'webp', depth: 'u8', longerSide: SMALL } as const;
  const holed = greyFrame(SIZE, SIZE, (x) => (x < 9 ? MISSING : 0.5));
  const stop = new AbortController();
  const cancel = ({ doing }: ExportProgress): void => {
    if (doing === 'writing') stop.abort(new Error('No longer wanted.'));
  };
  await expect(exported(holed, settings, cancel, stop.signal)).rejects.toThrow('No longer wanted.');
  const made = await exported(holed, settings);
  expect(Math.abs(made.at(5, 5)[0] - 0.5)).toBeLessThan(0.004);
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
