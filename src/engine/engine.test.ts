import { readFileSync } from 'node:fs';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { planOf } from '../core/testing';
import { stepSchema, type PictureSource, type Step } from '../core/document';
import { decodeImage } from '../core/files';
import { headOf } from '../core/heads';
import { evaluate } from '../core/path/evaluate';
import { quantize } from '../core/path/quantize';
import { buildPyramid, sharedSamples, type Frame } from '../core/raster/frame';
import { tileRect, tilesIn } from '../core/raster/raster';
import { randomStream } from '../core/random';
import { exportPicture, type ExportSettings } from './export';
import { nodePool, threadPort } from './node/pool';
import { provideNodeWasm } from './node/wasm';
import { bytesOf } from './bytes-of';
import { Pool, type Port, type Death } from './pool';

const WIDTH = 700;
const HEIGHT = 500;
const random = randomStream(5);
const samples = sharedSamples('u16', WIDTH * HEIGHT * 3);
for (let i = 0; i < samples.length; i++) samples[i] = random() * 65536;
const frame: Frame = {
  width: WIDTH,
  height: HEIGHT,
  layout: 'rgb',
  alpha: false,
  sampleType: 'u16',
  encoding: 'coded',
  missing: 0,
  levels: buildPyramid({ width: WIDTH, height: HEIGHT, samples }, 3)
};
let count = 0;
const step = (params: object, more: object = {}): Step =>
  stepSchema.parse({ id: `s${count++}`, op: 'mix', params, ...more });
const picture = { head: headOf('f'), pins: [] };
const shape = { ...frame, mayMiss: false };
const steps = [
  step({ rows: { g: { g: 0.7, r: 0.3 } } }),
  step({ model: 'lab', rows: { a: { a: 1.2, b: -0.1 } } }, { blend: { mode: 'soft-light', opacity: 0.6 } }),
  step({ model: 'cmyk', rows: { k: { k: 0.9 } } })
];

const corner = { x: 0.5, y: 0.5, size: 1 };
const same = (a: Uint16Array, b: Uint16Array): boolean => Buffer.from(a.buffer).equals(Buffer.from(b.buffer));

const exportedBytes = async (...given: Parameters<typeof exportPicture>): Promise<Uint8Array> =>
  new Uint8Array(await (await exportPicture(...given)).arrayBuffer());

let pool: Pool;
beforeAll(() => {
  provideNodeWasm();
  pool = nodePool(2);
  pool.register('f', frame);
});
afterAll(() => pool.close());

describe('the pool', () => {
  it('exports what the evaluator computes in one piece, and what the tiles of the screen show', async () => {
    const file = await exportedBytes(pool, shape, { ...picture, steps }, { format: 'png', depth: 'u16' });
    const exported = (await decodeImage(file)).samples;
    const whole = new Uint16Array(samples.length);
    const all = { x: 0, y: 0, width: WIDTH, height: HEIGHT };
    quantize(evaluate(planOf(frame, steps), 0, all), whole, WIDTH);
    expect(same(new Uint16Array(exported), whole)).toBe(true);
    const prepared = planOf(frame, steps);
    const tiled = new Uint16Array(samples.length);
    for (const { column, row } of tilesIn(all, WIDTH, HEIGHT)) {
      const rect = tileRect(column, row, WIDTH, HEIGHT);
      quantize(evaluate(prepared, 0, rect), tiled, WIDTH);
      const ask = { ...picture, steps, hold: 's1', level: 0, rect, view: 'colour' as const };
      const pixels = (await pool.run('tile', ask)).pixels as Uint8ClampedArray;
      for (let i = 0; i < rect.width * rect.height; i += 977) {
        const at = ((rect.y + Math.floor(i / rect.width)) * WIDTH + rect.x + (i % rect.width)) * 3;
        for (let c = 0; c < 3; c++)
          expect(Math.abs(pixels[4 * i + c] - whole[at + c] / 257)).toBeLessThan(0.51);
      }
    }
    expect(same(tiled, whole)).toBe(true);
  });

  it('shows inks as they lie on paper', async () => {
    const rect = { x: 0, y: 0, width: 4, height: 1 };
    const ask = { ...picture, steps: [], hold: null, level: 0, rect, view: { channel: 'cmyk.k' } };
    const pixels = (await pool.run('tile', ask)).pixels as Uint8ClampedArray;
    for (let i = 0; i < 4; i++) {
      const brightest = Math.max(...samples.slice(3 * i, 3 * i + 3)) / 65535;
      expect(pixels[4 * i]).toBe(Math.floor(brightest * 255 + 0.5));
    }
  });

  it('reads one pixel at any place of the path', async () => {
    const { values } = await pool.run('read', {
      ...picture,
      steps,
      spots: [
        { x: 3.5, y: 2.5, size: 1 },
        { x: -9, y: 2, size: 3 }
      ],
      places: ['head', { after: 's0' }]
    });
    const [[before, beside], [after]] = values;
    expect(beside).toBeNull();
    if (!before || !after) throw new Error('nothing was read');
    const at = (2 * WIDTH + 3) * 3;
    const [r, g] = [samples[at] / 65535, samples[at + 1] / 65535];
    expect(before[1]).toBeCloseTo(g, 6);
    expect(after[1]).toBeCloseTo(0.7 * g + 0.3 * r, 6);
  });

  it('exports smaller as sharp does in linear light, within a level of 8 bit', async () => {
    const settings = { format: 'png', depth: 'u8', longerSide: 420 } as const;
    const file = await exportedBytes(pool, shape, { ...picture, steps: [] }, settings);
    const data = Buffer.from(Uint8Array.from(samples, (v) => v / 257 + 0.5));
    const wanted = await sharp(data, { raw: { width: WIDTH, height: HEIGHT, channels: 3 } })
      .pipelineColourspace('scrgb')
      .resize(420, 300, { kernel: 'lanczos3', fastShrinkOnLoad: false })
      .toColourspace('srgb')
      .raw()
      .toBuffer();
    const found = (await decodeImage(file)).samples;
    expect(found.length).toBe(wanted.length);
    const inside = wanted.reduce((sum, v, i) => sum + Math.abs(v - found[i]), 0) / wanted.length;
    expect(inside).toBeLessThan(1);
  });

  it('drops what is taken back and reports progress in order', async () => {
    const taken = new AbortController();
    const parts: number[] = [];
    const running = exportPicture(
      pool,
      shape,
      { ...picture, steps },
      { format: 'png', depth: 'u16' },
      ({ part }) => {
        parts.push(part);
        if (part > 0.2) taken.abort(new Error('cancelled'));
      },
      taken.signal
    );
    await expect(running).rejects.toThrow('cancelled');
    expect(parts[0]).toBeLessThan(0.61);
    const again = await pool.run('read', { ...picture, steps: [], spots: [corner], places: ['head'] });
    expect(again.values[0][0]![0]).toBeCloseTo(samples[0] / 65535, 6);
  });

  it('replaces a worker that dies and asks again', async () => {
    const ports: { kill: () => void }[] = [];
    const mortal = (): Port => {
      const port = threadPort();
      let died: (why: Death) => void = () => undefined;
      ports.push({
        kill: () => {
          port.terminate();
          died('failed');
        }
      });
      return { ...port, onDeath: (listener) => void (died = listener) };
    };
    const fragile = new Pool(mortal, 1);
    fragile.register('f', frame);
    const reading = fragile.run('read', { ...picture, steps, spots: [corner], places: ['end'] });
    ports[0].kill();
    expect((await reading).values[0][0]).toHaveLength(3);
    expect(ports).toHaveLength(2);
    fragile.close();
  });

  it('keeps a spare for long jobs, and another when it dies', async () => {
    const ports: { kill: () => void }[] = [];
    const mortal = (): Port => {
      const port = threadPort();
      const listeners: ((why: Death) => void)[] = [];
      ports.push({
        kill: () => {
          port.terminate();
          listeners.forEach((died) => died('failed'));
        }
      });
      return { ...port, onDeath: (listener) => void listeners.push(listener) };
    };
    const standing = new Pool(mortal, 0, 0);
    expect(ports).toHaveLength(1);
    ports[0].kill();
    expect(ports).toHaveLength(2);
    const png = await sharp({ create: { width: 9, height: 7, channels: 3, background: '#123' } })
      .png()
      .toBuffer();
    const { frame } = await standing.runApart('open', { file: new Blob([new Uint8Array(png)]) });
    expect([frame.width, frame.height]).toEqual([9, 7]);
    expect(ports).toHaveLength(2);
    await vi.waitFor(() => expect(ports).toHaveLength(3));
    // The one that is awaited while none stands by is started for it; after the end there is none.
    const open = (): Promise<unknown> => standing.runApart('open', { file: new Blob([new Uint8Array(png)]) });
    const both = [open(), open()];
    expect(ports).toHaveLength(4);
    standing.close();
    await Promise.all(both);
    await new Promise((resolve) => setTimeout(resolve, 20));
    expect(ports).toHaveLength(4);
  });

  it('makes a thumbnail', async () => {
    const jpeg = await pool.run('thumbnail', { ...picture, steps, size: 120 });
    const { width, height } = await decodeImage(jpeg);
    expect([width, height]).toEqual([120, 86]);
  });

  it('names a file by its content', async () => {
    const { hash } = await pool.run('name', { file: new Blob([Uint8Array.of(1, 2, 3)]) });
    // SHA-256 of 01 02 03.
    expect(hash).toBe('039058c6f2c0cb492c533b0a4d14ef77cc0f78abccced5287d84a1a2011cfb81');
    const gone = { arrayBuffer: () => Promise.reject(new DOMException('', 'NotReadableError')) };
    await expect(bytesOf(gone as unknown as Blob)).rejects.toThrow(
      'changed, moved or deleted after it was chosen'
    );
  });

  it('hands on what is wrong with a file', async () => {
    const text = readFileSync(new URL(import.meta.url));
    await expect(pool.runApart('open', { file: new Blob([text]) })).rejects.toMatchObject({
      name: 'FileError'
    });
  });
});

describe('pictures beside a step', () => {
  const beside = (frame: string): Step =>
    ({
      ...stepSchema.parse({
        id: 'w',
        op: 'mix',
        params: { rows: { r: { constant: 1 }, g: {}, b: {} } },
        where: { terms: [{ source: { kind: 'channel', channel: 'rgb.g', of: { picture: 'q' } } }] }
      }),
      key: `w ${frame}`,
      beside: { pictures: { 'q/': { name: 'Other', head: headOf(frame), steps: [], pins: [] } }, masks: {} }
    }) as Step;

  it('are waited for until their frame is there, while other work goes on', async () => {
    const waiting = pool.run('read', {
      ...picture,
      steps: [beside('late')],
      spots: [corner],
      places: ['end']
    });
    const { values } = await pool.run('read', { ...picture, steps: [], spots: [corner], places: ['head'] });
    expect(values[0][0]![0]).toBeCloseTo(samples[0] / 65535, 6);
    let done = false;
    void waiting.then(() => (done = true));
    await new Promise((resolve) => setTimeout(resolve, 50));
    expect(done).toBe(false);
    pool.register('late', frame);
    const [r, g] = [samples[0] / 65535, samples[1] / 65535];
    expect((await waiting).values[0][0]![0]).toBeCloseTo(r + g * (1 - r), 5);
  });

  it('are refused by a worker where they are of another size', async () => {
    const small = { ...frame, width: 350, height: 250, levels: frame.levels.slice(1) };
    pool.register('small', small);
    const ask = { ...picture, steps: [beside('small')], spots: [corner], places: ['end'] as const };
    await expect(pool.run('read', ask)).rejects.toThrow('“Other” is 350 × 250 pixels and this one 700 × 500');
  });
});

describe('work on masks', () => {
  it('ranks sources by the samples under squares', async () => {
    const spots = (x: number): { x: number; y: number; size: number }[] => [{ x, y: 100.5, size: 21 }];
    const bright = stepSchema.parse({
      ...{ id: 'b', op: 'levels', params: { channels: { g: { outBlack: 0.9 } } } },
      where: { terms: [{ source: { kind: 'ramp', from: [300, 0], to: [301, 0] } }] }
    });
    const ask = { ...picture, steps: [bright], want: spots(100.5), avoid: spots(600.5) };
    const { candidates } = await pool.run('rank', ask);
    const green = candidates.find(({ source }) => source.kind === 'channel' && source.channel === 'rgb.g')!;
    expect(green.auc).toBeGreaterThan(0.9);
    expect(green.auc).toBeGreaterThan(candidates.find(({ name }) => name === 'red')!.auc);
  });

  it('measures a shift of none between a picture and itself', async () => {
    const source = { ...picture, steps: [] };
    const { shift } = await pool.run('shift', { ...source, other: source });
    expect(Math.hypot(shift.x, shift.y)).toBeLessThan(0.05);
    expect(shift.certainty).toBeGreaterThan(20);
  });

  it('shows and measures how far a picture is from another, which goes to a worker once', async () => {
    const other = { ...picture, steps: [steps[0]], at: 'end' as const };
    const rect = { x: 256, y: 0, width: 200, height: 100 };
    const view = { by: 'samples', times: 4 } as const;
    const ask = { ...picture, steps, hold: null, level: 0, rect, view, other };
    const [one, two] = [steps, [steps[0]]].map((path) => evaluate(planOf(frame, path), 0, rect).planes);
    const differs = (i: number, c: number): number => {
      const clamp = (v: number): number => Math.min(1, Math.max(0, v));
      return Math.abs(clamp(one[c][i]) - clamp(two[c][i]));
    };
    for (let turn = 0; turn < 2; turn++) {
      const pixels = (await pool.run('tile', ask)).pixels as Uint8ClampedArray;
      for (let i = 0; i < 20_000; i += 7)
        for (let c = 0; c < 3; c++)
          expect(Math.abs(pixels[4 * i + c] - Math.min(255, 1020 * differs(i, c)))).toBeLessThan(0.51);
    }
    const { differing } = await pool.run('differ', { ...picture, steps, rect, other, by: 'samples' });
    const all = Array.from({ length: 60_000 }, (_, i) => differs(Math.floor(i / 3), i % 3));
    expect(differing.sum).toBeCloseTo(
      all.reduce((sum, v) => sum + v, 0),
      1
    );
    expect(differing.largest).toBeCloseTo(Math.max(...all), 6);
    const crop = stepSchema.parse({
      ...{ id: 'crop', op: 'straighten' },
      params: { crop: { x: 0, y: 0, width: 100, height: 80 } }
    });
    const small = { ...other, steps: [crop] };
    await expect(pool.run('tile', { ...ask, other: small })).rejects.toThrow(/700 × 500.*100 × 80/);
  });

  it.each(['png', 'tiff'] as const)('writes a mask as a grey file of 16 bit: %s', async (format) => {
    const mask = {
      terms: [
        { source: { kind: 'channel', channel: 'rgb.b' }, invert: true, combine: 'intersect', amount: 1 }
      ],
      grow: 0,
      blur: 0,
      invert: false
    };
    const seen = { ...steps[0], op: '(mask)', params: { mask, drained: false } };
    const file = await exportedBytes(
      pool,
      shape,
      { ...picture, steps: [seen] },
      { format, depth: 'u16', grey: true }
    );
    const { data, info } = await sharp(Buffer.from(file))
      .toColourspace('grey16')
      .raw({ depth: 'ushort' })
      .toBuffer({ resolveWithObject: true });
    expect([info.width, info.height, info.channels]).toEqual([WIDTH, HEIGHT, 1]);
    const values = new Uint16Array(data.buffer, data.byteOffset, WIDTH * HEIGHT);
    for (const i of [0, 1, 999, WIDTH * HEIGHT - 1])
      expect(Math.abs(values[i] - (65535 - samples[3 * i + 2]))).toBeLessThan(2);
    const back = await decodeImage(file);
    expect([back.layout, back.sampleType]).toEqual(['grey', 'u16']);
  });

  it('writes greys with one channel where the format has it and nothing is lost by it', async () => {
    const mono = stepSchema.parse({ id: 'm', op: 'mono', params: {} });
    const one = { ...picture, steps: [mono] };
    const channels = async (
      of: PictureSource,
      settings: Pick<ExportSettings, 'format' | 'depth'> & Partial<ExportSettings>
    ): Promise<{ channels: number | undefined; pixels: Buffer }> => {
      const file = await exportedBytes(pool, shape, of, settings);
      const { channels: count } = await sharp(file).metadata();
      return {
        channels: count,
        pixels: await sharp(file, { ignoreIcc: true }).toColourspace('b-w').raw().toBuffer()
      };
    };
    for (const format of ['png', 'tiff'] as const)
      for (const settings of [
        { format, depth: 'u16' },
        { format, depth: 'u8', dither: true },
        { format, depth: 'u8', longerSide: 100, dither: true }
      ] as const)
        expect((await channels(one, settings)).channels).toBe(1);
    expect((await channels(one, { format: 'webp', depth: 'u8' })).channels).toBe(3);
    // What has colours at its right edge alone is a picture in colours.
    const source = { kind: 'ramp', shape: 'straight', from: [WIDTH - 1, 0], to: [WIDTH - 2, 0] };
    const dab = stepSchema.parse({ ...mono, where: { terms: [{ source }] } });
    expect((await channels({ ...picture, steps: [dab] }, { format: 'png', depth: 'u16' })).channels).toBe(3);
    // The same greys as of three channels.
    const [deep] = evaluate(planOf(frame, [mono]), 0, { x: 0, y: 0, width: WIDTH, height: HEIGHT }).planes;
    const { pixels } = await channels(one, { format: 'png', depth: 'u8' });
    for (let i = 0; i < deep.length; i += 97)
      expect(Math.abs(pixels[i] - 255 * deep[i])).toBeLessThanOrEqual(0.51);
  });
});
