import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { provideNodeWasm } from '../../engine/node/wasm';
import { randomStream } from '../random';
import { decodeImage } from '.';
import { openFrame } from './open-frame';

/** AVIF whose parts are put together by hand, after ISO/IEC 14496-12 and 23008-12; sharp decodes what it shows, too. */
beforeAll(provideNodeWasm);

const SIDE = 64;
const u8 = (...values: number[]): Uint8Array => Uint8Array.from(values);
const u16 = (...values: number[]): Uint8Array => u8(...values.flatMap((v) => [v >> 8, v & 255]));
const u32 = (...values: number[]): Uint8Array => u16(...values.flatMap((v) => [v >>> 16, v & 0xffff]));
const text = (value: string): Uint8Array => new TextEncoder().encode(value);
const joined = (...parts: Uint8Array[]): Uint8Array => Uint8Array.from(parts.flatMap((part) => [...part]));
const box = (type: string, ...parts: Uint8Array[]): Uint8Array => {
  const content = joined(...parts);
  return joined(u32(content.length + 8), text(type), content);
};
const full = (type: string, version: number, ...parts: Uint8Array[]): Uint8Array =>
  box(type, u32(version << 24), ...parts);

/** What stands in a box of that name, wherever it lies. */
function inside(file: Uint8Array, name: string): Uint8Array {
  const at = Buffer.from(file).indexOf(name, 0, 'latin1');
  const length = new DataView(file.buffer, file.byteOffset).getUint32(at - 4);
  return file.slice(at + 4, at - 4 + length);
}

/** A square that gets brighter to the right and, in green, downwards. */
const squareOf = (from: number, blue: number): Uint8Array =>
  Uint8Array.from({ length: 3 * SIDE * SIDE }, (_, i) => {
    const [x, y] = [Math.floor(i / 3) % SIDE, Math.floor(i / 3 / SIDE)];
    return [from + x, 40 + 2 * y, blue][i % 3];
  });
const coded = (samples: Uint8Array): Promise<Uint8Array> =>
  sharp(samples, { raw: { width: SIDE, height: SIDE, channels: 3 } })
    .avif({ quality: 100, chromaSubsampling: '4:4:4', effort: 1 })
    .toBuffer();

interface Grid {
  /** Boxes of properties that are the whole picture's own. */
  readonly own?: readonly Uint8Array[];
  /** Boxes of properties that belong to the first of the two squares alone. */
  readonly first?: readonly Uint8Array[];
}

/** Two squares beside each other as one picture; properties of the squares stand before those of the whole. */
async function gridOf({ own = [], first = [] }: Grid): Promise<Uint8Array> {
  const squares = await Promise.all([coded(squareOf(30, 90)), coded(squareOf(110, 180))]);
  const data = squares.map((file) => inside(file, 'mdat'));
  const grid = joined(u8(0, 0, 0, 1), u16(2 * SIDE, SIDE));
  const properties = [
    full('ispe', 0, u32(SIDE, SIDE)),
    box('av1C', inside(squares[0], 'av1C')),
    full('pixi', 0, u8(3, 8, 8, 8)),
    ...first,
    full('ispe', 0, u32(2 * SIDE, SIDE)),
    ...own
  ];
  const numbers = (from: number, count: number): number[] =>
    Array.from({ length: count }, (_, i) => from + i);
  const said = (item: number, indices: number[]): Uint8Array =>
    joined(u16(item), u8(indices.length, ...indices));
  const whole = numbers(4 + first.length, 1 + own.length);
  const metaAt = (start: number): Uint8Array => {
    const places = [grid, ...data].map((part, i, all) => [
      start + all.slice(0, i).reduce((sum, { length }) => sum + length, 0),
      part.length
    ]);
    return full(
      'meta',
      0,
      full('hdlr', 0, u32(0), text('pict'), u32(0, 0, 0), u8(0)),
      full('pitm', 0, u16(1)),
      full(
        'iloc',
        0,
        u8(0x44, 0),
        u16(3),
        ...places.map(([at, length], i) => joined(u16(i + 1, 0, 1), u32(at, length)))
      ),
      full(
        'iinf',
        0,
        u16(3),
        ...['grid', 'av01', 'av01'].map((kind, i) => full('infe', 2, u16(i + 1, 0), text(kind), u8(0)))
      ),
      full('iref', 0, box('dimg', u16(1, 2, 2, 3))),
      box(
        'iprp',
        box('ipco', ...properties),
        full(
          'ipma',
          0,
          u32(3),
          said(1, [...whole, 3]),
          said(2, [1, 2, 3, ...numbers(4, first.length)]),
          said(3, [1, 2, 3])
        )
      )
    );
  };
  const type = box('ftyp', text('avif'), u32(0), text('avifmif1miaf'));
  const before = type.length + metaAt(0).length + 8;
  return joined(type, metaAt(before), box('mdat', grid, ...data));
}

/** Mean difference from what sharp makes of the same file, upright. */
async function apart(file: Uint8Array): Promise<number> {
  const { frame } = await openFrame(file);
  const { data, info } = await sharp(file).autoOrient().raw().toBuffer({ resolveWithObject: true });
  expect([frame.width, frame.height]).toEqual([info.width, info.height]);
  const samples = frame.levels[0].samples as Uint8Array;
  return samples.reduce((sum, v, i) => sum + Math.abs(v - data[i]), 0) / data.length;
}

describe('AVIF of several parts', () => {
  it('is as large as the whole, though a part’s size stands before it', async () => {
    const read = await decodeImage(await gridOf({}));
    expect([read.width, read.height, read.alpha, read.sampleType]).toEqual([2 * SIDE, SIDE, false, 'u8']);
    const at = (x: number, y: number): number[] => [
      ...read.samples.slice(3 * (y * 2 * SIDE + x), 3 * (y * 2 * SIDE + x) + 3)
    ];
    const near = (found: number[], wanted: number[]): void =>
      found.forEach((v, c) => expect(Math.abs(v - wanted[c])).toBeLessThan(6));
    near(at(10, 20), [40, 80, 90]);
    near(at(SIDE + 10, 50), [120, 140, 180]);
  });

  it.each([
    ['a turn', [box('irot', u8(1))]],
    ['half a turn', [box('irot', u8(2))]],
    ['a mirror, top to bottom', [box('imir', u8(0))]],
    ['a mirror, left to right', [box('imir', u8(1))]],
    ['a turn and a mirror', [box('irot', u8(1)), box('imir', u8(0))]],
    ['three turns and a mirror', [box('irot', u8(3)), box('imir', u8(1))]]
  ])('stands as %s says', async (_, own) => {
    expect(await apart(await gridOf({ own }))).toBeLessThan(1.5);
  });

  it('takes no turn and no colour from what is a part’s alone', async () => {
    const first = [box('irot', u8(1)), box('colr', text('nclx'), u16(12, 13, 0), u8(0x80))];
    const { frame, notices } = await openFrame(await gridOf({ first }));
    const plain = await openFrame(await gridOf({}));
    expect([frame.width, frame.height]).toEqual([2 * SIDE, SIDE]);
    expect(frame.levels[0].samples).toEqual(plain.frame.levels[0].samples);
    expect(notices).toEqual(plain.notices);
  });

  const aperture = (...numbers: number[]): Uint8Array => box('clap', u32(...numbers));

  it('is cut to its clean aperture before it is turned', async () => {
    const plain = await openFrame(await gridOf({}));
    // 40 × 30 whose centre lies 12 to the right of and 5 above that of 128 × 64.
    const clap = aperture(40, 1, 60, 2, 12, 1, -5 >>> 0, 1);
    const { frame, notices } = await openFrame(await gridOf({ own: [clap, box('irot', u8(1))] }));
    expect([frame.width, frame.height, notices]).toEqual([30, 40, []]);
    const [ours, whole] = [frame, plain.frame].map(({ levels }) => levels[0].samples);
    for (let y = 0; y < 40; y++)
      for (let x = 0; x < 30; x++)
        // A turn anticlockwise: its right edge is the top.
        for (let c = 0; c < 3; c++)
          expect(ours[3 * (30 * y + x) + c]).toBe(
            whole[3 * (2 * SIDE * (SIDE / 2 - 5 - 15 + x) + SIDE + 12 - 20 + 39 - y) + c]
          );
  });

  it.each([
    ['no whole pixels', [41, 1, 30, 1, 0, 1, 0, 1]],
    ['more than there is', [128, 1, 64, 1, 2, 1, 0, 1]],
    ['nothing', [0, 1, 30, 1, 0, 1, 0, 1]],
    ['a division by zero', [40, 0, 30, 1, 0, 1, 0, 1]],
    ['half of the box', [40, 1, 30]]
  ])('is told to be damaged where its crop is of %s', async (_, numbers) => {
    const file = await gridOf({ own: [aperture(...numbers)] });
    await expect(decodeImage(file)).rejects.toThrow(/its crop is not of whole pixels within it/);
  });

  it('is told to be damaged where an item’s properties are not there', async () => {
    const file = Buffer.from(await gridOf({}));
    const at = file.indexOf('ipma', 0, 'latin1');
    // Of the first item, the first of its properties: version and flags, how many items, item, how many.
    file[at + 4 + 4 + 4 + 2 + 1] = 99;
    await expect(decodeImage(new Uint8Array(file))).rejects.toThrow(/a property that it has not/);
  });
});

/** libavif by its own programs (Debian's `libavif-bin`). */
const AVIFENC = '/usr/bin/avifenc';

describe.skipIf(!existsSync(AVIFENC))('AVIF of its own library', () => {
  const [ACROSS, DOWN] = [122, 96];
  let folder = '';
  const run = (program: string, ...args: string[]): void =>
    void execFileSync(program, args, { cwd: folder, stdio: 'ignore' });
  /** What a file of our hands and its own library make of it: RGB of 0…255, alpha apart. */
  async function bothOf(name: string, ...options: string[]): Promise<Record<'ours' | 'theirs', number[][]>> {
    run(AVIFENC, '--min', '5', '--max', '10', '-s', '8', ...options, name, 'own.avif');
    run('avifdec', '-d', '16', 'own.avif', 'own.png');
    const png = sharp(join(folder, 'own.png'), { ignoreIcc: true }).toColourspace('rgb16');
    const { data, info } = await png.raw({ depth: 'ushort' }).toBuffer({ resolveWithObject: true });
    const theirs = new Uint16Array(data.buffer, data.byteOffset, data.length / 2);
    const image = await decodeImage(readFileSync(join(folder, 'own.avif')));
    expect([image.width, image.height, image.alpha]).toEqual([info.width, info.height, info.channels === 4]);
    const most = image.sampleType === 'u8' ? 255 : 65535;
    expect(image.sampleType).toBe(options.includes('8') ? 'u8' : 'u16');
    const pixels = (samples: ArrayLike<number>, scale: number): number[][] =>
      Array.from({ length: info.width * info.height }, (_, i) =>
        Array.from({ length: info.channels }, (_, c) => (255 * samples[i * info.channels + c]) / scale)
      );
    return { ours: pixels(image.samples, most), theirs: pixels(theirs, 65535) };
  }

  beforeAll(async () => {
    folder = mkdtempSync(join(tmpdir(), 'kromba-avif-'));
    const random = randomStream(3);
    for (const channels of [3, 4] as const) {
      const samples = Uint16Array.from({ length: channels * ACROSS * DOWN }, (_, i) => {
        const [c, pixel] = [i % channels, Math.floor(i / channels)];
        const [x, y] = [pixel % ACROSS, Math.floor(pixel / ACROSS)];
        if (c === 3) return Math.min(65535, 700 * x);
        return 32768 + 28000 * Math.sin(x / 7 + 2 * c) * Math.cos(y / 9 + c) + 3000 * random();
      });
      await sharp(samples, { raw: { width: ACROSS, height: DOWN, channels } })
        .toColourspace('rgb16')
        .png()
        .toFile(join(folder, `${channels}.png`));
    }
  });
  afterAll(() => rmSync(folder, { recursive: true, force: true }));

  it.each([
    ...['420', '422', '444', '400'].map((chroma) => ['-d', '8', '-y', chroma]),
    ...['420', '444', '400'].flatMap((chroma) => ['10', '12'].map((bits) => ['-d', bits, '-y', chroma])),
    ['-d', '8', '-y', '420', '-r', 'limited'],
    ['-d', '10', '-y', '444', '-r', 'limited'],
    ['-d', '8', '-y', '420', '--cicp', '9/13/9'],
    ['-d', '8', '-y', '444', '--cicp', '1/13/1'],
    ['-d', '8', '-y', '444', '--cicp', '1/13/0']
  ])('is read as it reads it: %s %s %s %s %s %s', async (...options) => {
    for (const name of ['3.png', '4.png']) {
      const { ours, theirs } = await bothOf(name, ...options);
      // What has 8 bits is rounded to them.
      const least = options.includes('8') ? 0.5 : 0;
      const off = ours.flatMap((pixel, i) => pixel.map((v, c) => Math.abs(v - theirs[i][c])));
      expect(Math.max(...off)).toBeLessThanOrEqual(least + 1e-9);
    }
  });

  it('is cut as it says to be, before it is turned', async () => {
    const cut = ['--crop', '10,12,60,40'];
    const { theirs } = await bothOf('3.png', '-d', '8', '-y', '444');
    run(AVIFENC, '--min', '5', '--max', '10', '-s', '8', '-d', '8', '-y', '444', ...cut, '3.png', 'cut.avif');
    const image = await decodeImage(readFileSync(join(folder, 'cut.avif')));
    expect([image.width, image.height, image.notices]).toEqual([60, 40, []]);
    for (let i = 0; i < 60 * 40; i++) {
      const there = (12 + Math.floor(i / 60)) * ACROSS + 10 + (i % 60);
      for (let c = 0; c < 3; c++)
        expect(Math.abs(image.samples[3 * i + c] - theirs[there][c])).toBeLessThan(0.51);
    }
  });
});
