import { deflateSync } from 'node:zlib';
import { beforeAll, describe, expect, it } from 'vitest';
import sharp from 'sharp';
import { provideNodeWasm } from '../../../engine/node/wasm';
import { crc32 } from '../crc';
import { randomStream } from '../../random';
import { decodeImage, fileFormats, type FileFormat } from '..';
import { avifMetadata } from './avif';
import { editedMetadata, type Metadata, type MetadataEdit } from '.';

beforeAll(provideNodeWasm);

const KEEP: MetadataEdit = { width: 8, height: 8, space: 'srgb', withoutPlace: false, history: [] };
const samples = new Uint8Array(8 * 8 * 3).fill(90);
const text = new TextEncoder();
const words = (bytes: Uint8Array | undefined): string => new TextDecoder().decode(bytes);
const formats = fileFormats.filter(({ metadata }) => metadata);
const write = (id: FileFormat['id'], metadata: Metadata | undefined): Promise<Uint8Array> =>
  fileFormats
    .find((f) => f.id === id)!
    .write({ width: 8, height: 8, alpha: false, samples, metadata }, { quality: 90 });
const packet = (inner: string): Uint8Array =>
  text.encode(
    `<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description rdf:about="" ${inner}</rdf:Description></rdf:RDF></x:xmpmeta>`
  );

/** A block of EXIF as libvips writes it, of a picture that lay on its side. */
async function exifByVips(): Promise<Uint8Array> {
  const made = await sharp({ create: { width: 8, height: 8, channels: 3, background: '#789' } })
    .withExif({ IFD0: { Make: 'Kilnworks', Copyright: 'Skerry Kiln' }, IFD3: { GPSLatitudeRef: 'N' } })
    .withMetadata({ orientation: 6 })
    .jpeg()
    .toBuffer();
  return (await decodeImage(made)).metadata!.exif!;
}

describe('blocks of metadata', () => {
  it('of files of each format are what was written into them, byte for byte', async () => {
    const exif = await exifByVips();
    const given: Metadata = {
      exif: (await editedMetadata({ exif }, KEEP))!.exif,
      iptc: Uint8Array.of(0x1c, 2, 105, 0, 4, 0x4a, 0x75, 0x67, 0x73),
      xmp: packet('xmlns:dc="http://purl.org/dc/elements/1.1/" dc:format="jug">')
    };
    for (const { id, blocks } of formats) {
      const { metadata = {} } = await decodeImage(await write(id, given));
      for (const key of ['exif', 'iptc', 'xmp'] as const) {
        if (!blocks?.[key]) expect(metadata[key]).toBeUndefined();
        // A TIFF’s EXIF stands among its own fields; its IPTC is filled up to whole words.
        else if (id !== 'tiff' || key === 'xmp') expect(Buffer.compare(metadata[key]!, given[key]!)).toBe(0);
      }
    }
  });

  it('are read by libvips: upright, with the maker, without their place where that is asked for', async () => {
    const exif = await exifByVips();
    for (const id of ['png', 'jpeg', 'tiff', 'webp', 'avif'] as const)
      for (const withoutPlace of [false, true]) {
        const file = await write(id, await editedMetadata({ exif }, { ...KEEP, withoutPlace }));
        const seen = await sharp(file).metadata();
        expect(seen.orientation ?? 1).toBe(1);
        // Its reader of TIFF hands on none.
        if (id === 'tiff') continue;
        const told = Buffer.from(seen.exif!).toString('latin1');
        expect(told.includes('Skerry Kiln')).toBe(true);
        expect(told.includes('Kilnworks')).toBe(!withoutPlace);
      }
  });

  it('too large for one segment of a JPEG are cut into parts, and put together again', async () => {
    const long = 'a jug, '.repeat(30_000);
    const xmp = packet(
      `xmlns:dc="http://purl.org/dc/elements/1.1/"><dc:description>${long}</dc:description>`
    );
    const { metadata } = await decodeImage(await write('jpeg', { xmp }));
    expect(words(metadata!.xmp)).toContain(`<dc:description>${long}</dc:description>`);
    expect(words(metadata!.xmp)).not.toContain('HasExtendedXMP');
    const iptc = new Uint8Array(150_000 + 9);
    iptc.set([0x1c, 2, 202, 0x80, 4, 0, 2, 0x49, 0xf0]);
    const told = (await decodeImage(await write('jpeg', { iptc }))).metadata!;
    expect(Buffer.compare(told.iptc!, iptc)).toBe(0);
  });

  it('tell in XMP what was done, behind what it told of that already', async () => {
    const first = (await editedMetadata({}, { ...KEEP, history: ['Mix: “red” <gets> green & blue'] }))!;
    expect(Object.keys(first)).toEqual(['xmp']);
    const again = (await editedMetadata(first, { ...KEEP, history: ['Levels'] }))!;
    const told = words(again.xmp);
    expect(told.match(/<stEvt:parameters[^>]*>([^<]*)/g)!.map((m) => m.replace(/<[^>]*>/, ''))).toEqual([
      'Mix: “red” &lt;gets&gt; green &amp; blue',
      'Levels'
    ]);
    expect(await editedMetadata({}, KEEP)).toBeUndefined();
  });

  it('that can’t be read are handed on, but left out where the place is to be', async () => {
    const broken: Metadata = {
      exif: text.encode('II*\0no block'),
      iptc: Uint8Array.of(0x1c, 2, 90, 0, 200, 1),
      xmp: text.encode('<x:xmpmeta><rdf:RDF')
    };
    expect(await editedMetadata(broken, KEEP)).toEqual(broken);
    expect(await editedMetadata(broken, { ...KEEP, withoutPlace: true })).toBeUndefined();
  });

  it('that are built to hang or to fill memory are left behind within two seconds', async () => {
    const within = async (file: Uint8Array): Promise<Awaited<ReturnType<typeof decodeImage>>> => {
      const start = process.cpuUsage().user;
      const image = await decodeImage(file);
      expect((process.cpuUsage().user - start) / 1000).toBeLessThan(2000);
      expect([image.width, image.height]).toEqual([8, 8]);
      return image;
    };
    // Two thousand texts of one name, each of which becomes much when it is unpacked.
    const png = await write('png', undefined);
    const bomb = Buffer.concat([
      Buffer.from('zTXtRaw profile type xmp\0\0', 'latin1'),
      deflateSync(new Uint8Array(2 ** 24 - 1))
    ]);
    const chunk = Buffer.concat([Buffer.alloc(4), bomb, Buffer.alloc(4)]);
    chunk.writeUInt32BE(bomb.length - 4);
    chunk.writeUInt32BE(crc32(new Uint8Array(bomb)), chunk.length - 4);
    const after = 8 + 12 + 13;
    const parts = [png.subarray(0, after), ...Array<Buffer>(2000).fill(chunk), png.subarray(after)];
    expect((await within(new Uint8Array(Buffer.concat(parts)))).metadata?.xmp).toBeUndefined();
    // A directory of many fields that each claim all of the block.
    const fields = 900;
    const exif = new Uint8Array(2 ** 20);
    const view = new DataView(exif.buffer);
    exif.set([0x49, 0x49, 42, 0, 8]);
    view.setUint16(8, fields, true);
    for (let i = 0; i < fields; i++) {
      view.setUint16(10 + 12 * i, 0x10f, true);
      view.setUint16(12 + 12 * i, 7, true);
      view.setUint32(14 + 12 * i, 2 ** 20 - 16, true);
      view.setUint32(18 + 12 * i, 16, true);
    }
    const start = process.cpuUsage().user;
    expect(await editedMetadata({ exif }, { ...KEEP, withoutPlace: true })).toBeUndefined();
    expect((process.cpuUsage().user - start) / 1000).toBeLessThan(2000);
    // Places without a size, which cost nothing to claim.
    const avif = Buffer.from(await write('avif', { exif: await exifByVips() }));
    const iloc = avif.indexOf('iloc');
    avif[iloc + 8] = 0;
    avif.writeUInt16BE(65535, iloc + 10);
    avif.fill(0xff, iloc + 18, iloc + 20);
    const begun = process.cpuUsage().user;
    expect(() => avifMetadata(new Uint8Array(avif))).toThrow(/damaged/);
    expect((process.cpuUsage().user - begun) / 1000).toBeLessThan(2000);
  });

  it('of an AVIF whose length of 0 stands for all that follows are read, up to what metadata hold', async () => {
    const xmp = new TextEncoder().encode('<x:xmpmeta xmlns:x="adobe:ns:meta/">kiln</x:xmpmeta>');
    const avif = Buffer.from(await write('avif', { xmp }));
    // What is added last stands at the end of the file, and of the table of places.
    const iloc = avif.indexOf('iloc') - 4;
    const last = iloc + avif.readUInt32BE(iloc) - 4;
    expect(avif.readUInt32BE(last)).toBe(xmp.length);
    avif.writeUInt32BE(0, last);
    expect(avifMetadata(new Uint8Array(avif)).xmp).toEqual(xmp);
    const behind = Buffer.concat([avif, Buffer.alloc(2 ** 24)]);
    expect(avifMetadata(new Uint8Array(behind)).xmp).toBeUndefined();
  });

  it('that are damaged are no reason not to open a picture', async () => {
    const random = randomStream(7);
    const exif = await exifByVips();
    const whole: Metadata = {
      exif,
      iptc: Uint8Array.of(0x1c, 2, 105, 0, 4, 0x4a, 0x75, 0x67, 0x73),
      xmp: packet('xmlns:tiff="http://ns.adobe.com/tiff/1.0/" tiff:Orientation="6">')
    };
    const spoiled = (bytes: Uint8Array): Uint8Array => {
      const out = bytes.slice();
      for (let i = 0; i < 4; i++) out[Math.floor(random() * out.length)] = Math.floor(random() * 256);
      return random() < 0.3 ? out.subarray(0, Math.floor(random() * out.length)) : out;
    };
    for (let round = 0; round < 150; round++) {
      const metadata: Metadata = {
        exif: spoiled(whole.exif!),
        iptc: spoiled(whole.iptc!),
        xmp: spoiled(whole.xmp!)
      };
      const withoutPlace = round % 2 === 0;
      const edited = await editedMetadata(metadata, { ...KEEP, withoutPlace });
      const id = formats[round % 4].id;
      const read = await decodeImage(await write(id, edited));
      expect([read.width, read.height]).toEqual([8, 8]);
    }
    // An XMP that lies beyond the end of a TIFF.
    const tiff = await write('tiff', { xmp: whole.xmp });
    const at = Buffer.from(tiff).indexOf(Uint8Array.of(0xbc, 2, 1, 0));
    new DataView(tiff.buffer, tiff.byteOffset).setUint32(at + 8, 2 ** 31, true);
    const { metadata, notices } = await decodeImage(tiff);
    expect(metadata).toBeUndefined();
    expect(notices.join(' ')).toMatch(/damaged, and was left behind/);
  });
});
