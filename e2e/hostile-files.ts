import { strToU8, zipSync } from 'fflate';
import { constants, deflateSync, gzipSync } from 'node:zlib';
import sharp from 'sharp';
import { card, fits, header } from './fits-files';
import { crc32 } from '../src/core/files/crc';

/** A file built to hang or to fill memory, and how it is to be answered: by a word of its message, or opened. */
export interface HostileFile {
  readonly name: string;
  /** Made when it is needed: some are large. */
  make(): Buffer | Promise<Buffer>;
  /** What its message says; null where the picture in it is sound and is opened. */
  readonly says: RegExp | null;
}

const MEGA = 2 ** 20;

/** A zlib stream that becomes so many megabytes of zeros: blocks that know nothing of each other, repeated. */
function bomb(megabytes: number): Buffer {
  const [block] = [deflateSync(Buffer.alloc(16 * MEGA), { finishFlush: constants.Z_FULL_FLUSH })];
  return Buffer.concat([
    block.subarray(0, 2),
    ...Array<Buffer>(Math.ceil(megabytes / 16)).fill(block.subarray(2))
  ]);
}

type Tag = readonly [tag: number, type: 3 | 4 | 1, count: number, value: number];

/** One directory of a little-endian TIFF. */
function directory(tags: readonly Tag[], next = 0): Buffer {
  const out = Buffer.alloc(2 + 12 * tags.length + 4);
  out.writeUInt16LE(tags.length);
  tags.forEach(([tag, type, count, value], i) => {
    const at = 2 + 12 * i;
    out.writeUInt16LE(tag, at);
    out.writeUInt16LE(type, at + 2);
    out.writeUInt32LE(count, at + 4);
    if (type === 3 && count === 1) out.writeUInt16LE(value, at + 8);
    else out.writeUInt32LE(value, at + 8);
  });
  out.writeUInt32LE(next, 2 + 12 * tags.length);
  return out;
}

const HEADER = Buffer.from([0x49, 0x49, 42, 0, 8, 0, 0, 0]);

/** A TIFF of one strip or tile behind its directory; `more` replaces and adds tags. */
function tiff(data: Buffer, more: readonly Tag[], behind = Buffer.alloc(0)): Buffer {
  const set = new Map<number, Tag>();
  const usual: Tag[] = [
    [256, 4, 1, 1],
    [257, 4, 1, 1],
    [258, 3, 1, 8],
    [259, 3, 1, 1],
    [262, 3, 1, 1],
    [277, 3, 1, 1]
  ];
  for (const tag of [...usual, ...more]) set.set(tag[0], tag);
  const tiled = set.has(322);
  const at = 8 + 2 + 12 * (set.size + 2) + 4;
  set.set(tiled ? 324 : 273, [tiled ? 324 : 273, 4, 1, at]);
  set.set(tiled ? 325 : 279, [tiled ? 325 : 279, 4, 1, data.length]);
  return Buffer.concat([HEADER, directory([...set.values()]), data, behind]);
}

function chunk(type: string, content: Uint8Array): Buffer {
  const out = Buffer.alloc(12 + content.length);
  out.writeUInt32BE(content.length);
  out.write(type, 4, 'latin1');
  out.set(content, 8);
  out.writeUInt32BE(crc32(out.subarray(4, 8 + content.length)), 8 + content.length);
  return out;
}

function png(width: number, height: number, parts: readonly Buffer[]): Buffer {
  const header = Buffer.alloc(13);
  header.writeUInt32BE(width);
  header.writeUInt32BE(height, 4);
  header[8] = 8;
  return Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
    chunk('IHDR', header),
    ...parts,
    chunk('IEND', Buffer.alloc(0))
  ]);
}

const onePixel = (): Buffer => chunk('IDAT', deflateSync(Buffer.from([0, 128])));

const grey = (progressive: boolean): Promise<Buffer> =>
  sharp(Buffer.alloc(64 * 64 * 3, 90), { raw: { width: 64, height: 64, channels: 3 } })
    .jpeg({ progressive })
    .toBuffer();

const frameAt = (jpeg: Buffer): number =>
  jpeg.findIndex((b, i) => b === 0xff && [0xc0, 0xc2].includes(jpeg[i + 1]));

async function claimingJpeg(): Promise<Buffer> {
  const jpeg = await grey(false);
  const at = frameAt(jpeg);
  jpeg.writeUInt16BE(16_000, at + 5);
  jpeg.writeUInt16BE(16_000, at + 7);
  const end = jpeg.length - 2;
  return Buffer.concat([jpeg.subarray(0, end), Buffer.alloc(73_000 - jpeg.length), jpeg.subarray(end)]);
}

/** A progressive JPEG whose last scan is there again and again. */
async function scannedJpeg(): Promise<Buffer> {
  const jpeg = await grey(true);
  const last = jpeg.lastIndexOf(Buffer.from([0xff, 0xda]));
  const scan = jpeg.subarray(last, jpeg.length - 2);
  return Buffer.concat([
    jpeg.subarray(0, last),
    ...Array<Buffer>(5000).fill(scan),
    jpeg.subarray(jpeg.length - 2)
  ]);
}

const json = (value: unknown): Uint8Array => strToU8(JSON.stringify(value));
const PNG = (): Buffer => png(1, 1, [onePixel()]);

/** A bundle of a document with one frame, one picture, and what `more` says, and then further keys as JSON. */
function bundle(more: object, steps: readonly object[] = [], keys = ''): Buffer {
  const document = {
    kromba: 1,
    kind: 'document',
    name: 'hostile',
    frames: [{ id: 'f', name: 'f', file: 'f.png' }],
    pictures: [{ id: 'p', name: 'p', head: { kind: 'frame', frame: 'f' }, steps }],
    ...more
  };
  const text = strToU8(`${JSON.stringify(document).slice(0, -1)}${keys}}`);
  return Buffer.from(zipSync({ 'document.kromba.json': text, 'f.png': PNG() }, { level: 0 }));
}

const masked = (mask: object): object => ({ id: 's', op: 'invert', params: {}, where: mask });
const ofMask = (id: string): object => ({ source: { kind: 'mask', id } });
/** Masks that are each made of the next, so many times over. */
const chain = (count: number, times: number): object[] =>
  Array.from({ length: count }, (_, i) => ({
    id: `m${i}`,
    name: `m${i}`,
    mask: { terms: i === count - 1 ? [] : Array<object>(times).fill(ofMask(`m${i + 1}`)) }
  }));

/** Pictures that each take twice from the next. */
const pictures = (count: number): object[] =>
  Array.from({ length: count }, (_, i) => ({
    id: `p${i}`,
    name: `p${i}`,
    head: { kind: 'frame', frame: 'f' },
    steps:
      i === count - 1
        ? [{ id: 's', op: 'invert', params: {} }]
        : [1, 2].map((n) => ({
            id: `s${n}`,
            op: 'merge',
            params: { from: { picture: `p${i + 1}` }, reach: { grey: 0.5 } }
          }))
  }));

/** A zip whose directory says that its document is `claimed` bytes, packed by Deflate as `packed`. */
function lyingZip(packed: Buffer, claimed: number): Buffer {
  const zip = Buffer.from(zipSync({ 'document.kromba.json': [new Uint8Array(1), { level: 0 }] }));
  const name = Buffer.from('document.kromba.json');
  const local = zip.subarray(0, 30 + name.length);
  const central = Buffer.from(zip.subarray(local.length + 1, zip.length - 22));
  const end = Buffer.from(zip.subarray(zip.length - 22));
  for (const [header, at] of [
    [local, 8],
    [central, 10]
  ] as const) {
    header.writeUInt16LE(8, at);
    header.writeUInt32LE(packed.length, at + 10);
    header.writeUInt32LE(claimed, at + 14);
  }
  end.writeUInt32LE(local.length + packed.length, 16);
  return Buffer.concat([local, packed, central, end]);
}

const manyEntries = (): Buffer =>
  Buffer.from(
    zipSync(Object.fromEntries(Array.from({ length: 20_000 }, (_, i) => [`${i}.txt`, new Uint8Array(0)])), {
      level: 0
    })
  );

/** A gzip that becomes so many megabytes of zeros behind its beginning, in members that know nothing of each other. */
const gzipBomb = (begin: Buffer, megabytes: number): Buffer =>
  Buffer.concat([
    gzipSync(begin),
    ...Array<Buffer>(Math.ceil(megabytes / 16)).fill(gzipSync(Buffer.alloc(16 * MEGA)))
  ]);

export const hostileFiles: readonly HostileFile[] = [
  {
    name: 'cards.fits',
    make: () => {
      const cards = Array.from({ length: 100_000 }, (_, i) => card(`K${i}`, i));
      return Buffer.concat([fits().subarray(0, 400), header(cards)]);
    },
    says: /more than 20000 cards/
  },
  {
    name: 'claims.fits',
    make: () => fits({ NAXIS1: 16_000, NAXIS2: 16_000, BITPIX: -64 }),
    says: /ends before/
  },
  { name: 'zeros.fits.gz', make: () => gzipBomb(Buffer.alloc(80), 4096), says: /gzip that holds no FITS/ },
  {
    name: 'bomb.fits.gz',
    make: () => gzipBomb(fits({ NAXIS1: 16_000, NAXIS2: 16_000, BITPIX: -64 }, 0), 4096),
    says: /up to 1024 can be read|makes no sense/
  },
  {
    name: 'spaces.fits.gz',
    make: () => gzipBomb(fits({ NAXIS: 0 }, 0), 4096),
    says: /without a picture|makes no sense/
  },
  {
    name: 'tags-claim-all.tif',
    make: () => {
      const tags = Array.from({ length: 5000 }, (_, i): Tag => [1000 + i, 1, 2 * MEGA, 0]);
      return tiff(Buffer.from([9]), tags, Buffer.alloc(2 * MEGA));
    },
    says: null
  },
  {
    name: 'unused-tag.tif',
    make: () => tiff(Buffer.from([9]), [[65000, 1, 100 * MEGA, 300]], Buffer.alloc(100 * MEGA + 300)),
    says: null
  },
  {
    name: 'directories.tif',
    make: () => {
      const preview = (next: number): Buffer => directory([[254, 4, 1, 1]], next);
      const size = preview(0).length;
      const count = 20_000;
      return Buffer.concat([
        HEADER,
        ...Array.from({ length: count }, (_, i) => preview(i === count - 1 ? 0 : 8 + size * (i + 1)))
      ]);
    },
    says: /256 previews/
  },
  {
    name: 'overhanging-tile.tif',
    make: () =>
      tiff(bomb(2048), [
        [322, 4, 1, 65_536],
        [323, 4, 1, 4096],
        [259, 3, 1, 8]
      ]),
    says: /tiles are 65536 pixels wide/
  },
  {
    name: 'high-tile.tif',
    make: () =>
      tiff(bomb(2048), [
        [322, 4, 1, 1024],
        [323, 4, 1, 4_000_000],
        [259, 3, 1, 8]
      ]),
    says: null
  },
  { name: 'deflate-strip.tif', make: () => tiff(bomb(2048), [[259, 3, 1, 8]]), says: null },
  {
    name: 'lzw-strip.tif',
    make: () => {
      // Clear, then a zero, then each code the string that is just being made.
      const codes = [256, 0];
      for (let code = 258; code < 4095; code++) codes.push(code);
      let bits = '';
      codes.forEach((code, i) => {
        const next = 256 + i;
        bits += code.toString(2).padStart(next < 511 ? 9 : next < 1023 ? 10 : next < 2047 ? 11 : 12, '0');
      });
      const once = Buffer.from(bits.match(/.{8}/g)!.map((b) => parseInt(b, 2)));
      return tiff(Buffer.concat(Array<Buffer>(400).fill(once)), [[259, 3, 1, 5]]);
    },
    says: null
  },
  {
    name: 'claims-all.tif',
    make: () =>
      tiff(Buffer.alloc(100), [
        [256, 4, 1, 16_000],
        [257, 4, 1, 16_000],
        [259, 3, 1, 8]
      ]),
    says: /claims \d+ bytes/
  },
  {
    name: 'many-samples.tif',
    make: () =>
      tiff(bomb(2048), [
        [277, 3, 1, 65_535],
        [259, 3, 1, 8]
      ]),
    says: /65535 channels a pixel/
  },
  {
    name: 'long.tif',
    make: () =>
      tiff(bomb(112), [
        [257, 4, 1, 100_000_000],
        [259, 3, 1, 8]
      ]),
    says: /1×100000000 pixels/
  },
  { name: 'data-bomb.png', make: () => png(1, 1, [chunk('IDAT', bomb(2048))]), says: null },
  {
    name: 'profile-bomb.png',
    make: () => png(1, 1, [chunk('iCCP', Buffer.concat([Buffer.from('x\0\0'), bomb(2048)])), onePixel()]),
    says: null
  },
  {
    name: 'empty-parts.png',
    make: () => png(1, 1, [...Array<Buffer>(300_000).fill(chunk('IDAT', Buffer.alloc(0))), onePixel()]),
    says: /far too many parts/
  },
  { name: 'long.png', make: () => png(1, 100_000_000, [chunk('IDAT', bomb(208))]), says: /1×100000000/ },
  { name: 'claims.jpg', make: claimingJpeg, says: /16000×16000/ },
  { name: 'scans.jpg', make: scannedJpeg, says: /100 scans/ },
  {
    name: 'segments.jpg',
    make: async () => {
      const jpeg = await grey(false);
      const empty = Array<Buffer>(1_000_000).fill(Buffer.from([0xff, 0xfe, 0, 2]));
      return Buffer.concat([jpeg.subarray(0, 2), ...empty, jpeg.subarray(2)]);
    },
    says: /far too many segments/
  },
  {
    name: 'becomes-a-gigabyte.kromba',
    make: () => lyingZip(bomb(1024).subarray(2), 1024 * MEGA),
    says: /over 64 MB when it is unpacked/
  },
  {
    name: 'lies.kromba',
    make: () => lyingZip(bomb(1024).subarray(2), 100),
    says: /far more than it claims|damaged/
  },
  {
    name: 'claims-4-gigabytes.kromba',
    make: () => lyingZip(Buffer.from([3, 0]), 0xfffffff0),
    says: /over 64 MB when it is unpacked/
  },
  {
    name: 'unasked.kromba',
    make: () =>
      Buffer.from(
        zipSync({
          'document.kromba.json': json({
            kromba: 1,
            kind: 'document',
            name: 'x',
            frames: [{ id: 'f', name: 'f', file: 'f.png' }],
            pictures: [{ id: 'p', name: 'p', head: { kind: 'frame', frame: 'f' } }]
          }),
          'f.png': PNG(),
          'extra.bin': [Buffer.alloc(128 * MEGA), { level: 0 }]
        })
      ),
    says: null
  },
  { name: 'entries.kromba', make: manyEntries, says: /more than 10000 files/ },
  {
    name: 'grown.kromba',
    make: () => bundle({}, [masked({ terms: [], grow: 1e9 })]),
    says: /grow: must be at most 300 px/
  },
  {
    name: 'blurred.kromba',
    make: () => bundle({}, [masked({ terms: [], blur: 1e12 })]),
    says: /blur: must be at most 300 px/
  },
  {
    name: 'masks-twice.kromba',
    make: () => bundle({ masks: chain(30, 2) }, [masked({ terms: [ofMask('m0'), ofMask('m0')] })]),
    says: null
  },
  {
    name: 'masks-in-chain.kromba',
    make: () => bundle({ masks: chain(1000, 1) }, [masked({ terms: [ofMask('m0')] })]),
    says: /more than 64 pictures or masks/
  },
  {
    name: 'masks-10000.kromba',
    make: () => bundle({ masks: chain(10_000, 1) }),
    says: /takes at most 1000 masks/
  },
  { name: 'pictures-twice.kromba', make: () => bundle({ pictures: pictures(25) }), says: null },
  {
    name: 'steps.kromba',
    make: () =>
      bundle(
        {},
        Array.from({ length: 5000 }, (_, i) => ({ id: `s${i}`, op: 'invert', params: {} }))
      ),
    says: /takes at most 500 steps/
  },
  {
    name: 'keys.kromba',
    make: () => bundle({}, [], Array.from({ length: 1_000_000 }, (_, i) => `,"key ${i}":0`).join('')),
    says: /unknown keys “key 0”, “key 1”, “key 2” and 999997 more/
  }
];
