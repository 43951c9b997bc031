import sharp, { type JpegOptions, type Sharp } from 'sharp';
import { describe, expect, it } from 'vitest';
import { decodeImage } from '.';

/** What libvips makes of a file's inks. */
const inksBySharp = (file: Buffer): Promise<Buffer> =>
  sharp(file).pipelineColourspace('cmyk').toColourspace('cmyk').raw().toBuffer();

function waves(width: number, height: number, channels: 1 | 3 | 4): Sharp {
  const data = Uint8Array.from({ length: width * height * channels }, (_, i) => {
    const x = Math.floor(i / channels) % width;
    const y = Math.floor(i / channels / width);
    return 128 + 120 * Math.sin(x / 3 + y / 5 + 2 * (i % channels)) * Math.cos(y / 7);
  });
  return sharp(data, { raw: { width, height, channels } });
}

const BASELINE: JpegOptions = { quality: 92, progressive: false, optimiseCoding: false };

/** The segments of a baseline JPEG, each with its marker; a scan with all its data. */
function segments(file: Buffer): { marker: number; bytes: Buffer }[] {
  const found = [];
  for (let at = 2; file[at + 1] !== 0xd9;) {
    const marker = file[at + 1];
    const end =
      marker === 0xda ? file.lastIndexOf(Buffer.from([0xff, 0xd9])) : at + 2 + file.readUInt16BE(at + 2);
    found.push({ marker, bytes: Buffer.from(file.subarray(at, end)) });
    at = end;
  }
  return found;
}

const ADOBE = (transform: number): Buffer =>
  Buffer.from([0xff, 0xee, 0, 14, ...Buffer.from('Adobe'), 0, 100, 0, 0, 0, 0, transform]);

/**
 * YCCK as presses get it: Y, Cb and Cr in one scan, as `chromaSubsampling` says, K at full size in one of its own
 * (T.81, A.2). Put together from the segments of a colour and a grey JPEG.
 */
async function ycck(width: number, height: number, chromaSubsampling: string): Promise<Buffer> {
  const colour = segments(
    await waves(width, height, 3)
      .jpeg({ ...BASELINE, chromaSubsampling })
      .toBuffer()
  );
  const grey = segments(
    await waves(width, height, 1)
      .toColourspace('b-w')
      .jpeg({ ...BASELINE, quality: 80 })
      .toBuffer()
  );
  const frame = colour.find(({ marker }) => marker === 0xc0)!.bytes;
  const header = Buffer.concat([frame, Buffer.from([4, frame[11], 3])]);
  header[9] = 4;
  header.writeUInt16BE(8 + 3 * 4, 2);
  const table = grey.find(({ marker }) => marker === 0xdb)!.bytes;
  table[4] = 3;
  const scan = grey.find(({ marker }) => marker === 0xda)!.bytes;
  scan[5] = 4;
  const of = (list: typeof colour, marker: number): Buffer[] =>
    list.filter((s) => s.marker === marker).map((s) => s.bytes);
  return Buffer.concat([
    Buffer.from([0xff, 0xd8]),
    ADOBE(2),
    ...of(colour, 0xdb),
    table,
    header,
    ...of(colour, 0xc4),
    ...of(colour, 0xda),
    ...of(grey, 0xc4),
    scan,
    Buffer.from([0xff, 0xd9])
  ]);
}

async function worst(file: Buffer): Promise<number> {
  const wanted = await inksBySharp(file);
  const { layout, samples } = await decodeImage(file);
  expect(layout).toBe('cmyk');
  expect(samples).toHaveLength(wanted.length);
  return wanted.reduce((most, v, i) => Math.max(most, Math.abs(v - samples[i])), 0);
}

describe('a JPEG of inks', () => {
  it.each([false, true])('keeps its inks, the right way round (progressive: %s)', async (progressive) => {
    const file = await waves(64, 48, 4)
      .pipelineColourspace('cmyk')
      .toColourspace('cmyk')
      .jpeg({ quality: 97, progressive })
      .toBuffer();
    expect((await sharp(file).metadata()).channels).toBe(4);
    expect(await worst(file)).toBeLessThanOrEqual(1);
    const { notices } = await decodeImage(file);
    expect(notices[0]).toContain('plain formula');
  });

  it('is read without Adobe’s marker too', async () => {
    const file = await waves(64, 48, 4)
      .pipelineColourspace('cmyk')
      .toColourspace('cmyk')
      .jpeg({ quality: 97 })
      .toBuffer();
    const at = file.indexOf('Adobe') - 4;
    const bare = Buffer.concat([file.subarray(0, at), file.subarray(at + 2 + file.readUInt16BE(at + 2))]);
    expect(bare.includes('Adobe')).toBe(false);
    expect(await worst(bare)).toBeLessThanOrEqual(1);
  });

  it.each([
    [64, 48, '4:4:4'],
    [64, 48, '4:2:0'],
    [37, 29, '4:2:0'],
    [16, 16, '4:2:0'],
    [5, 7, '4:2:0']
  ])('spreads its colour smoothly: %d×%d, %s', async (width, height, subsampling) => {
    // Two rounded steps of colour beside one of the other decoder.
    expect(await worst(await ycck(width, height, subsampling))).toBeLessThanOrEqual(3);
  });
});
