import { converter } from 'culori';
import { encode as fastPng, decode as fastPngDecode } from 'fast-png';
import { fromArrayBuffer } from 'geotiff';
import sharp, { type Sharp, type TiffOptions } from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { provideNodeWasm } from '../../engine/node/wasm';
import { randomStream } from '../random';
import type { Samples } from '../raster/frame';
import type { Raster } from '../raster/raster';
import { spaceOf } from '../colour/output';
import { RGB_TO_XYZ } from '../colour/xyz';
import { quantize } from '../path/quantize';
import { decodeImage, fileFormats, formatForName } from '.';
import { crc32 } from './crc';
import { openFrame } from './open-frame';
import { matrixProfile, spaceProfile, srgbProfile } from './srgb-profile';

beforeAll(provideNodeWasm);

const WIDTH = 67;
const HEIGHT = 45;

/** A soft pattern with some noise, so that every PNG filter and long LZW strings occur. */
function pattern(channels: number, max: number): Uint16Array {
  const random = randomStream(9);
  return Uint16Array.from({ length: WIDTH * HEIGHT * channels }, (_, i) => {
    const x = Math.floor(i / channels) % WIDTH;
    return Math.floor((0.45 * (Math.sin(x / 9 + i) + 1) * (x % 11 < 8 ? 1 : 0) + 0.1 * random()) * max);
  });
}

const raw = (
  channels: 1 | 2 | 3 | 4,
  deep: boolean
): { data: Uint8Array | Uint16Array; image: () => Sharp } => {
  const wide = pattern(channels, deep ? 65535 : 255);
  const data = deep ? wide : Uint8Array.from(wide);
  const image = (): Sharp => {
    const input = sharp(data, { raw: { width: WIDTH, height: HEIGHT, channels } });
    if (!deep) return channels < 3 ? input.toColourspace('b-w') : input;
    return input.toColourspace(channels < 3 ? 'grey16' : 'rgb16');
  };
  return { data, image };
};

const list = (samples: Samples): number[] => Array.from(samples);

describe('PNG', () => {
  it.each([
    [1, false],
    [2, false],
    [3, false],
    [4, false],
    [1, true],
    [2, true],
    [3, true],
    [4, true]
  ] as [1 | 2 | 3 | 4, boolean][])(
    'reads %d channels, 16 bit: %s, straight and interlaced',
    async (channels, deep) => {
      const { data, image } = raw(channels, deep);
      for (const progressive of [false, true]) {
        const decoded = await decodeImage(
          await image().png({ progressive, adaptiveFiltering: true }).toBuffer()
        );
        expect([decoded.width, decoded.height, decoded.sampleType]).toEqual([
          WIDTH,
          HEIGHT,
          deep ? 'u16' : 'u8'
        ]);
        expect([decoded.layout, decoded.alpha]).toEqual([channels < 3 ? 'grey' : 'rgb', channels % 2 === 0]);
        expect(list(decoded.samples)).toEqual(list(data));
      }
    }
  );

  it.each([1, 2, 4] as const)('reads %d-bit grey', async (depth) => {
    const max = 2 ** depth - 1;
    const rowBytes = Math.ceil((WIDTH * depth) / 8);
    const packed = new Uint8Array(rowBytes * HEIGHT);
    const wanted: number[] = [];
    for (let y = 0; y < HEIGHT; y++) {
      for (let x = 0; x < WIDTH; x++) {
        const v = (x * 3 + y) & max;
        wanted.push(Math.round((v * 255) / max));
        packed[y * rowBytes + ((x * depth) >> 3)] |= v << (8 - depth - ((x * depth) & 7));
      }
    }
    const file = fastPng({ width: WIDTH, height: HEIGHT, data: packed, depth, channels: 1 });
    expect(list((await decodeImage(file)).samples)).toEqual(wanted);
  });

  it('reads a palette with alpha as sharp does', async () => {
    const { image } = raw(4, false);
    const file = await image().png({ palette: true, colours: 40 }).toBuffer();
    const wanted = await sharp(file).raw().toBuffer();
    const decoded = await decodeImage(file);
    expect(decoded.alpha).toBe(true);
    expect(list(decoded.samples)).toEqual(list(wanted));
  });
});

describe('TIFF', () => {
  const variants: [string, TiffOptions][] = [
    ['plain strips', { compression: 'none' }],
    ['LZW with predictor', { compression: 'lzw', predictor: 'horizontal' }],
    ['LZW without predictor', { compression: 'lzw', predictor: 'none' }],
    ['Deflate with predictor', { compression: 'deflate', predictor: 'horizontal' }],
    ['PackBits', { compression: 'packbits' }],
    ['tiles', { compression: 'lzw', predictor: 'horizontal', tile: true, tileWidth: 32, tileHeight: 16 }]
  ];
  it.each(variants)('reads %s', async (_, options) => {
    for (const deep of [false, true]) {
      for (const channels of [1, 3, 4] as const) {
        const { data, image } = raw(channels, deep);
        const decoded = await decodeImage(await image().tiff(options).toBuffer());
        expect(decoded.alpha).toBe(channels === 4);
        expect(list(decoded.samples)).toEqual(list(data));
      }
    }
  });

  it('reads 32-bit floats, also with their predictor', async () => {
    const data = Float32Array.from(pattern(3, 65535), (v) => v / 40000 - 0.2);
    const plain = await fileFormats[2].write(
      { width: WIDTH, height: HEIGHT, alpha: false, samples: data },
      {}
    );
    const tiff = await (await fromArrayBuffer(new Uint8Array(plain).buffer)).getImage();
    expect(Array.from((await tiff.readRasters({ interleave: true })) as Float32Array)).toEqual(list(data));
    const predicted = floatPredictor(plain, data);
    expect(list((await decodeImage(predicted)).samples)).toEqual(list(data));
  });

  it('reads big-endian planes', async () => {
    const wide = pattern(3, 65535);
    const file = bigEndianPlanar(wide);
    expect(list((await decodeImage(file)).samples)).toEqual(list(wide));
  });

  it('reads CMYK as ink', async () => {
    const ink = Uint8Array.from(pattern(4, 255));
    const file = await sharp(ink, { raw: { width: WIDTH, height: HEIGHT, channels: 4 } })
      .toColourspace('cmyk')
      .tiff({ compression: 'none' })
      .toBuffer();
    const decoded = await decodeImage(file);
    const tiff = await (await fromArrayBuffer(new Uint8Array(file).buffer)).getImage();
    expect(decoded.layout).toBe('cmyk');
    expect(list(decoded.samples)).toEqual(
      Array.from((await tiff.readRasters({ interleave: true })) as Uint8Array)
    );
  });
});

/** `plain` with its one strip turned into predictor 3 (TIFF Technical Note 3) and its tag added over tag 274. */
function floatPredictor(plain: Uint8Array, data: Float32Array): Uint8Array {
  const file = plain.slice();
  const view = new DataView(file.buffer);
  const count = view.getUint16(8, true);
  for (let i = 0; i < count; i++) {
    const at = 10 + 12 * i;
    if (view.getUint16(at, true) !== 274) continue;
    view.setUint16(at, 317, true);
    view.setUint16(at + 8, 3, true);
  }
  const strip = file.subarray(file.length - data.byteLength);
  const row = WIDTH * 3;
  for (let y = 0; y < HEIGHT; y++) {
    const bytes = new Uint8Array(row * 4);
    for (let i = 0; i < row; i++) {
      const big = new DataView(new ArrayBuffer(4));
      big.setFloat32(0, data[y * row + i]);
      for (let k = 0; k < 4; k++) bytes[k * row + i] = big.getUint8(k);
    }
    for (let i = bytes.length - 1; i >= 3; i--) bytes[i] -= bytes[i - 3];
    strip.set(bytes, y * row * 4);
  }
  return file;
}

/** A planar, big-endian 16-bit RGB TIFF, one strip a plane, built by hand from TIFF 6.0. */
function bigEndianPlanar(interleaved: Uint16Array): Uint8Array {
  const plane = WIDTH * HEIGHT * 2;
  const entries: [number, number, number, number][] = [
    [256, 3, 1, WIDTH << 16],
    [257, 3, 1, HEIGHT << 16],
    [258, 3, 3, 200],
    [259, 3, 1, 1 << 16],
    [262, 3, 1, 2 << 16],
    [273, 4, 3, 208],
    [277, 3, 1, 3 << 16],
    [278, 3, 1, HEIGHT << 16],
    [279, 4, 3, 220],
    [284, 3, 1, 2 << 16]
  ];
  const file = new DataView(new ArrayBuffer(240 + 3 * plane));
  file.setUint32(0, 0x4d4d002a);
  file.setUint32(4, 8);
  file.setUint16(8, entries.length);
  entries.forEach(([tag, type, count, value], i) => {
    file.setUint16(10 + 12 * i, tag);
    file.setUint16(12 + 12 * i, type);
    file.setUint32(14 + 12 * i, count);
    file.setUint32(18 + 12 * i, value);
  });
  for (let c = 0; c < 3; c++) {
    file.setUint16(200 + 2 * c, 16);
    file.setUint32(208 + 4 * c, 240 + c * plane);
    file.setUint32(220 + 4 * c, plane);
  }
  interleaved.forEach((v, i) => file.setUint16(240 + (i % 3) * plane + 2 * Math.floor(i / 3), v));
  return new Uint8Array(file.buffer);
}

describe('JPEG', () => {
  const soft = sharp({ create: { width: 64, height: 48, channels: 3, background: '#c83' } });
  it.each([
    ['baseline', false],
    ['progressive', true]
  ])('reads %s within rounding of sharp', async (_, progressive) => {
    const { image } = raw(3, false);
    const file = await image()
      .blur(2)
      .jpeg({ quality: 95, progressive, chromaSubsampling: '4:4:4' })
      .toBuffer();
    const wanted = await sharp(file).raw().toBuffer();
    const { samples, layout } = await decodeImage(file);
    expect(layout).toBe('rgb');
    expect(Math.max(...wanted.map((v, i) => Math.abs(v - samples[i])))).toBeLessThanOrEqual(2);
  });

  it('reads grey as one channel', async () => {
    const file = await soft.clone().toColourspace('b-w').jpeg().toBuffer();
    const decoded = await decodeImage(file);
    expect([decoded.layout, decoded.samples.length]).toEqual(['grey', 64 * 48]);
  });

  it.each([1, 2, 3, 4, 5, 6, 7, 8])('stands upright for EXIF orientation %d', async (orientation) => {
    const data = Buffer.alloc(64 * 48 * 3);
    for (let i = 0; i < 64 * 48; i++) data.set([(i % 64) * 4, Math.floor(i / 64) * 5, 128], 3 * i);
    const file = await sharp(data, { raw: { width: 64, height: 48, channels: 3 } })
      .withMetadata({ orientation })
      .jpeg({ quality: 100, chromaSubsampling: '4:4:4' })
      .toBuffer();
    const wanted = await sharp(file).autoOrient().raw().toBuffer({ resolveWithObject: true });
    const { frame } = await openFrame(file);
    expect([frame.width, frame.height]).toEqual([wanted.info.width, wanted.info.height]);
    const worst = wanted.data.reduce((m, v, i) => Math.max(m, Math.abs(v - frame.levels[0].samples[i])), 0);
    expect(worst).toBeLessThanOrEqual(3);
  });
});

describe('profiles', () => {
  it('keeps samples that are sRGB already, by our own profile and by others', async () => {
    const { data, image } = raw(3, false);
    const { frame } = await openFrame(await image().withIccProfile('srgb').png().toBuffer());
    expect(frame.sampleType).toBe('u8');
    expect(list(frame.levels[0].samples)).toEqual(list(data));
    expect(srgbProfile().length % 4).toBe(0);
  });

  it('converts a wider space so that it looks the same; values outside stay outside', async () => {
    // Display P3 red is sRGB (1.0930, −0.2267, −0.1501) in extended coding (CSS Color 4).
    const file = await sharp({ create: { width: 8, height: 8, channels: 3, background: '#f00' } })
      .withIccProfile('p3', { attach: true })
      .png()
      .toBuffer();
    const { frame } = await openFrame(file);
    const converted = await sharp(file).toColourspace('srgb').raw().toBuffer();
    expect(frame.sampleType).toBe('f32');
    const found = list(frame.levels[0].samples).slice(0, 3);
    for (let c = 0; c < 3; c++) expect(Math.abs(found[c] * 255 - converted[c])).toBeLessThan(1.5);
  });
});

describe('files in other spaces', () => {
  const colours = Float32Array.from([0.2, 0.5, 0.8, 0.9, 0.1, 0.3, 1, 1, 1, 0, 0, 0]);
  const planes = [0, 1, 2].map((c) => colours.filter((_, i) => i % 3 === c));
  const raster = {
    ...{ x: 0, y: 0, width: 4, height: 1, encoding: 'coded' as const, alpha: null },
    planes: planes as unknown as Raster['planes']
  };

  it.each(
    fileFormats.flatMap(({ id, spaces, depths }) =>
      spaces.filter((space) => space !== 'srgb').map((space) => [id, space, depths[0]] as const)
    )
  )('come back as they were: %s in %s', async (id, space, depth) => {
    const format = fileFormats.find((one) => one.id === id)!;
    const samples = depth === 'u8' ? new Uint8Array(12) : new Uint16Array(12);
    quantize(raster, samples, 4, { space });
    // What compresses by blocks needs some of one colour.
    const side = 16;
    const wide = samples.slice(0, 0).constructor as Uint16ArrayConstructor;
    const large = wide.from({ length: 12 * side * side }, (_, i) => {
      const x = Math.floor(i / 3) % (4 * side);
      return samples[3 * Math.floor(x / side) + (i % 3)];
    });
    const profile = spaceProfile(spaceOf(space));
    const image = { width: 4 * side, height: side, alpha: false, samples: large, profile };
    const file = await format.write(image, { quality: 100, space });
    const { frame } = await openFrame(file);
    expect(frame.encoding).toBe('coded');
    const found = frame.levels[0].samples;
    const scale = frame.sampleType === 'f32' ? 1 : frame.sampleType === 'u16' ? 1 / 65535 : 1 / 255;
    const close = format.quality === null ? 0.0005 : 0.02;
    for (let k = 0; k < 4; k++)
      for (let c = 0; c < 3; c++) {
        const at = 3 * (4 * side * 8 + side * k + 8) + c;
        expect(Math.abs(found[at] * scale - colours[3 * k + c])).toBeLessThan(close);
      }
  });
});

describe('a profile of a plain gamma', () => {
  it('keeps the samples of a float TIFF that are below 0, by odd symmetry', async () => {
    const gamma = 1.8;
    const values = [-0.5, -0.1, 0, 0.1, 0.5, 1.2];
    const samples = Float32Array.from(values.flatMap((v) => [v, v, v]));
    const file = Buffer.from(
      await fileFormats[2].write({ width: values.length, height: 1, alpha: false, samples }, {})
    );
    const { frame } = await openFrame(withProfile(file, matrixProfile('gamma', RGB_TO_XYZ, { gamma })));
    values.forEach((v, i) => {
      // By hand: light = v^1.8, coded by the formula of IEC 61966-2-1.
      const light = Math.abs(v) ** gamma;
      const coded = light <= 0.0031308 ? 12.92 * light : 1.055 * light ** (1 / 2.4) - 0.055;
      for (let c = 0; c < 3; c++) {
        expect(frame.levels[0].samples[3 * i + c]).toBeCloseTo(Math.sign(v) * coded, 3);
      }
    });
  });
});

/** The same TIFF with another profile behind its end. */
function withProfile(tiff: Buffer, profile: Uint8Array): Buffer {
  const copy = Buffer.concat([tiff, profile]);
  const directory = copy.readUInt32LE(4);
  for (let i = 0; i < copy.readUInt16LE(directory); i++) {
    const at = directory + 2 + 12 * i;
    if (copy.readUInt16LE(at) !== 34675) continue;
    copy.writeUInt32LE(profile.length, at + 4);
    copy.writeUInt32LE(tiff.length, at + 8);
  }
  return copy;
}

describe('what a PNG says of its colours without a profile', () => {
  const pixel = [200, 120, 40];
  const chunk = (type: string, content: Uint8Array): Buffer => {
    const out = Buffer.alloc(12 + content.length);
    out.writeUInt32BE(content.length);
    out.write(type, 4, 'latin1');
    out.set(content, 8);
    out.writeUInt32BE(crc32(out.subarray(4, 8 + content.length)), 8 + content.length);
    return out;
  };
  const longs = (...values: number[]): Uint8Array => {
    const out = Buffer.alloc(4 * values.length);
    values.forEach((v, i) => out.writeUInt32BE(v, 4 * i));
    return out;
  };
  async function opened(
    ...chunks: Buffer[]
  ): Promise<{ rgb: number[]; type: string; encoding: string; notices: readonly string[] }> {
    const png = await sharp(Uint8Array.from(pixel), { raw: { width: 1, height: 1, channels: 3 } })
      .png()
      .toBuffer();
    const file = Buffer.concat([png.subarray(0, 33), ...chunks, png.subarray(33)]);
    const { frame, notices } = await openFrame(file);
    const { samples } = frame.levels[0];
    const scale = samples instanceof Float32Array ? 1 : 1 / 255;
    const { sampleType: type, encoding } = frame;
    return { rgb: Array.from(samples, (v) => v * scale), type, encoding, notices };
  }
  const plain = pixel.map((v) => v / 255);
  const inSrgb = (mode: 'p3' | 'rec2020' | 'lrgb', [r, g, b] = plain): number[] => {
    const found = converter('rgb')({ mode, r, g, b } as never) as unknown as {
      r: number;
      g: number;
      b: number;
    };
    return [found.r, found.g, found.b];
  };
  const near = (found: readonly number[], wanted: readonly number[]): void =>
    found.forEach((v, c) => expect(Math.abs(v - wanted[c]), `channel ${c}`).toBeLessThan(1e-3));
  const GAMMA = (v: number): Buffer => chunk('gAMA', longs(v));
  const P3 = chunk('cHRM', longs(31270, 32900, 68000, 32000, 26500, 69000, 15000, 6000));

  it('leaves linear values by gAMA linear, and says so', async () => {
    const { rgb, type, encoding, notices } = await opened(GAMMA(100_000));
    expect([type, encoding]).toEqual(['u8', 'linear']);
    expect(notices.join()).toContain('proportional to light');
    near(rgb, plain);
  });

  it('reads a gamma of 1.8, by hand', async () => {
    // Coded, as its values are no light by themselves.
    const wanted = inSrgb(
      'lrgb',
      plain.map((v) => v ** 1.8)
    );
    near((await opened(GAMMA(55_556))).rgb, wanted);
  });

  it('takes the usual 1/2.2 for sRGB, whose samples stay', async () => {
    const { rgb, type } = await opened(GAMMA(45_455));
    expect(type).toBe('u8');
    near(rgb, plain);
  });

  it('reads other primaries by cHRM', async () => near((await opened(P3)).rgb, inSrgb('p3')));

  it('lets sRGB count before gAMA and cHRM', async () => {
    const { rgb, type } = await opened(chunk('sRGB', Uint8Array.of(0)), GAMMA(100_000), P3);
    expect(type).toBe('u8');
    near(rgb, plain);
  });

  it('lets cICP count before all: Display P3', async () => {
    const cicp = chunk('cICP', Uint8Array.of(12, 13, 0, 1));
    near((await opened(cicp, chunk('sRGB', Uint8Array.of(0)))).rgb, inSrgb('p3'));
  });

  it('says so where cICP can’t be used, and goes on with the rest', async () => {
    const { rgb, notices } = await opened(chunk('cICP', Uint8Array.of(9, 16, 0, 1)), P3);
    expect(notices[0]).toContain('cICP');
    near(rgb, inSrgb('p3'));
  });
});

describe('writing', () => {
  it('gives grey TIFFs a grey profile that others read', async () => {
    const samples = Uint16Array.from({ length: 12 }, (_, i) => 5000 * i);
    const file = await fileFormats[2].write({ width: 4, height: 3, alpha: false, grey: true, samples }, {});
    const { icc, channels } = await sharp(file).metadata();
    expect(channels).toBe(1);
    expect(icc?.subarray(16, 20).toString()).toBe('GRAY');
    const { frame, notices } = await openFrame(file);
    expect(notices).toEqual([]);
    expect(list(frame.levels[0].samples)).toEqual(list(samples));
  });

  it.each([
    ['png', 3, false],
    ['png', 4, true],
    ['png', 3, true],
    ['tiff', 3, false],
    ['tiff', 4, true],
    ['tiff', 3, true]
  ] as ['png' | 'tiff', 3 | 4, boolean][])(
    '%s of %d channels, 16 bit: %s, is read back by others and by us',
    async (id, channels, deep) => {
      const { data } = raw(channels, deep);
      const format = fileFormats.find((f) => f.id === id)!;
      const file = await format.write(
        { width: WIDTH, height: HEIGHT, alpha: channels === 4, samples: data },
        {}
      );
      expect(list((await decodeImage(file)).samples)).toEqual(list(data));
      if (id === 'png') expect(Array.from(fastPngDecode(file, { checkCrc: true }).data)).toEqual(list(data));
      else {
        expect((await sharp(file).metadata()).icc).toBeDefined();
        const tiff = await (await fromArrayBuffer(new Uint8Array(file).buffer)).getImage();
        expect(Array.from((await tiff.readRasters({ interleave: true })) as Uint16Array)).toEqual(list(data));
      }
      expect((await openFrame(file)).frame.sampleType).toBe(deep ? 'u16' : 'u8');
    }
  );

  it('writes 32-bit float TIFF', async () => {
    const samples = Float32Array.from(pattern(3, 65535), (v) => v / 65535);
    const file = await fileFormats[2].write({ width: WIDTH, height: HEIGHT, alpha: false, samples }, {});
    expect(list((await decodeImage(file)).samples)).toEqual(list(samples));
  });

  it('writes JPEG with the profile of sRGB', async () => {
    const samples = Uint8Array.from({ length: 64 * 48 * 3 }, (_, i) => [200, 90, 40][i % 3]);
    const file = await fileFormats[1].write(
      { width: 64, height: 48, alpha: false, samples },
      { quality: 95 }
    );
    const theirs = await sharp(file).raw().toBuffer();
    expect((await sharp(file).metadata()).icc).toBeDefined();
    for (let c = 0; c < 3; c++) expect(Math.abs(theirs[c] - samples[c])).toBeLessThanOrEqual(3);
    expect((await openFrame(file)).notices).toEqual([]);
  });

  it('stops when progress throws', async () => {
    const { data } = raw(3, true);
    const stop = (): void => {
      throw new Error('stop');
    };
    const image = { width: WIDTH, height: HEIGHT, alpha: false, samples: data };
    await expect(fileFormats[0].write(image, { onProgress: stop })).rejects.toThrow('stop');
  });
});

it('knows formats by the end of a name', () => {
  expect(formatForName('a.b.TIF')?.id).toBe('tiff');
  expect(formatForName('jug.jpeg')?.id).toBe('jpeg');
  expect(formatForName('notes.txt')).toBeUndefined();
});
