import { setTimeout as wait } from 'node:timers/promises';
import { unzipSync } from 'fflate';
import sharp from 'sharp';
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { paperProfile } from '../../e2e/paper-profile';
import { readDocument } from '../core/document';
import { packBundle } from '../core/files/bundle';
import { tiffCompression } from '../core/testing';
import {
  formOf,
  HEIGHT,
  PIXELS,
  png,
  SWAP,
  swapped,
  testServer,
  WIDTH,
  type Part,
  type TestServer
} from './testing';

let here: TestServer;
let tile: Buffer;
const image = (name = 'tile.png', bytes: Uint8Array | string = tile): Part => ['image', { name, bytes }];
const ask = (path: string, parts: readonly Part[], at = here): Promise<Response> =>
  fetch(`${at.address}/api/${path}`, { method: 'POST', body: formOf(parts) });
const rgb = async (answer: Response): Promise<Buffer> =>
  sharp(Buffer.from(await answer.arrayBuffer()))
    .raw()
    .toBuffer();

interface Told {
  readonly error: { readonly code: string; readonly field?: string; readonly message: string };
}
const told = async (answer: Response): Promise<[number, string, string | undefined, string]> => {
  const { error } = (await answer.json()) as Told;
  return [answer.status, error.code, error.field, error.message];
};

beforeAll(async () => {
  tile = await png();
  here = await testServer();
});
afterAll(() => here.close());
afterEach(async () => {
  // Nothing of any request stays.
  for (let i = 0; i < 50 && (await here.left()).length > 0; i++) await wait(20);
  expect(await here.left()).toEqual([]);
  expect(here.runner.state).toEqual({ working: 0, waiting: 0 });
});

describe('render', () => {
  it('writes by a profile that is sent', async () => {
    const made = async (...parts: Part[]): Promise<Buffer> => {
      const profile: Part = ['profile', { name: 'matte.icc', bytes: paperProfile() }];
      const answer = await ask('render', [['look', SWAP], image(), ['depth', '8'], profile, ...parts]);
      expect(answer.status).toBe(200);
      return Buffer.from(await answer.arrayBuffer());
    };
    const [kept, cut] = [await made(), await made(['black-point', 'cut'], ['intent', 'relative'])];
    expect((await sharp(kept).metadata()).icc?.equals(paperProfile())).toBe(true);
    expect(kept.equals(cut)).toBe(false);
  });

  it('keeps what a picture tells, all but its place and camera, or nothing of it', async () => {
    const tellings = await sharp(tile)
      .withExif({ IFD0: { Make: 'Kilnworks', Copyright: 'Skerry Kiln' } })
      .png()
      .toBuffer();
    const exifWith = async (...parts: Part[]): Promise<string> => {
      const answer = await ask('render', [['look', SWAP], image('tile.png', tellings), ...parts]);
      expect(answer.status).toBe(200);
      const { exif, xmp } = await sharp(Buffer.from(await answer.arrayBuffer())).metadata();
      return `${exif?.toString('latin1') ?? ''}${xmp?.toString() ?? ''}`;
    };
    expect(await exifWith()).toMatch(/Kilnworks[^]*Skerry Kiln|Skerry Kiln[^]*Kilnworks/);
    const less = await exifWith(['metadata', 'no-place'], ['format', 'jpeg']);
    expect(less).toContain('Skerry Kiln');
    expect(less).not.toContain('Kilnworks');
    expect(await exifWith(['metadata', 'none'], ['history', 'yes'])).toBe('');
    expect(await exifWith(['metadata', 'none'])).toBe('');
    expect(await exifWith(['history', 'yes'])).toContain('<stEvt:softwareAgent');
    expect(await told(await ask('render', [['look', SWAP], image(), ['metadata', 'some']]))).toEqual([
      422,
      'field',
      'metadata',
      expect.stringContaining('keep, no-place, none')
    ]);
  });

  it('puts a look on at a part of its strength', async () => {
    const answer = await ask('render', [
      ['look', SWAP],
      image(),
      ['strength', '50'],
      ['depth', '8'],
      ['dither', 'no']
    ]);
    const half = await rgb(answer);
    const whole = swapped(PIXELS);
    const far = half.map((v, i) => Math.abs(v - (PIXELS[i] + whole[i]) / 2));
    expect(Math.max(...far)).toBeLessThanOrEqual(0.5);
    for (const strength of ['0', '101', 'much'])
      expect(await told(await ask('render', [['look', SWAP], image(), ['strength', strength]]))).toEqual([
        422,
        'field',
        'strength',
        `“strength” can’t be ${strength}: give a whole number from 1 to 100.`
      ]);
  });

  it('puts a look on a picture, in each format', async () => {
    const answer = await ask('render', [['look', SWAP], image()]);
    expect(answer.status).toBe(200);
    expect(answer.headers.get('content-type')).toBe('image/png');
    expect(answer.headers.get('content-disposition')).toContain('filename="tile.png"');
    const body = Buffer.from(await answer.arrayBuffer());
    expect((await sharp(body).metadata()).depth).toBe('ushort');
    expect(await sharp(body).raw().toBuffer()).toEqual(Buffer.from(swapped(PIXELS)));
    for (const [format, depth, ending] of [
      ['tiff', '8', 'tif'],
      ['webp', '8', 'webp'],
      ['jxl', '8', 'jxl']
    ]) {
      const other = await ask('render', [
        image('Ä tile “1”.png'),
        ['format', format],
        ['depth', depth],
        ['quality', '100'],
        ['look', SWAP]
      ]);
      expect(other.status, format).toBe(200);
      expect(decodeURIComponent(other.headers.get('content-disposition')!.split("''")[1])).toBe(
        `Ä tile “1”.${ending}`
      );
      if (format !== 'jxl') expect(await rgb(other), format).toEqual(Buffer.from(swapped(PIXELS)));
    }
  });

  it('writes a TIFF of 16 bits deflated or not, as it is asked for', async () => {
    for (const compression of ['deflate', 'none']) {
      const answer = await ask('render', [
        image(),
        ...[['format', 'tiff'] as const, ['depth', '16'] as const, ['compression', compression] as const],
        ['look', SWAP]
      ]);
      expect(answer.status).toBe(200);
      expect(await tiffCompression(new Uint8Array(await answer.arrayBuffer()))).toBe(compression);
    }
  });

  it('takes the look as the file that it is in, and makes small what is asked for small', async () => {
    const answer = await ask('render', [image(), ['size', '20'], ['look', { name: 'a.json', bytes: SWAP }]]);
    const { width, height } = await sharp(Buffer.from(await answer.arrayBuffer())).metadata();
    expect([width, height]).toEqual([20, 15]);
  });

  it('answers several as a zip, and tells in it which could not be made', async () => {
    const dark = PIXELS.map((v) => v >> 1);
    const damaged = Uint8Array.from(tile);
    damaged.fill(0, 60, 400);
    const answer = await ask('render', [
      ['look', SWAP],
      image(),
      image('damaged.png', damaged),
      image('notes.png', 'only text'),
      image('dark.png', await png(dark)),
      ['name', '{n}-{look} {name}'],
      ['depth', '8'],
      ['format', 'png']
    ]);
    expect([answer.status, answer.headers.get('content-type')]).toEqual([200, 'application/zip']);
    const files = unzipSync(new Uint8Array(await answer.arrayBuffer()));
    expect(Object.keys(files).sort()).toEqual(['1-Swap tile.png', '4-Swap dark.png', 'report.json']);
    expect(await sharp(files['1-Swap tile.png']).raw().toBuffer()).toEqual(Buffer.from(swapped(PIXELS)));
    expect(await sharp(files['4-Swap dark.png']).raw().toBuffer()).toEqual(Buffer.from(swapped(dark)));
    const { failed } = JSON.parse(Buffer.from(files['report.json']).toString()) as {
      failed: { name: string; code: string }[];
    };
    expect(failed.map(({ name, code }) => [name, code]).sort()).toEqual([
      ['2-Swap damaged.png', 'file'],
      ['3-Swap notes.png', 'type']
    ]);
  });

  it('makes a picture of a document, two of the same names at once', async () => {
    const bundleOf = async (pixels: typeof PIXELS): Promise<Uint8Array> => {
      const document = readDocument(
        JSON.stringify({
          ...{ kromba: 1, kind: 'document', name: 'Tile' },
          frames: [{ id: 'f1', name: 'tile', file: 'tile.png' }],
          pictures: [
            {
              id: 'p1',
              name: 'Swapped',
              head: { kind: 'frame', frame: 'f1' },
              steps: (JSON.parse(SWAP) as { steps: object[] }).steps
            }
          ]
        })
      );
      const files = new Map([['f1', new Blob([new Uint8Array(await png(pixels))])]]);
      return new Uint8Array(await (await packBundle({ document, files })).arrayBuffer());
    };
    const dark = PIXELS.map((v) => v >> 1);
    const [one, two] = await Promise.all(
      [PIXELS, dark].map(async (pixels) => {
        const bytes = await bundleOf(pixels);
        return rgb(
          await ask('render', [
            ['document', { name: 'tile.kromba', bytes }],
            ['picture', 'Swapped'],
            ['depth', '8']
          ])
        );
      })
    );
    expect(one).toEqual(Buffer.from(swapped(PIXELS)));
    expect(two).toEqual(Buffer.from(swapped(dark)));
    const bytes = await bundleOf(PIXELS);
    const other = await ask('render', [
      ['document', { name: 'tile.kromba', bytes }],
      ['picture', 'Other']
    ]);
    expect((await told(other)).slice(0, 3)).toEqual([422, 'field', 'picture']);
  });

  it('takes the tables that a look needs by their names, and other ones of the same name after them', async () => {
    const look = JSON.stringify({
      ...{ kromba: 1, kind: 'look', name: 'Through' },
      tables: [{ id: 't', name: 'table', file: 'table.cube' }],
      steps: [{ id: 's', op: 'lut', params: { table: 't' } }]
    });
    const cube = (invert: boolean): string => {
      const nodes = Array.from({ length: 8 }, (_, i) =>
        [i & 1, (i >> 1) & 1, i >> 2].map((v) => (invert ? 1 - v : v)).join(' ')
      );
      return `LUT_3D_SIZE 2\n${nodes.join('\n')}\n`;
    };
    const through = (invert: boolean): Promise<Response> =>
      ask('render', [
        ['look', look],
        image(),
        ['table', { name: 'table.cube', bytes: cube(invert) }],
        ['depth', '8']
      ]);
    expect(await rgb(await through(false))).toEqual(Buffer.from(PIXELS));
    expect(await rgb(await through(true))).toEqual(Buffer.from(PIXELS.map((v) => 255 - v)));
    const missing = await told(await ask('render', [['look', look], image()]));
    expect(missing).toEqual([
      422,
      'field',
      'table',
      'The look needs the file “table.cube”: send it as “table”.'
    ]);
  });
});

describe('bake and measure', () => {
  it('makes a table of a look', async () => {
    const answer = await ask('bake', [
      ['look', SWAP],
      ['size', '17'],
      ['title', 'Red for blue']
    ]);
    expect(answer.headers.get('content-disposition')).toContain('Red for blue.cube');
    const lines = (await answer.text()).trim().split('\n');
    expect(lines.slice(0, 4)).toEqual(['TITLE "Red for blue"', 'LUT_3D_SIZE 17', '0 0 0', '0 0 0.0625']);
    expect(lines).toHaveLength(2 + 17 ** 3);
  });

  it('asks for the picture that a step is solved from, and tells what a table can’t carry', async () => {
    const look = JSON.stringify({
      ...{ kromba: 1, kind: 'look', name: 'Grey' },
      steps: [
        { id: 's1', op: 'balance', params: { method: 'grey' } },
        { id: 's2', op: 'blur', params: { radius: 2 } }
      ]
    });
    const without = await told(await ask('bake', [['look', look]]));
    expect(without.slice(0, 3)).toEqual([422, 'field', 'image']);
    const answer = await ask('bake', [['look', look], image()]);
    expect(answer.status).toBe(200);
    expect(JSON.parse(decodeURIComponent(answer.headers.get('kromba-notices')!))).toEqual([
      '“Blur” is left out: it looks at neighbours.'
    ]);
  });

  it('tells of a picture, and of one of its pixels', async () => {
    const answer = await ask('measure', [image(), ['at', '3,2']]);
    const found = (await answer.json()) as {
      width: number;
      sampleType: string;
      planes: Record<string, { min: number; max: number; mean: number }>;
      at: { x: number; values: Record<string, number> };
    };
    expect([found.width, found.sampleType, found.at.x]).toEqual([WIDTH, 'u8', 3]);
    const { channels } = await sharp(tile).stats();
    ['r', 'g', 'b'].forEach((name, c) => {
      expect(found.planes[name].min * 255).toBeCloseTo(channels[c].min, 6);
      expect(found.planes[name].max * 255).toBeCloseTo(channels[c].max, 6);
      expect(found.planes[name].mean * 255).toBeCloseTo(channels[c].mean, 5);
      expect(found.at.values[`rgb.${name}`] * 255).toBeCloseTo(PIXELS[3 * (2 * WIDTH + 3) + c], 4);
    });
    const outside = await told(await ask('measure', [image(), ['at', `${WIDTH},0`]]));
    expect(outside).toEqual([
      422,
      'field',
      'at',
      `The picture is ${WIDTH}×${HEIGHT}, so x goes to 39 and y to 29.`
    ]);
  });
});

describe('what can’t be done', () => {
  const look: Part = ['look', SWAP];
  const cases: [string, string, () => Part[], [number, string, string | undefined], RegExp][] = [
    ['no look', 'render', () => [image()], [422, 'field', 'look'], /Send a “look”/],
    ['no picture', 'render', () => [look], [422, 'field', 'image'], /Send pictures/],
    [
      'a field that is not known',
      'render',
      () => [look, image(), ['sparkle', '1']],
      [422, 'field', 'sparkle'],
      /There is no field “sparkle”: use look, /
    ],
    [
      'a picture that is sent as text',
      'render',
      () => [look, ['image', 'tile.png']],
      [422, 'field', 'image'],
      /“image” must be sent as a file/
    ],
    [
      'a text that is sent as a file',
      'render',
      () => [look, image(), ['size', { name: 'size', bytes: '20' }]],
      [422, 'field', 'size'],
      /“size” must be sent as text/
    ],
    ['a field given twice', 'render', () => [look, look, image()], [422, 'field', 'look'], /given twice/],
    [
      'a look that is text and file',
      'render',
      () => [look, image(), ['look', { name: 'a', bytes: SWAP }]],
      [422, 'field', 'look'],
      /given twice/
    ],
    [
      'a format that is none',
      'render',
      () => [look, image(), ['format', 'bmp']],
      [422, 'field', 'format'],
      /must be one of png/
    ],
    [
      'a depth the format lacks',
      'render',
      () => [look, image(), ['format', 'jpeg'], ['depth', '16']],
      [422, 'field', 'depth'],
      /JPEG is written with 8 bits/
    ],
    [
      'a quality beyond',
      'render',
      () => [look, image(), ['quality', '101']],
      [422, 'field', 'quality'],
      /from 1 to 100/
    ],
    [
      'a compression where there is no choice',
      'render',
      () => [look, image(), ['compression', 'none']],
      [422, 'field', 'compression'],
      /only TIFF of 16 bits/
    ],
    [
      'a size that is none',
      'render',
      () => [look, image(), ['size', ' ']],
      [422, 'field', 'size'],
      /whole number/
    ],
    [
      'an intent without a profile',
      'render',
      () => [look, image(), ['intent', 'perceptual']],
      [422, 'field', 'intent'],
      /goes with a “profile”/
    ],
    [
      'a profile that is none',
      'render',
      () => [look, image(), ['profile', { name: 'a.icc', bytes: 'none' }]],
      [422, 'file', 'profile'],
      /“a\.icc” can’t be written by: it is no ICC profile/
    ],
    [
      'a profile in a format without a place for it',
      'render',
      () => [look, image(), ['format', 'avif'], ['profile', { name: 'a.icc', bytes: paperProfile() }]],
      [422, 'field', 'profile'],
      /AVIF has no place for it/
    ],
    [
      'a space the format lacks',
      'render',
      () => [look, image(), ['format', 'avif'], ['space', 'prophoto']],
      [422, 'field', 'space'],
      /AVIF is written in/
    ],
    [
      'a name that is none',
      'render',
      () => [look, image(), ['name', '{what}']],
      [422, 'field', 'name'],
      /“\{what\}” is not known/
    ],
    [
      'two of one name',
      'render',
      () => [look, image(), image()],
      [422, 'field', 'name'],
      /would both be called “tile\.png”/
    ],
    ['a look that is no JSON', 'render', () => [['look', '{'], image()], [422, 'field', 'look'], /JSON/],
    [
      'an unknown step',
      'render',
      () => [['look', SWAP.replace('mix', 'sparkle')], image()],
      [422, 'field', 'look'],
      /“sparkle” is no step/
    ],
    [
      'what is no picture',
      'render',
      () => [look, image('a.png', 'only text')],
      [415, 'type', 'image'],
      /“a\.png” is no picture/
    ],
    ['an empty file', 'render', () => [look, image('a.png', '')], [422, 'file', 'image'], /empty/],
    [
      'a picture that breaks off',
      'render',
      () => [look, image('a.png', tile.subarray(0, 300))],
      [422, 'file', 'image'],
      /ends before the picture is complete/
    ],
    [
      'a document that is none',
      'render',
      () => [
        ['document', { name: 'a.kromba', bytes: 'text' }],
        ['picture', 'A']
      ],
      [422, 'field', 'document'],
      /as a bundle/
    ],
    [
      'a zip of nothing',
      'render',
      () => [
        ['document', { name: 'a.kromba', bytes: Uint8Array.of(0x50, 0x4b, 5, 6, ...new Uint8Array(18)) }],
        ['picture', 'A']
      ],
      [422, 'file', 'document'],
      /no document|no Kromba document/
    ],
    [
      'a document with a look',
      'render',
      () => [['document', { name: 'a.kromba', bytes: 'text' }], look],
      [422, 'field', 'look'],
      /does not go with/
    ],
    ['a table’s size', 'bake', () => [look, ['size', '18']], [422, 'field', 'size'], /17, 33, 65/],
    ['a domain that falls', 'bake', () => [look, ['domain', '1,0']], [422, 'field', 'domain'], /must rise/],
    [
      'a place that is none',
      'measure',
      () => [image(), ['at', '1.5,2']],
      [422, 'field', 'at'],
      /whole numbers/
    ],
    [
      'two pictures to measure',
      'measure',
      () => [image(), image('b.png')],
      [413, 'too-large', 'image'],
      /1 times at most/
    ]
  ];
  it.each(cases)('is told of %s', async (_, path, parts, [status, code, field], words) => {
    const found = await told(await ask(path, parts()));
    expect(found.slice(0, 3)).toEqual([status, code, field]);
    expect(found[3]).toMatch(words);
    expect(found[3]).not.toMatch(/\n|\bat .*:\d+/);
  });

  it('asks for a form, and by the method that is meant', async () => {
    const post = (path: string, init: RequestInit = {}): Promise<Response> =>
      fetch(`${here.address}/api/${path}`, { method: 'POST', ...init });
    expect((await told(await post('render', { body: '{}' }))).slice(0, 2)).toEqual([415, 'type']);
    expect(
      (
        await told(await post('render', { body: 'x', headers: { 'content-type': 'multipart/form-data' } }))
      ).slice(0, 2)
    ).toEqual([400, 'malformed']);
    expect(
      (
        await told(
          await post('render', { body: 'x', headers: { 'content-type': 'multipart/form-data; boundary=a' } })
        )
      ).slice(0, 2)
    ).toEqual([400, 'malformed']);
    const got = await fetch(`${here.address}/api/render`);
    expect(got.headers.get('allow')).toBe('POST');
    expect((await told(got)).slice(0, 2)).toEqual([405, 'method']);
    expect((await told(await post('sparkle'))).slice(0, 2)).toEqual([404, 'unknown']);
    expect((await told(await post('constructor'))).slice(0, 2)).toEqual([404, 'unknown']);
  });

  it('serves no page of another origin', async () => {
    for (const origin of ['https://kiln.example', 'null', 'nonsense'])
      expect(
        (
          await told(await fetch(`${here.address}/api/render`, { method: 'POST', headers: { origin } }))
        ).slice(0, 2)
      ).toEqual([403, 'foreign-page']);
    const own = await fetch(`${here.address}/api/measure`, {
      method: 'POST',
      headers: { origin: here.address },
      body: formOf([image()])
    });
    expect(own.status).toBe(200);
  });

  it('says how it is, and describes itself as OpenAPI has it', async () => {
    expect(await (await fetch(`${here.address}/api/health`)).json()).toEqual({
      ok: true,
      requests: 0,
      working: 0,
      waiting: 0
    });
    const description = (await (await fetch(`${here.address}/api/openapi.json`)).json()) as Record<
      string,
      unknown
    >;
    const { Validator } = await import('@seriousme/openapi-schema-validator');
    const found = await new Validator().validate(description);
    expect(found.errors ?? []).toEqual([]);
    expect(Object.keys(description['paths'] as object).sort()).toEqual([
      '/api/bake',
      '/api/health',
      '/api/measure',
      '/api/openapi.json',
      '/api/render'
    ]);
  });
});
