import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { provideNodeWasm } from '../../../engine/node/wasm';
import { decodeImage, fileFormats, type FileFormat } from '..';
import { editedMetadata, type Metadata, type MetadataEdit } from '.';

/** Another's reading and writing of the same blocks: ExifTool. The set-up of the tests puts it there where it may. */
const EXIFTOOL = '/usr/bin/exiftool';
const [WIDTH, HEIGHT] = [40, 24];
type Tags = Record<string, unknown>;

/** What is written into files of all formats; names of a made-up studio. */
const GIVEN = [
  ...[
    '-EXIF:Make=Kilnworks',
    '-EXIF:Model=Bellows Two',
    '-EXIF:LensModel=Glass 50',
    '-EXIF:SerialNumber=K-0042'
  ],
  ...[
    '-EXIF:OwnerName=Skerry Kiln',
    '-EXIF:DateTimeOriginal=2026:05:04 10:11:12',
    '-EXIF:ExposureTime=1/320'
  ],
  ...[
    '-EXIF:FNumber=5.6',
    '-EXIF:ISO=200',
    '-EXIF:FocalLength=50',
    '-EXIF:Orientation#=6',
    '-EXIF:XResolution=300'
  ],
  ...[
    '-EXIF:YResolution=300',
    '-EXIF:ResolutionUnit=inches',
    '-EXIF:Artist=Skerry Kiln',
    '-EXIF:Copyright=© Skerry Kiln'
  ],
  ...[
    '-EXIF:ImageDescription=Blaue Krüge',
    '-EXIF:UserComment=glaze 7, second firing',
    '-EXIF:ColorSpace#=1'
  ],
  ...[
    '-EXIF:ExifImageWidth=4000',
    '-EXIF:ExifImageHeight=3000',
    '-EXIF:InteropIndex=R98',
    '-EXIF:WhitePoint=0.3 0.3'
  ],
  ...[
    '-EXIF:GPSLatitude=12.5',
    '-EXIF:GPSLatitudeRef=N',
    '-EXIF:GPSLongitude=34.25',
    '-EXIF:GPSLongitudeRef=W'
  ],
  ...[
    '-EXIF:GPSAltitude=7',
    '-EXIF:AmbientTemperature=9',
    '-EXIF:GPSAltitudeRef=0',
    '-EXIF:OffsetTimeOriginal=+02:00',
    '-EXIF:HostComputer=bench'
  ],
  ...[
    '-XMP-dc:Title-de=Drei Krüge',
    '-XMP-dc:Title=Three jugs',
    '-XMP-dc:Creator=Skerry Kiln',
    '-XMP-dc:Subject=jug'
  ],
  ...['-XMP-dc:Subject=glaze', '-XMP-xmp:Rating=4', '-XMP-xmp:Label=keep', '-XMP-tiff:Orientation#=6'],
  ...['-XMP-tiff:Make=Kilnworks', '-XMP-exif:ExifImageWidth=4000', '-XMP-exif:GPSLatitude=12.5'],
  ...['-XMP-aux:SerialNumber=K-0042', '-XMP:City=Skerry', '-XMP:Headline=Jugs, in blue'],
  ...['-XMP-iptcCore:Location=the yard', '-XMP-xmpRights:Marked=true', '-XMP-xmpMM:HistoryAction=created']
];
const IPTC_GIVEN = [
  ...['-IPTC:Headline=Jugs, in blue', '-IPTC:Keywords=jug', '-IPTC:Keywords=glaze', '-IPTC:City=Skerry'],
  ...[
    '-IPTC:Country-PrimaryLocationName=Nowhere',
    '-IPTC:By-line=Skerry Kiln',
    '-IPTC:Caption-Abstract=Three jugs, fired twice'
  ],
  '-IPTC:CodedCharacterSet=UTF8'
];
/** Formats that have a place for IPTC. */
const WITH_IPTC: readonly FileFormat['id'][] = ['jpeg', 'png', 'tiff'];
const formats = fileFormats.filter(({ metadata }) => metadata);
const KEEP: MetadataEdit = { width: WIDTH, height: HEIGHT, space: 'srgb', withoutPlace: false, history: [] };

/** What is another in a file that was made of one: how it is held, its size, the numbers of its colours. */
const CORRECTED: Tags = {
  'IFD0:Orientation': 1,
  'ExifIFD:ExifImageWidth': WIDTH,
  'ExifIFD:ExifImageHeight': HEIGHT,
  'XMP-tiff:Orientation': 1,
  'XMP-exif:ExifImageWidth': WIDTH
};
const GONE = ['IFD0:WhitePoint'];
const OF_PLACE = [
  /^GPS:/,
  /^XMP-(aux|iptcCore):/,
  /^IFD0:(Make|Model|HostComputer)$/,
  /^ExifIFD:(SerialNumber|OwnerName|LensModel|AmbientTemperature)$/,
  /^XMP-tiff:Make$/,
  /^XMP-exif:GPS/,
  /^XMP-\w+:City$/,
  /^IPTC:(City|Country-PrimaryLocationName)$/
];
const READ = /^(IFD0|ExifIFD|InteropIFD|GPS|IPTC|IFD1|MakerNotes|XMP-[\w-]+):/;
/** How pixels are stored in a TIFF, what stands in every XMP packet or block, and what is counted from the others. */
const OF_FILE =
  /^(IFD0:(ImageWidth|ImageHeight|BitsPerSample|Compression|PhotometricInterpretation|StripOffsets|SamplesPerPixel|RowsPerStrip|StripByteCounts|PlanarConfiguration|Predictor|SampleFormat|ExtraSamples|SubfileType|YCbCrPositioning)|XMP-x:XMPToolkit|ExifIFD:(ExifVersion|FlashpixVersion|ComponentsConfiguration)|GPS:GPSVersionID|IPTC:(ApplicationRecordVersion|EnvelopeRecordVersion))$/;

describe.skipIf(!existsSync(EXIFTOOL))('metadata, as ExifTool has them', () => {
  const folder = mkdtempSync(join(tmpdir(), 'kromba-metadata-'));
  const place = (name: string): string => join(folder, name);
  const samples = Uint8Array.from({ length: WIDTH * HEIGHT * 3 }, (_, i) => (i * 7) & 255);
  const image = { width: WIDTH, height: HEIGHT, alpha: false, samples };
  const told = new Map<string, Tags>();
  const warned = new Map<string, string>();
  const read = (name: string): Promise<Awaited<ReturnType<typeof decodeImage>>> =>
    decodeImage(new Uint8Array(readFileSync(place(name))));
  const run = (...args: string[]): string => execFileSync(EXIFTOOL, args, { maxBuffer: 2 ** 27 }).toString();
  /** All that ExifTool finds in files, and what it warns of: what is wrong, not what might have been told beside it. */
  function look(names: readonly string[]): void {
    const nameOfPath = (path: string): string => path.slice(folder.length + 1);
    const files = names.map(place);
    for (const { SourceFile, ...tags } of JSON.parse(
      run('-j', '-G1', '-a', '-n', '-struct', ...files)
    ) as Tags[]) {
      const kept = Object.entries(tags).filter(([tag]) => READ.test(tag) && !OF_FILE.test(tag));
      told.set(nameOfPath(SourceFile as string), Object.fromEntries(kept));
    }
    let name = '';
    for (const line of run('-validate', '-warning', '-error', '-a', '-s3', ...files).split('\n')) {
      if (line.startsWith('======== ')) name = nameOfPath(line.slice(9));
      else if (line && !/^\[minor\]|^Missing required|^OK$|Warning|^ +\d+ image/.test(line))
        warned.set(name, line);
    }
  }
  const nameOf = (from: string, to: string, way: string): string => `${from}-${to}-${way}.${to}`;

  beforeAll(async () => {
    provideNodeWasm();
    const sources: string[] = [];
    writeFileSync(
      place('thumbnail.jpg'),
      await sharp({ create: { width: 16, height: 10, channels: 3, background: '#345' } })
        .jpeg()
        .toBuffer()
    );
    for (const { id, write } of formats) {
      for (const order of ['II', 'MM']) {
        const name = `${id}-${order}.${id}`;
        writeFileSync(place(name), await write({ ...image, metadata: undefined }, { quality: 90 }));
        execFileSync(EXIFTOOL, [
          ...['-q', '-q', '-m', '-overwrite_original', `-ExifByteOrder=${order}`, ...GIVEN],
          ...(WITH_IPTC.includes(id) ? IPTC_GIVEN : []),
          ...(id === 'jpeg' ? [`-ThumbnailImage<=${place('thumbnail.jpg')}`] : []),
          place(name)
        ]);
        sources.push(name);
      }
    }
    const made: string[] = [];
    for (const source of sources) {
      const { metadata } = await read(source);
      for (const [way, edit] of Object.entries({ keep: KEEP, 'no-place': { ...KEEP, withoutPlace: true } })) {
        const edited = await editedMetadata(metadata!, edit);
        for (const { id, write } of formats) {
          const name = nameOf(source.replace(/\..*/, ''), id, way);
          writeFileSync(place(name), await write({ ...image, metadata: edited }, { quality: 90 }));
          made.push(name);
        }
      }
    }
    look([...sources, ...made]);
  }, 300_000);
  afterAll(() => rmSync(folder, { recursive: true }));

  const cases = formats.flatMap(({ id: from }) =>
    ['II', 'MM'].flatMap((order) => formats.map(({ id: to }) => [from, order, to] as const))
  );
  it.each(cases)('of %s (%s) go into %s: nothing lost, nothing wrong', async (from, order, to) => {
    const before = told.get(`${from}-${order}.${from}`)!;
    expect(Object.keys(before).length).toBeGreaterThan(40);
    for (const way of ['keep', 'no-place']) {
      const name = nameOf(`${from}-${order}`, to, way);
      const wanted = Object.fromEntries(
        Object.entries(before)
          .filter(([tag]) => !GONE.includes(tag) && (WITH_IPTC.includes(to) || !tag.startsWith('IPTC:')))
          .filter(
            ([tag]) => !tag.startsWith('IFD1:') && (way === 'keep' || !OF_PLACE.some((one) => one.test(tag)))
          )
          .map(([tag, value]) => [tag, CORRECTED[tag] ?? value])
      );
      expect(told.get(name)).toEqual(wanted);
      expect(warned.get(name), name).toBeUndefined();
      const { width, height } = await sharp(readFileSync(place(name)))
        .metadata()
        .catch(() => ({ width: to === 'jxl' ? WIDTH : 0, height: to === 'jxl' ? HEIGHT : 0 }));
      expect([width, height]).toEqual([WIDTH, HEIGHT]);
      expect((await read(name)).width).toBe(WIDTH);
    }
  });

  it('stay what they are byte for byte where there is nothing to correct', async () => {
    const { metadata } = await read('jpeg-II-jpeg-keep.jpeg');
    const again = (await editedMetadata(metadata!, KEEP))!;
    for (const key of Object.keys(metadata!) as (keyof Metadata)[])
      expect(Buffer.compare(again[key]!, metadata![key]!), key).toBe(0);
  });
});
