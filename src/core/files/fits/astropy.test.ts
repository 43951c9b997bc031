import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { sampleScale } from '../../raster/frame';
import { randomStream } from '../../random';
import { decodeImage } from '..';
import { readCard } from './header';
import { writeFits } from './write';

/** Another's reading and writing of the same files: astropy. The set-up of the tests puts it there where it may. */
const PYTHON = '/usr/bin/python3';
const has = existsSync('/usr/lib/python3/dist-packages/astropy');
const script = (name: string): string => fileURLToPath(new URL(name, import.meta.url));
const floats = (path: string): Float64Array => new Float64Array(new Uint8Array(readFileSync(path)).buffer);

describe.skipIf(!has)('FITS, as astropy has it', () => {
  const folder = mkdtempSync(join(tmpdir(), 'kromba-fits-'));
  beforeAll(() => execFileSync(PYTHON, [script('kinds.py'), folder]));
  afterAll(() => rmSync(folder, { recursive: true }));
  const read = (name: string, choices = {}): ReturnType<typeof decodeImage> =>
    decodeImage(new Uint8Array(readFileSync(join(folder, `${name}.fits`))), choices);

  /** Compares samples times their range with the values that astropy has, to a float's precision. */
  function compare(
    image: Awaited<ReturnType<typeof decodeImage>>,
    values: Float64Array,
    upward = true
  ): void {
    const { width, height, samples, fits } = image;
    const channels = image.layout === 'rgb' ? 3 : 1;
    const unit = sampleScale(samples) * fits!.range;
    expect(values.length).toBeGreaterThanOrEqual(width * height * channels);
    const largest = values.reduce((m, v) => (Number.isFinite(v) ? Math.max(m, Math.abs(v)) : m), 0);
    let worst = 0;
    for (let c = 0; c < channels; c++)
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++) {
          const theirs = values[(c * height + (upward ? height - 1 - y : y)) * width + x];
          const ours = samples[(y * width + x) * channels + c] * unit;
          if (Number.isNaN(theirs)) expect(ours).toBeNaN();
          else if (theirs === Infinity) expect(ours).toBe(Infinity);
          else worst = Math.max(worst, Math.abs(ours - theirs) / largest);
        }
    expect(worst).toBeLessThan(1.3e-7);
  }

  it('reads every kind that astropy writes, compressed ones too, with its values', async () => {
    const names = readdirSync(folder).flatMap((n) => (n.endsWith('.raw') ? [n.slice(0, -4)] : []));
    expect(names.length).toBeGreaterThan(50);
    for (const name of names) {
      if (name === 'HCOMPRESS_1') continue;
      const bytes = name === 'gz' ? 'gz' : name;
      try {
        const image = await decodeImage(
          new Uint8Array(readFileSync(join(folder, name === 'gz' ? 'gz.fits' : `${bytes}.fits`)))
        );
        expect([image.width, image.height]).toEqual([70, 45]);
        expect(image.encoding).toBe('linear');
        compare(image, floats(join(folder, `${name}.raw`)), name !== 'topdown');
      } catch (error) {
        throw new Error(`${name}: ${(error as Error).message}`, { cause: error });
      }
    }
  });

  it('takes the range of the type, or what holds the values', async () => {
    const ranges = { u8: 255, i8: 127, i16: 32767, u16: 65535, i32: 2 ** 31 - 1, u32: 2 ** 32 - 1 };
    for (const [name, range] of Object.entries(ranges)) expect((await read(name)).fits!.range).toBe(range);
    expect((await read('u64')).fits!.range).toBe(2 ** 64 - 1);
    expect((await read('f32')).fits!.range).toBe(1);
    expect((await read('f64')).fits!.range).toBe(65535);
    expect((await read('u16')).sampleType).toBe('u16');
    const chosen = await read('u16', { range: 1000 });
    expect(chosen.fits!.range).toBe(1000);
    compare(chosen, floats(join(folder, 'u16.raw')));
  });

  it('takes the part and the plane that are chosen, and refuses what is not there', async () => {
    const err = await read('extensions', { hdu: 2 });
    expect(err.fits!.parts.map(({ name }) => name)).toEqual(['SCI', 'ERR']);
    const values = floats(join(folder, 'extensions.raw'));
    compare(
      err,
      values.map((v) => Math.fround(v / 10))
    );
    const four = await read('four', { plane: 4 });
    expect([four.layout, four.fits!.planes, four.fits!.plane]).toEqual(['grey', 4, 4]);
    compare(four, floats(join(folder, 'four.raw')).subarray(3 * 45 * 70));
    expect((await read('four')).notices[0]).toContain('4 planes');
    expect((await read('three')).layout).toBe('rgb');
    await expect(read('four', { plane: 5 })).rejects.toThrow('no plane 5');
    await expect(read('extensions', { hdu: 7 })).rejects.toThrow('no picture in its part 8');
    await expect(read('HCOMPRESS_1')).rejects.toThrow('HCOMPRESS_1');
  });

  it('reads cards: long texts, hierarchies, quotes, powers', async () => {
    const { fits } = await read('topdown');
    const cards = fits!.cards.map((text, i) => readCard(text, fits!.cards.slice(i + 1)));
    const value = (key: string): unknown => cards.find((c) => c.key === key)?.value;
    expect(value('LONGTEXT')).toMatch(/^A text that is far longer .* goes on in a second one\.$/);
    expect(value('KILN ROOM TEMP')).toBe(18.5);
    expect(value('QUOTED')).toBe("the potter's jug");
    expect(value('POWER')).toBe(1.5e-7);
    expect(cards.find((c) => c.key === 'HISTORY')?.comment).toBe('Made by astropy.');
  });

  it('writes files that astropy reads with the same values and cards and valid sums', async () => {
    const { fits } = await read('topdown');
    const random = randomStream(3);
    const [width, height] = [37, 23];
    for (const [grey, type] of [
      [true, 'u16'],
      [false, 'u16'],
      [true, 'f32'],
      [false, 'f32']
    ] as const) {
      const channels = grey ? 1 : 3;
      const samples =
        type === 'u16'
          ? Uint16Array.from({ length: width * height * channels }, () => random() * 65536)
          : Float32Array.from({ length: width * height * channels }, () => random() * 2 - 0.5);
      const history = ['Balance by hand: red −3 %, “warm” '.repeat(4), 'Mix'];
      const bytes = writeFits(
        { width, height, alpha: false, grey, encoding: 'linear', samples },
        { cards: fits!.cards, history, range: type === 'f32' ? 65535 : 1 }
      );
      const path = join(folder, 'ours.fits');
      writeFileSync(path, bytes);
      const told = JSON.parse(execFileSync(PYTHON, [script('written.py'), path], { encoding: 'utf8' })) as {
        [key: string]: unknown;
        cards: Record<string, unknown>;
        history: string[];
      };
      expect(told.shape).toEqual(grey ? [height, width] : [3, height, width]);
      expect([told.checksum, told.datasum]).toEqual([1, 1]);
      expect(told.cards).toMatchObject({
        ...{ OBJECT: 'Lantern', FILTER: 'H', EXPTIME: 300, 'KILN ROOM TEMP': 18.5, ROWORDER: 'BOTTOM-UP' },
        QUOTED: "the potter's jug"
      });
      expect(told.cards['LONGTEXT']).toMatch(/goes on in a second one\.$/);
      expect(told.history[0]).toBe('Made by astropy.');
      expect(told.history.join(' ')).toContain('Balance by hand: red -3 %, "warm" Balance');
      const values = floats(`${path}.raw`);
      const range = type === 'f32' ? 65535 : 1;
      for (let c = 0; c < channels; c++)
        for (let y = 0; y < height; y++)
          for (let x = 0; x < width; x++)
            expect(values[(c * height + height - 1 - y) * width + x]).toBe(
              type === 'f32'
                ? Math.fround(samples[(y * width + x) * channels + c] * range)
                : samples[(y * width + x) * channels + c]
            );
      // And back again.
      const back = await decodeImage(bytes);
      expect(back.samples.length).toBe(samples.length);
      if (type === 'u16') expect([...back.samples]).toEqual([...samples]);
    }
  });
});
