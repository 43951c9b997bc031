import { execFile, spawn } from 'node:child_process';
import { mkdir, mkdtemp, readdir, readFile, rm, symlink, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { text } from 'node:stream/consumers';
import { fileURLToPath } from 'node:url';
import sharp from 'sharp';
import { paperProfile } from '../e2e/paper-profile';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { randomStream } from '../src/core/random';
import { tiffCompression } from '../src/core/testing';
import { builtCommands } from './commands.mjs';

const RUN = fileURLToPath(new URL('./run.mjs', import.meta.url));
const WIDTH = 40;
const HEIGHT = 30;

let folder = '';
const at = (name: string): string => join(folder, name);
const random = randomStream(17);
const pixels = Uint8Array.from({ length: WIDTH * HEIGHT * 3 }, () => Math.floor(random() * 256));

interface Ended {
  readonly code: number;
  readonly out: string;
  readonly error: string;
}

const began = (...args: string[]): Promise<Ended> =>
  new Promise((resolve) => {
    execFile(process.execPath, args, { encoding: 'utf8' }, (error, out, err) =>
      resolve({ code: error ? Number(error.code) : 0, out, error: err })
    );
  });
let programs = '';
/** Runs the program itself: what comes before it is the same for all. */
const run = (name: string, ...args: string[]): Promise<Ended> => began(join(programs, `${name}.js`), ...args);

const swap = { id: 's1', op: 'mix', params: { rows: { r: { b: 1 }, b: { r: 1 } } } };
const document = (steps: object[] = [swap]): string =>
  JSON.stringify({
    kromba: 1,
    kind: 'document',
    name: 'Tile',
    frames: [{ id: 'f1', name: 'tile', file: 'tile.png' }],
    pictures: [{ id: 'p1', name: 'Swapped', head: { kind: 'frame', frame: 'f1' }, steps }]
  });

beforeAll(async () => {
  programs = builtCommands(fileURLToPath(new URL('..', import.meta.url)));
  folder = await mkdtemp(join(tmpdir(), 'kromba-test-'));
  await sharp(pixels, { raw: { width: WIDTH, height: HEIGHT, channels: 3 } })
    .png()
    .toFile(at('tile.png'));
  await writeFile(at('tile.kromba.json'), document());
  await writeFile(at('look.json'), JSON.stringify({ kromba: 1, kind: 'look', name: 'Swap', steps: [swap] }));
  await writeFile(at('strange.kromba.json'), document([{ id: 's1', op: 'sparkle', params: {} }]));
  await writeFile(at('notes.png'), 'only text');
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const raw = (name: string): Promise<Buffer> => sharp(at(name)).raw().toBuffer();
const swapped = Uint8Array.from(pixels, (_, i) => pixels[i - (i % 3) + 2 - (i % 3)]);

describe('render', () => {
  it('puts a document’s picture into a file, its frame found beside it', async () => {
    const args = [at('tile.kromba.json'), '--picture', 'Swapped', '--out', at('a.png'), '--depth', '8'];
    const ended = await began(RUN, 'render', ...args);
    expect(ended).toEqual({ code: 0, out: '', error: '' });
    expect(Buffer.from(swapped).equals(await raw('a.png'))).toBe(true);
    // What the program ends with is what the command ends with.
    expect(await began(RUN, 'render')).toMatchObject({
      code: 1,
      out: '',
      error: expect.stringMatching(/^Usage:/) as string
    });
  });

  it('reads a frame whose name has signs of its own', async () => {
    const text = document().replace('tile.png', 'tile #2=a&b.png');
    await writeFile(at('signs.kromba.json'), text);
    await writeFile(at('tile #2=a&b.png'), await readFile(at('tile.png')));
    const args = ['--picture', 'Swapped', '--out', at('signs.png'), '--depth', '8'];
    expect(await run('render', at('signs.kromba.json'), ...args)).toEqual({ code: 0, out: '', error: '' });
    expect(Buffer.from(swapped).equals(await raw('signs.png'))).toBe(true);
  });

  it('takes what a step needs from other frames beside the document, and says which look can’t stand alone', async () => {
    const white = Buffer.alloc(WIDTH * HEIGHT * 3, 255);
    await sharp(white, { raw: { width: WIDTH, height: HEIGHT, channels: 3 } })
      .png()
      .toFile(at('white.png'));
    const of = { picture: 'p2' };
    const step = {
      ...swap,
      where: { terms: [{ source: { kind: 'channel', channel: 'lum', of }, invert: true }] }
    };
    const text = JSON.parse(document([step])) as { frames: object[]; pictures: object[] };
    text.frames.push({ id: 'f2', name: 'white', file: 'white.png' });
    text.pictures.push({ id: 'p2', name: 'White', head: { kind: 'frame', frame: 'f2' } });
    await writeFile(at('two.kromba.json'), JSON.stringify(text));
    const args = ['--picture', 'Swapped', '--out', at('two.png'), '--depth', '8'];
    expect(await run('render', at('two.kromba.json'), ...args)).toEqual({ code: 0, out: '', error: '' });
    // The mask is white turned over: nothing is swapped.
    expect(Buffer.from(pixels).equals(await raw('two.png'))).toBe(true);

    const look = { kromba: 1, kind: 'look', name: 'Lost', steps: [step] };
    await writeFile(at('lost.json'), JSON.stringify(look));
    const lost = await run('render', '--look', at('lost.json'), at('tile.png'), '--out', at('x.png'));
    expect(lost.code).toBe(1);
    expect(lost.error).toContain('takes from another picture, which a look does not hold');
  });

  it('puts a look on an image, at any depth', async () => {
    const { code } = await run(
      'render',
      '--look',
      at('look.json'),
      at('tile.png'),
      '--out',
      at('b.tif'),
      '--depth',
      '16'
    );
    expect(code).toBe(0);
    const { depth } = await sharp(at('b.tif')).metadata();
    expect(depth).toBe('ushort');
    const { out } = await run('measure', at('b.tif'), '--at', '3,2');
    const [r, g, b] = pixels.slice((2 * WIDTH + 3) * 3, (2 * WIDTH + 3) * 3 + 3);
    const { values } = (JSON.parse(out) as { at: { values: Record<string, number> } }).at;
    expect([values['rgb.r'], values['rgb.g'], values['rgb.b']].map((v) => Math.round(v * 255))).toEqual([
      b,
      g,
      r
    ]);
  });

  it('puts a look on at half its strength: red and blue, swapped by half, are the same', async () => {
    const half = ['--out', at('half.png'), '--strength', '50'];
    expect(await run('render', '--look', at('look.json'), at('tile.png'), ...half)).toMatchObject({
      code: 0
    });
    const { out } = await run('measure', at('half.png'), '--at', '3,2');
    const [r, g, b] = pixels.slice((2 * WIDTH + 3) * 3, (2 * WIDTH + 3) * 3 + 3);
    const { values } = (JSON.parse(out) as { at: { values: Record<string, number> } }).at;
    const [red, green, blue] = ['r', 'g', 'b'].map((c) => 255 * values[`rgb.${c}`]);
    expect(Math.abs(red - (r + b) / 2)).toBeLessThan(0.01);
    expect(Math.abs(blue - (r + b) / 2)).toBeLessThan(0.01);
    expect(Math.abs(green - g)).toBeLessThan(0.01);
  });

  it('writes other formats, spaces and sizes, and says what a format can’t hold', async () => {
    const look = (...args: string[]): Promise<Ended> =>
      run('render', '--look', at('look.json'), at('tile.png'), '--out', ...args);
    const made = await look(at('small.webp'), '--space', 'display-p3', '--size', '20', '--quality', '100');
    expect(made).toEqual({ code: 0, out: '', error: '' });
    const { format, width, height, icc } = await sharp(at('small.webp')).metadata();
    expect([format, width, height]).toEqual(['webp', 20, 15]);
    expect(icc).toBeDefined();
    for (const compression of ['deflate', 'none']) {
      const out = at(`${compression}.tif`);
      expect((await look(out, '--depth', '16', '--compression', compression)).code).toBe(0);
      expect(await tiffCompression(await readFile(out))).toBe(compression);
    }
    for (const [args, why] of [
      [['x.avif', '--space', 'prophoto'], '--space prophoto: AVIF is written in sRGB, Display P3.'],
      [['x.png', '--space', 'cmyk'], '--space cmyk: use srgb, display-p3'],
      [['x.png', '--size', '1.5'], '--size 1.5: give a whole number from 1 to 262144.'],
      [['x.png', '--strength', '0'], '--strength 0: give a whole number from 1 to 100.'],
      [['x.png', '--metadata', 'some'], '--metadata some: use keep, no-place, none.'],
      [['x.jpg', '--quality', '0'], '--quality 0: give a whole number from 1 to 100.'],
      [['x.tif', '--compression', 'some'], '--compression some: use deflate or none.'],
      [
        ['x.png', '--compression', 'none'],
        '--compression none: only TIFF of 16 bits a channel leaves it open.'
      ],
      [['x.tif', '--depth', '8', '--compression', 'deflate'], '--compression deflate: only TIFF of 16 bits'],
      [['x.webp', '--depth', '16'], '--depth 16: WebP is written with 8 bits a channel.']
    ] as const) {
      const ended = await look(at(args[0]), ...args.slice(1));
      expect(ended.code).toBe(1);
      expect(ended.error).toContain(why);
    }
  });

  it('writes by a profile of one’s own, and says what can’t be', async () => {
    await writeFile(at('matte.icc'), paperProfile());
    await writeFile(at('inks.icc'), paperProfile({ 16: 'CMYK' }));
    const look = (out: string, ...args: string[]): Promise<Ended> =>
      run('render', '--look', at('look.json'), at('tile.png'), '--out', at(out), ...args);
    const by = ['--profile', at('matte.icc')];
    const files = new Map<string, Buffer>();
    for (const [out, ...args] of [
      ['keep.png'],
      ['cut.png', '--no-black-point'],
      ['all.png', '--intent', 'perceptual']
    ]) {
      expect(await look(out, ...by, ...args)).toEqual({ code: 0, out: '', error: '' });
      files.set(out, await raw(out));
      expect((await sharp(at(out)).metadata()).icc?.equals(paperProfile())).toBe(true);
    }
    expect(new Set([...files.values()].map((file) => file.toString('hex'))).size).toBe(3);
    for (const [out, args, why] of [
      ['x.avif', by, '--profile matte: AVIF has no place for it; use PNG, JPEG, TIFF or WebP.'],
      [
        'x.png',
        ['--profile', at('inks.icc')],
        '“inks.icc” can’t be written by: it is a profile of CMYK inks'
      ],
      ['x.png', ['--profile', at('tile.png')], 'it is no ICC profile'],
      ['x.png', ['--profile', at('gone.icc')], 'There is no file'],
      ['x.png', ['--intent', 'relative'], '--intent goes with --profile.'],
      ['x.png', ['--no-black-point'], '--no-black-point goes with --profile.']
    ] as const) {
      const ended = await look(out, ...args);
      expect(ended.code).toBe(1);
      expect(ended.error).toContain(why);
    }
  });

  describe('of many files', () => {
    const look = (...args: string[]): Promise<Ended> => run('render', '--look', at('look.json'), ...args);
    const files = (): string[] => ['tile.png', 'second.png', 'third #2.png'].map(at);
    beforeAll(async () => {
      for (const name of ['second.png', 'third #2.png'])
        await writeFile(at(name), await readFile(at('tile.png')));
    });

    it('writes each as it is written alone, and goes on where one is damaged', async () => {
      const { code, out, error } = await look(
        '--out-dir',
        at('many'),
        ...files(),
        at('notes.png'),
        at('gone.png')
      );
      expect({ code, out }).toEqual({ code: 1, out: '' });
      expect(error).toMatch(/\d\/5 .*notes\.png: not written\. .*(is no picture that Kromba reads|image)/);
      expect(error).toMatch(/\d\/5 .*gone\.png: not written\. There is no file/);
      expect(error).toContain('3 of 5 written; what is wrong with the others is said above.');
      expect((await readdir(at('many'))).sort()).toEqual(['second.png', 'third #2.png', 'tile.png']);
      await look(at('tile.png'), '--out', at('alone.png'));
      const alone = await readFile(at('alone.png'));
      for (const name of await readdir(at('many')))
        expect((await readFile(join(at('many'), name))).equals(alone)).toBe(true);
    });

    it('names them by a pattern, in another format, and tells each as a line', async () => {
      const args = ['--name', '{n} {look} of {name}', '--format', 'tif', '--depth', '8', '--json'];
      const { code, out, error } = await look('--out-dir', at('named/inside'), ...args, ...files());
      expect({ code, error }).toEqual({ code: 0, error: '' });
      const lines = out
        .trim()
        .split('\n')
        .map((line) => JSON.parse(line) as { file: string; out: string; ms: number; notices: string[] });
      expect(lines.map(({ file }) => file).sort()).toEqual(files().sort());
      const names = ['1 Swap of tile.tif', '2 Swap of second.tif', '3 Swap of third #2.tif'];
      expect((await readdir(at('named/inside'))).sort()).toEqual(names);
      expect(lines.map((line) => line.out).sort()).toEqual(
        names.map((name) => join(at('named/inside'), name))
      );
      const { data } = await sharp(join(at('named/inside'), names[0]))
        .raw()
        .toBuffer({ resolveWithObject: true });
      expect(Buffer.from(swapped).equals(data)).toBe(true);
    });

    it('lets files stay that are there, unless it is told otherwise', async () => {
      await mkdir(at('there'));
      await writeFile(join(at('there'), 'tile.png'), 'mine');
      const kept = await look('--out-dir', at('there'), ...files());
      expect(kept.code).toBe(1);
      expect(kept.error).toContain('tile.png is there already and stays as it is');
      expect(await readFile(join(at('there'), 'tile.png'), 'utf8')).toBe('mine');
      expect((await look('--out-dir', at('there'), '--overwrite', at('tile.png'))).code).toBe(0);
      expect((await readFile(join(at('there'), 'tile.png'))).length).toBeGreaterThan(100);
      // Not even then are those written over that are read.
      const own = await look('--out-dir', folder, '--overwrite', at('second.png'));
      expect(own.error).toContain('is one of the files that are read');
      expect((await readFile(at('second.png'))).equals(await readFile(at('tile.png')))).toBe(true);
    });

    it('knows a file that is read by another of its names', async () => {
      await mkdir(at('linked'));
      await writeFile(join(at('linked'), 'tile.png'), await readFile(at('tile.png')));
      await symlink(join(at('linked'), 'tile.png'), at('link.png'));
      const args = ['--out-dir', at('linked'), '--name', 'tile', '--overwrite'];
      const { code, error } = await look(...args, at('link.png'));
      expect({ code, said: /tile\.png is one of the files that are read/.test(error) }).toEqual({
        code: 1,
        said: true
      });
      const kept = await readFile(join(at('linked'), 'tile.png'));
      expect(kept.equals(await readFile(at('tile.png')))).toBe(true);
    });

    it('ends at a signal with a sentence, and leaves nothing half written', async () => {
      const many = Array.from({ length: 300 }, () => at('tile.png'));
      const args = [
        '--look',
        at('look.json'),
        '--out-dir',
        at('stopped'),
        '--name',
        '{n}',
        '--json',
        ...many
      ];
      const running = spawn(process.execPath, [RUN, 'render', ...args]);
      const error = text(running.stderr);
      let out = '';
      running.stdout.on('data', (said: Buffer) => {
        if (out === '') running.kill('SIGTERM');
        out += said.toString();
      });
      const code = await new Promise((resolve) => running.on('close', resolve));
      expect({ code, error: (await error).trim() }).toEqual({
        code: 1,
        error: 'Stopped. What was written stays; nothing is half written.'
      });
      const written = out.trim().split('\n').length;
      expect(written).toBeLessThan(300);
      const names = await readdir(at('stopped'));
      expect(names.filter((name) => !name.endsWith('.png'))).toEqual([]);
      expect(names.length).toBeGreaterThanOrEqual(written);
      for (const name of names) expect((await sharp(join(at('stopped'), name)).metadata()).width).toBe(WIDTH);
    });

    it.each([
      [
        'two of one name',
        ['--out-dir', 'none', 'tile.png', 'many/tile.png'],
        /both be written to .*use \{n\}/
      ],
      [
        'an unknown field',
        ['--out-dir', 'none', '--name', '{title}', 'tile.png'],
        /“\{title\}” is not known/
      ],
      [
        'an unknown format',
        ['--out-dir', 'none', '--format', 'gif', 'tile.png'],
        /--format gif: use png, jpg, tif, webp, avif, jxl or fits/
      ],
      ['a file as folder', ['--out-dir', 'tile.png', 'second.png'], /folder .*tile\.png can’t be made/],
      ['what is for many', ['--out', 'none', '--json', 'tile.png'], /--json is for many files/],
      ['both ways', ['--out-dir', 'none', '--out', 'x.png', 'tile.png'], /Usage/]
    ])('refuses %s before anything is written', async (_, args, why) => {
      const paths = args.map((arg) => (/^(none|.*\.png)$/.test(arg) ? at(arg) : arg));
      const { code, error } = await look(...paths);
      expect(code).toBe(1);
      expect(error).toMatch(why);
      await expect(readdir(at('none'))).rejects.toThrow('ENOENT');
    });
  });

  it.each([
    [
      'no such picture',
      ['tile.kromba.json', '--picture', 'Other', '--out', 'x.png'],
      /no picture “Other” in “Tile”\. It has: “Swapped”/
    ],
    [
      'no such file',
      ['gone.kromba.json', '--picture', 'Swapped', '--out', 'x.png'],
      /There is no file .*gone/
    ],
    [
      'an unknown step',
      ['strange.kromba.json', '--picture', 'Swapped', '--out', 'x.png'],
      /steps\[0\]\.op: “sparkle” is no step/
    ],
    [
      'an unknown ending',
      ['tile.kromba.json', '--picture', 'Swapped', '--out', 'x.bmp'],
      /ends in \.png, \.jpg, \.tif, \.webp, \.avif, \.jxl or \.fits/
    ],
    [
      'a depth the format lacks',
      ['tile.kromba.json', '--picture', 'Swapped', '--out', 'x.jpg', '--depth', '16'],
      /JPEG is written with 8 bits/
    ],
    [
      'a folder that is not there',
      ['tile.kromba.json', '--picture', 'Swapped', '--out', 'none/x.png'],
      /its folder does not exist/
    ],
    ['an unknown option', ['tile.kromba.json', '--size', '3'], /--size/],
    ['nothing to do', [], /Usage:/]
  ])('says what is wrong with %s, in a sentence', async (_, args, message) => {
    const ended = await run('render', ...args.map((a) => (/\.(json|png|jpg|bmp)$/.test(a) ? at(a) : a)));
    expect(ended.code).toBe(1);
    expect(ended.out).toBe('');
    expect(ended.error).toMatch(message);
    expect(ended.error).not.toMatch(/\n\s+at /);
  });
});

describe('measure', () => {
  it('tells size, sample type and the statistics of each plane', async () => {
    const { code, out } = await run('measure', at('tile.png'));
    expect(code).toBe(0);
    const found = JSON.parse(out) as {
      width: number;
      height: number;
      sampleType: string;
      planes: Record<string, { min: number; max: number; mean: number; median: number }>;
    };
    expect([found.width, found.height, found.sampleType]).toEqual([WIDTH, HEIGHT, 'u8']);
    const { channels } = await sharp(at('tile.png')).stats();
    ['r', 'g', 'b'].forEach((name, c) => {
      const plane = found.planes[name];
      expect(plane.min * 255).toBeCloseTo(channels[c].min, 6);
      expect(plane.max * 255).toBeCloseTo(channels[c].max, 6);
      expect(plane.mean * 255).toBeCloseTo(channels[c].mean, 5);
      const sorted = Array.from({ length: WIDTH * HEIGHT }, (_, i) => pixels[3 * i + c]).sort(
        (a, b) => a - b
      );
      expect(plane.median * 255).toBeCloseTo(
        (sorted[(WIDTH * HEIGHT) / 2 - 1] + sorted[(WIDTH * HEIGHT) / 2]) / 2,
        5
      );
    });
  });

  it.each([
    ['a place outside', ['tile.png', '--at', '40,0'], /x goes to 39/],
    ['a place that is none', ['tile.png', '--at', 'here'], /two whole numbers/],
    ['text named .png', ['notes.png'], /notes\.png: The file is no picture/],
    ['two files', ['tile.png', 'tile.png'], /Usage/]
  ])('says what is wrong with %s', async (_, args, message) => {
    const ended = await run('measure', ...args.map((a) => (a.endsWith('.png') ? at(a) : a)));
    expect([ended.code, ended.out]).toEqual([1, '']);
    expect(ended.error).toMatch(message);
  });
});

describe('bake', () => {
  it('makes a table of a look, and tells what it carries and how near it comes', async () => {
    const blur = { id: 's2', op: 'blur', params: { radius: 2 } };
    await writeFile(
      at('blurred.json'),
      JSON.stringify({ kromba: 1, kind: 'look', name: 'Swap, soft', steps: [swap, blur] })
    );
    const ended = await run(
      'bake',
      at('blurred.json'),
      at('tile.png'),
      '--size',
      '17',
      '--out',
      at('swap.cube'),
      '--report'
    );
    expect([ended.code, ended.error.trim()]).toEqual([0, '“Blur” is left out: it looks at neighbours.']);
    const report = JSON.parse(ended.out) as {
      error: { largest: number };
      picture: { mean: number; largest: number };
    };
    // The swap is straight; over noise, what the blur does is all that is missing.
    expect(report.error.largest).toBeLessThan(0.01);
    expect(report.picture.mean).toBeGreaterThan(5);
    const lines = (await readFile(at('swap.cube'), 'utf8')).trim().split('\n');
    expect(lines.slice(0, 4)).toEqual(['TITLE "Swap, soft"', 'LUT_3D_SIZE 17', '0 0 0', '0 0 0.0625']);
    expect(lines).toHaveLength(2 + 17 ** 3);
  });

  it('asks for the picture where a step is solved from one', async () => {
    const steps = [{ id: 's1', op: 'balance', params: { method: 'grey' } }];
    await writeFile(at('grey.json'), JSON.stringify({ kromba: 1, kind: 'look', name: 'Grey', steps }));
    const ended = await run('bake', at('grey.json'), '--out', at('grey.cube'));
    expect(ended.code).toBe(1);
    expect(ended.error).toContain('“Balance” is solved from a picture. Name the image after the look.');
  });
});
