import { deflateSync } from 'node:zlib';
import sharp, { type Sharp } from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { provideNodeWasm } from '../../engine/node/wasm';
import { randomStream } from '../random';
import { largestDifference } from '../testing';
import { decodeImage, type FileError } from '.';

/** Flavours of TIFF that few programs write: put together by hand after TIFF 6.0, or written by libtiff, by sharp. */
beforeAll(provideNodeWasm);

type Field = readonly [tag: number, type: 1 | 3 | 4, values: readonly number[]];
const SIZES = { 1: 1, 3: 2, 4: 4 };

/** A file of one strip. @param base where it is to stand in another */
function tiffOf(
  fields: readonly Field[],
  strip: Uint8Array,
  { big = false, little = true, base = 0 } = {}
): Uint8Array {
  const all = [...fields, [273, 4, [0]], [279, 4, [strip.length]]] as [number, 1 | 3 | 4, number[]][];
  all.sort(([a], [b]) => a - b);
  const [header, entry, own, counts] = big ? [16, 20, 8, 8] : [8, 12, 4, 2];
  let at = header + counts + entry * all.length + own;
  const far = all.map(([, type, values]) => {
    const length = SIZES[type] * values.length;
    const place = at;
    if (length > own) at += length + (length % 2);
    return place;
  });
  const bytes = new Uint8Array(at + strip.length);
  const view = new DataView(bytes.buffer);
  const long = (where: number, value: number): void =>
    big ? view.setBigUint64(where, BigInt(value), little) : view.setUint32(where, value, little);
  bytes.fill(little ? 0x49 : 0x4d, 0, 2);
  view.setUint16(2, big ? 43 : 42, little);
  if (big) view.setUint16(4, 8, little);
  long(big ? 8 : 4, header);
  if (big) view.setBigUint64(header, BigInt(all.length), little);
  else view.setUint16(header, all.length, little);
  all.forEach(([tag, type, values], i) => {
    const place = header + counts + entry * i;
    view.setUint16(place, tag, little);
    view.setUint16(place + 2, type, little);
    long(place + 4, values.length);
    const inside = SIZES[type] * values.length <= own;
    if (!inside) long(place + entry - own, base + far[i]);
    (tag === 273 ? [base + at] : values).forEach((value, v) => {
      const where = (inside ? place + entry - own : far[i]) + v * SIZES[type];
      if (type === 1) view.setUint8(where, value);
      else if (type === 3) view.setUint16(where, value, little);
      else view.setUint32(where, value, little);
    });
  });
  bytes.set(strip, at);
  return bytes;
}

const picture = (
  width: number,
  height: number,
  bits: readonly number[],
  photometric: number,
  more: readonly Field[] = []
): Field[] => [
  [256, 4, [width]],
  [257, 4, [height]],
  [258, 3, bits],
  [259, 3, [1]],
  [262, 3, [photometric]],
  [277, 3, [bits.length]],
  [278, 4, [height]],
  ...more
];

const compressedBy = (number: number, fields: readonly Field[]): Field[] =>
  fields.map((field) => (field[0] === 259 ? [259, 3, [number]] : field));
const asJpeg = (fields: readonly Field[]): Field[] => compressedBy(7, fields);

const random = randomStream(41);
const [WIDTH, HEIGHT] = [37, 23];
const noise = (count: number, most: number): number[] =>
  Array.from({ length: count }, () => Math.floor(random() * (most + 1)));

/** Bit on bit, the highest first, each row from a byte of its own. */
function packed(values: readonly number[], rowLength: number, depth: number): Uint8Array {
  const rows: number[] = [];
  for (let row = 0; row < values.length; row += rowLength) {
    const bits = values
      .slice(row, row + rowLength)
      .map((v) => v.toString(2).padStart(depth, '0'))
      .join('');
    for (let i = 0; i < bits.length; i += 8) rows.push(parseInt(bits.slice(i, i + 8).padEnd(8, '0'), 2));
  }
  return Uint8Array.from(rows);
}

describe('a picture larger than what is read at a time', () => {
  // More than a mebibyte, and no whole number of them.
  const [wide, high] = [401, 613];
  it.each([
    [16, true],
    [16, false],
    [32, true],
    [32, false]
  ])('has its samples of %i bits where they belong, low byte first: %s', async (depth, little) => {
    const count = 3 * wide * high;
    const values =
      depth === 16 ? Uint16Array.from(noise(count, 65535)) : Float32Array.from({ length: count }, random);
    const strip = new Uint8Array((count * depth) / 8);
    const view = new DataView(strip.buffer);
    values.forEach((value, i) =>
      depth === 16 ? view.setUint16(2 * i, value, little) : view.setFloat32(4 * i, value, little)
    );
    const formats: Field[] = depth === 32 ? [[339, 3, [3, 3, 3]]] : [];
    const fields = picture(wide, high, [depth, depth, depth], 2, formats);
    const plain = tiffOf(fields, strip, { little });
    const deflated = tiffOf(compressedBy(8, fields), new Uint8Array(deflateSync(strip)), { little });
    // Wherever in memory the file begins.
    for (const file of [plain, deflated])
      for (const shift of [0, 1, 2]) {
        const held = new Uint8Array(file.length + shift).subarray(shift);
        held.set(file);
        const { samples } = await decodeImage(held);
        expect(samples.length).toBe(count);
        expect(samples.every((sample, i) => sample === values[i])).toBe(true);
      }
  });
});

describe('samples that lie bit on bit', () => {
  it.each([1, 2, 4, 6])('of %i bits a channel become 8', async (depth) => {
    const values = noise(WIDTH * HEIGHT, 2 ** depth - 1);
    const file = tiffOf(picture(WIDTH, HEIGHT, [depth], 1), packed(values, WIDTH, depth));
    const { samples, sampleType } = await decodeImage(file);
    expect(sampleType).toBe('u8');
    expect([...samples]).toEqual(values.map((v) => Math.round((v / (2 ** depth - 1)) * 255)));
    // libtiff by sharp reads these as well.
    if (depth < 6)
      expect([...(await sharp(file).toColourspace('b-w').raw().toBuffer())]).toEqual([...samples]);
  });

  it.each([10, 12, 14])(
    'of %i bits a channel become 16, in colour and in both orders of bytes',
    async (depth) => {
      const values = noise(WIDTH * HEIGHT * 3, 2 ** depth - 1);
      for (const little of [true, false]) {
        const file = tiffOf(
          picture(WIDTH, HEIGHT, [depth, depth, depth], 2),
          packed(values, 3 * WIDTH, depth),
          { little }
        );
        const { samples, sampleType } = await decodeImage(file);
        expect(sampleType).toBe('u16');
        expect([...samples]).toEqual(values.map((v) => Math.round((v / (2 ** depth - 1)) * 65535)));
      }
    }
  );

  it('of one bit, white being 0, are turned over', async () => {
    const file = tiffOf(picture(3, 1, [1], 0), Uint8Array.of(0b01000000));
    expect([...(await decodeImage(file)).samples]).toEqual([255, 0, 255]);
  });
});

describe('wide samples', () => {
  const floats = Array.from({ length: WIDTH * HEIGHT }, () => random() * 3 - 1);

  it.each([true, false])('of 64-bit floats become 32-bit ones (little endian: %s)', async (little) => {
    const strip = new Uint8Array(8 * floats.length);
    const view = new DataView(strip.buffer);
    floats.forEach((v, i) => view.setFloat64(8 * i, i === 5 ? Number.NaN : v, little));
    const file = tiffOf(picture(WIDTH, HEIGHT, [64], 1, [[339, 3, [3]]]), strip, { little });
    const { samples, sampleType } = await decodeImage(file);
    expect(sampleType).toBe('f32');
    expect([...samples]).toEqual(floats.map((v, i) => (i === 5 ? Number.NaN : Math.fround(v))));
  });

  it('of 16-bit floats', async () => {
    // 1, −2, the largest, the least above nothing, the least that is normal, infinity, no number (IEEE 754-2008, 3.4).
    const bits = [0x3c00, 0xc000, 0x7bff, 0x0001, 0x0400, 0x7c00, 0x7e00, 0x3555];
    const strip = new Uint8Array(Uint16Array.from(bits).buffer);
    const { samples } = await decodeImage(tiffOf(picture(8, 1, [16], 1, [[339, 3, [3]]]), strip));
    const wanted = [1, -2, 65504, 2 ** -24, 2 ** -14, Infinity, Number.NaN, 0.333251953125];
    expect([...samples]).toEqual(wanted);
  });

  it('of 32-bit integers are parts of their largest, by a predictor too', async () => {
    const values = [0, 2 ** 31, 2 ** 32 - 1, 1000];
    const stored = Uint32Array.from(values, (v, i) => v - (i ? values[i - 1] : 0));
    for (const [numbers, predictor] of [
      [Uint32Array.from(values), 1],
      [stored, 2]
    ] as const) {
      const file = tiffOf(picture(4, 1, [32], 1, [[317, 3, [predictor]]]), new Uint8Array(numbers.buffer));
      expect([...(await decodeImage(file)).samples]).toEqual(
        values.map((v) => Math.fround(v / (2 ** 32 - 1)))
      );
    }
  });
});

describe('palettes', () => {
  const colours = (depth: number): number[] => noise(3 * 2 ** depth, 255).map((v) => v * 257);

  it.each([1, 4, 8])('of %i bits become their colours', async (depth) => {
    const map = colours(depth);
    const numbers = noise(WIDTH * HEIGHT, 2 ** depth - 1);
    const file = tiffOf(picture(WIDTH, HEIGHT, [depth], 3, [[320, 3, map]]), packed(numbers, WIDTH, depth));
    const { samples, layout, sampleType } = await decodeImage(file);
    expect([layout, sampleType]).toEqual(['rgb', 'u8']);
    const theirs = await sharp(file).removeAlpha().toColourspace('srgb').raw().toBuffer();
    expect([...samples]).toEqual([...theirs]);
  });

  it('of colours between those of 8 bits keep them', async () => {
    const map = [0, 1000, 65535, 4, 5, 6, 70, 80, 90, 1, 2, 3];
    const file = tiffOf(picture(4, 1, [2], 3, [[320, 3, map]]), packed([0, 1, 2, 3], 4, 2));
    const { samples, sampleType } = await decodeImage(file);
    expect(sampleType).toBe('u16');
    expect([...samples]).toEqual([0, 5, 90, 1000, 6, 1, 65535, 70, 2, 4, 80, 3]);
  });

  it('that are too short are told', async () => {
    const file = tiffOf(picture(4, 1, [2], 3, [[320, 3, [1, 2, 3]]]), packed([0, 1, 2, 3], 4, 2));
    await expect(decodeImage(file)).rejects.toThrow('its palette does not fit its samples');
  });
});

const soft = (channels: 1 | 3 | 4): Sharp => {
  const [width, height] = [300, 200];
  const data = Uint8Array.from({ length: width * height * channels }, (_, i) => {
    const [c, x, y] = [i % channels, Math.floor(i / channels) % width, Math.floor(i / channels / width)];
    return 128 + 100 * Math.sin((x + 20 * c) / 31) * Math.cos(y / 23);
  });
  return sharp(data, { raw: { width, height, channels } });
};

describe('BigTIFF', () => {
  it('is read as libtiff writes it', async () => {
    const image = soft(3);
    for (const compression of ['none', 'deflate', 'lzw'] as const) {
      const file = new Uint8Array(
        await image.clone().tiff({ bigtiff: true, compression, predictor: 'horizontal' }).toBuffer()
      );
      expect(file[2]).toBe(43);
      const { samples, width, height } = await decodeImage(file);
      expect([width, height]).toEqual([300, 200]);
      expect(Buffer.from(samples as Uint8Array).equals(await image.clone().raw().toBuffer())).toBe(true);
    }
  });

  it('is read in both orders of bytes, and told where it breaks off', async () => {
    const values = Uint8Array.from(noise(WIDTH * HEIGHT, 255));
    for (const little of [true, false]) {
      const file = tiffOf(picture(WIDTH, HEIGHT, [8], 1), values, { big: true, little });
      expect([...(await decodeImage(file)).samples]).toEqual([...values]);
      for (const length of [9, 15, 20, 100, file.length - 1])
        await expect(decodeImage(file.subarray(0, length)), String(length)).rejects.toThrow(
          /ends before|damaged/
        );
      // A directory beyond all files.
      const lost = Uint8Array.from(file);
      lost.fill(0xff, 8, 16);
      await expect(decodeImage(lost)).rejects.toThrow(/ends before/);
    }
  });
});

describe('JPEG in a TIFF', () => {
  const cases: [string, () => Sharp, object][] = [
    ['colours by YCbCr, in strips', () => soft(3), {}],
    ['colours, in tiles', () => soft(3), { tile: true, tileWidth: 128, tileHeight: 128 }],
    ['greys', () => soft(1).toColourspace('b-w'), {}],
    ['the best quality, which is not sampled less often', () => soft(3), { quality: 98 }]
  ];
  it.each(cases)('is read: %s', async (_, image, options) => {
    const file = await image()
      .tiff({ compression: 'jpeg', quality: 85, ...options })
      .toBuffer();
    const { samples, layout, width, height } = await decodeImage(new Uint8Array(file));
    expect([width, height]).toEqual([300, 200]);
    const theirs = sharp(file);
    const { data, info } = await (layout === 'grey' ? theirs.toColourspace('b-w') : theirs)
      .raw()
      .toBuffer({ resolveWithObject: true });
    expect(samples).toHaveLength(300 * 200 * info.channels);
    // Decoders of JPEG may differ by their rounding.
    expect(largestDifference(samples, data)).toBeLessThanOrEqual(3);
    expect(largestDifference(samples, await image().raw().toBuffer())).toBeLessThan(24);
  });

  it('of channels that are RGB themselves is not taken for YCbCr', async () => {
    // Three channels that differ, each kept by a JPEG without transform: the one of a CMYK has none either.
    const flat = await sharp({ create: { width: 16, height: 16, channels: 3, background: '#c81e50' } })
      .jpeg({ quality: 100, chromaSubsampling: '4:4:4' })
      .toBuffer();
    const strip = new Uint8Array(flat);
    const asYcc = tiffOf(asJpeg(picture(16, 16, [8, 8, 8], 6)), strip);
    const asRgb = tiffOf(asJpeg(picture(16, 16, [8, 8, 8], 2)), strip);
    expect(
      [...(await decodeImage(asYcc)).samples.subarray(0, 3)].map(
        (v, i) => Math.abs(v - [200, 30, 80][i]) <= 2
      )
    ).toEqual([true, true, true]);
    // Its channels are Y, Cb and Cr of that colour then (BT.601).
    const [y, cb, cr] = [
      0.299 * 200 + 0.587 * 30 + 0.114 * 80,
      128 + (80 - 86.53) / 1.772,
      128 + (200 - 86.53) / 1.402
    ];
    const raw = (await decodeImage(asRgb)).samples;
    [y, cb, cr].forEach((v, i) => expect(Math.abs(raw[i] - v)).toBeLessThan(2.5));
  });

  it('that is damaged, or another picture’s, is told', async () => {
    const other = new Uint8Array(await soft(3).resize(32, 16).jpeg().toBuffer());
    const wrong = tiffOf(asJpeg(picture(16, 16, [8, 8, 8], 6)), other);
    await expect(decodeImage(wrong)).rejects.toThrow('32×16 pixels of 3 channels where 16×16 of 3 belong');
    const short = tiffOf(asJpeg(picture(32, 16, [8, 8, 8], 6)), other.subarray(0, -100));
    await expect(decodeImage(short)).rejects.toThrow('ends before');
    const none = tiffOf(asJpeg(picture(16, 16, [8, 8, 8], 6)), new Uint8Array(50));
    const error = await decodeImage(none).catch((e: FileError) => e);
    expect((error as Error).message).toMatch(/damaged: a part of it/);
  });
});

it('inks with alpha keep both', async () => {
  const values = Uint8Array.from(noise(4 * 5, 255));
  const file = tiffOf(picture(4, 1, [8, 8, 8, 8, 8], 5, [[338, 3, [2]]]), values);
  const { samples, layout, alpha } = await decodeImage(file);
  expect([layout, alpha]).toEqual(['cmyk', true]);
  expect([...samples]).toEqual([...values]);
});

describe('a file of several pictures', () => {
  const small = noise(8 * 6, 255);
  const grey = noise(WIDTH * HEIGHT, 255);
  const colour = noise(12 * 9 * 3, 255);
  type Page = readonly [fields: readonly Field[], strip: Uint8Array];
  /** Files behind each other, each of which leads to the next. @param last where the last leads to */
  function chained(pages: readonly Page[], last = 0): Uint8Array {
    const parts: Uint8Array[] = [];
    let base = 0;
    pages.forEach(([fields, strip], i) => {
      const part = tiffOf(fields, strip, { base });
      const view = new DataView(part.buffer);
      const link = 8 + 2 + 12 * view.getUint16(8, true);
      base += part.length;
      view.setUint32(link, i < pages.length - 1 ? base + 8 : last, true);
      parts.push(part);
    });
    return new Uint8Array(Buffer.concat(parts));
  }
  const name = [...new TextEncoder().encode('Bracket 2\0')];
  const pages: readonly Page[] = [
    [picture(8, 6, [8], 1, [[254, 4, [1]]]), Uint8Array.from(small)],
    [picture(WIDTH, HEIGHT, [8], 1), Uint8Array.from(grey)],
    [picture(8, 6, [8], 1, [[254, 4, [4]]]), Uint8Array.from(small)],
    [picture(12, 9, [8, 8, 8], 2, [[285, 1, name]]), Uint8Array.from(colour)]
  ];
  const parts = [
    { hdu: 0, name: 'Picture 1', width: WIDTH, height: HEIGHT },
    { hdu: 1, name: 'Bracket 2', width: 12, height: 9 }
  ];

  it('is read for the first, or for the one that is chosen; previews and masks are none', async () => {
    const file = chained(pages);
    const first = await decodeImage(file);
    expect([...first.samples]).toEqual(grey);
    expect(first.pages).toEqual({ hdu: 0, parts });
    expect(first.notices.join(' ')).toContain('2 pictures; this is number 1');
    const second = await decodeImage(file, { hdu: 1 });
    expect([...second.samples]).toEqual(colour);
    expect([second.layout, second.pages]).toEqual(['rgb', { hdu: 1, parts }]);
    await expect(decodeImage(file, { hdu: 2 })).rejects.toThrow('no picture in its part 3');
  });

  it('is read as libtiff has each of them', async () => {
    const names = ['#102030', '#a0b0c0'];
    const given = await Promise.all(
      names.map((background) =>
        sharp({ create: { width: 30, height: 20, channels: 3, background } })
          .png()
          .toBuffer()
      )
    );
    const file = new Uint8Array(
      await sharp(given, { join: { animated: true } })
        .tiff({ compression: 'lzw' })
        .toBuffer()
    );
    for (const hdu of [0, 1]) {
      const wanted = await sharp(Buffer.from(file), { page: hdu }).raw().toBuffer();
      expect(largestDifference((await decodeImage(file, { hdu })).samples, wanted)).toBe(0);
    }
  });

  it('ends where its chain leads nowhere, or round', async () => {
    for (const last of [2 ** 31, 8, 3]) {
      const image = await decodeImage(chained(pages.slice(1, 2), last));
      expect([...image.samples]).toEqual(grey);
    }
  });
});
