import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { converter, differenceCiede2000 } from 'culori';
import { zipSync } from 'fflate';
import sharp from 'sharp';
import type { Page } from '@playwright/test';
import { readFits } from '../src/core/files/fits/read';
import { writeFits } from '../src/core/files/fits/write';
import { randomStream } from '../src/core/random';
import { decodedPng, expect, exported, screenOf, settled, test, type Screen } from './bench-page';

const { steps, masks } = JSON.parse(readFileSync('e2e/every-op.json', 'utf8')) as Record<string, object[]>;

const lut = { id: 'lut', op: 'lut', params: { table: 't' }, blend: { opacity: 0.5 } };
/** A table of five nodes a side that bends every channel. */
const bent = [
  'LUT_3D_SIZE 5',
  ...Array.from({ length: 125 }, (_, i) => {
    const [r, g, b] = [i % 5, Math.floor(i / 5) % 5, Math.floor(i / 25)].map((v) => v / 4);
    return [r ** 0.8, g * (1 - 0.2 * r), 0.1 + 0.8 * b].join(' ');
  })
].join('\n');

/** A bundle of the jug, a fifth as wide, with a step of every op there is, and masks of every source. */
async function bundle(): Promise<Uint8Array> {
  const document = {
    kromba: 1,
    kind: 'document',
    name: 'Every step',
    frames: [{ id: 'f', name: 'jug', file: 'jug.png' }],
    pictures: [
      { id: 'p', name: 'Every step', head: { kind: 'frame', frame: 'f' }, steps: [...steps, lut] },
      { id: 'q', name: 'As it came', head: { kind: 'frame', frame: 'f' } }
    ],
    masks,
    tables: [{ id: 't', name: 'Bent', file: 'bent.cube' }]
  };
  return zipSync(
    {
      'bent.cube': new TextEncoder().encode(bent),
      'document.kromba.json': new TextEncoder().encode(JSON.stringify(document)),
      'jug.png': await sharp('demo/samples/jug-under-lamps.png')
        .toColourspace('rgb16')
        .resize(480, 320)
        .png({ compressionLevel: 1 })
        .toBuffer()
    },
    { level: 0 }
  );
}

/** What stands in Out after a key, when it is settled. */
async function screenAfter(page: Page, key: string): Promise<Screen> {
  await page.evaluate(() => performance.clearMeasures());
  await page.keyboard.press(key);
  await settled(page, 200_000);
  return screenOf(page);
}

type Png = ReturnType<typeof decodedPng>;

/** At 1:1 the screen’s 8 bits are the export’s 16, rounded. @returns how many samples were compared @throws where one is not */
function compared(full: Screen, png: Png): number {
  const left = Math.round(full.width / 2 - png.width / 2);
  const top = Math.round(full.height / 2 - png.height / 2);
  let count = 0;
  for (let y = Math.max(0, top); y < Math.min(full.height, top + png.height); y++) {
    for (let x = Math.max(0, left); x < Math.min(full.width, left + png.width); x++) {
      for (let c = 0; c < 3; c++, count++) {
        const sample = png.data[((y - top) * png.width + x - left) * 3 + c];
        const shown = full.data[(y * full.width + x) * 4 + c];
        // The float before rounding lies within half a 16-bit step of the export's sample.
        if (Math.abs(shown - sample / 257) > 0.5 + 0.002)
          throw new Error(`${x}, ${y}: ${shown} for ${sample / 257}`);
      }
    }
  }
  return count;
}

test('with every step in the path, preview at 1:1, export and headless render give the same samples', async ({
  page
}, info) => {
  test.setTimeout(600_000);
  const path = info.outputPath('every.kromba');
  writeFileSync(path, await bundle());
  await page.goto('/');
  await page.getByLabel('Pictures or Kromba documents').setInputFiles(path);
  await page.waitForURL('**/work/**');
  await settled(page, 200_000);
  // It waits for the small pictures of more than twenty steps, each of the path up to it.
  const png = decodedPng(await readFile(await exported(page, undefined, 240_000)));
  const out = info.outputPath('headless.png');
  execFileSync('npm', ['run', '-s', 'render', '--', path, '--picture', 'Every step', '--out', out]);
  const headless = decodedPng(await readFile(out));
  expect([headless.depth, headless.width, headless.height]).toEqual([16, png.width, png.height]);
  expect(Buffer.from(headless.data.buffer).equals(Buffer.from(png.data.buffer))).toBe(true);

  await page.keyboard.press('h');
  await page.getByRole('tab', { name: 'End of path' }).click();
  const full = await screenAfter(page, '1');
  expect(compared(full, png)).toBeGreaterThan(400_000);

  // Shown whole: against the export made as small by sharp.
  const fit = await screenAfter(page, 'f');
  const zoom = Math.min(fit.width / png.width, fit.height / png.height);
  const [width, height] = [Math.round(png.width * zoom), Math.round(png.height * zoom)];
  const eight = Buffer.from(Uint8Array.from(png.data as Uint16Array, (v) => v / 257 + 0.5));
  const small = await sharp(eight, { raw: { width: png.width, height: png.height, channels: 3 } })
    .resize(width, height, { fit: 'fill', kernel: 'lanczos3' })
    .raw()
    .toBuffer();
  const toLab = converter('lab');
  const difference = differenceCiede2000();
  const [x0, y0] = [Math.round((fit.width - width) / 2), Math.round((fit.height - height) / 2)];
  let [sum, count] = [0, 0];
  for (let y = 2; y < height - 2; y += 3) {
    for (let x = 2; x < width - 2; x += 3, count++) {
      const [p, q] = [(y * width + x) * 3, ((y + y0) * fit.width + x + x0) * 4];
      const colour = (data: Buffer, at: number): { mode: 'rgb'; r: number; g: number; b: number } => ({
        mode: 'rgb',
        r: data[at] / 255,
        g: data[at + 1] / 255,
        b: data[at + 2] / 255
      });
      sum += difference(toLab(colour(small, p)), toLab(colour(fit.data, q)));
    }
  }
  info.annotations.push({
    type: 'fit',
    description: `mean ΔE ${(sum / count).toFixed(2)} over ${count} places`
  });
  expect(sum / count).toBeLessThan(1.5);
});

/** Pictures made of others: one composed and one averaged, with results that settle before and after a masked step. */
async function made(encoding: 'coded' | 'linear'): Promise<Uint8Array> {
  const file = (name: string): Promise<Buffer> =>
    sharp(`demo/samples/${name}`)
      .toColourspace('rgb16')
      .resize(360, 288, { fit: 'fill' })
      .png({ compressionLevel: 1 })
      .toBuffer();
  const local = { op: 'local', params: { radius: 70, amount: 120 } };
  const where = { terms: [{ source: { kind: 'channel', channel: 'lum' } }], blur: 4 };
  const group = (steps: object[], id: string): object => ({ id, op: 'group', params: { steps } });
  const steps = [
    { ...local, id: 'a' },
    { id: 'b', op: 'invert', params: {}, where, blend: { opacity: 0.3 } },
    group([group([{ id: 'c', op: 'levels', params: { auto: { clip: 0.5 } } }], 'd')], 'e'),
    { ...local, id: 'f', where },
    // What frames of the sky are made ready by.
    { id: 'g', op: 'lines', params: {} },
    { id: 'h', op: 'sky', params: { model: 'smooth', size: 400, spare: {} }, blend: { opacity: 0.7 } },
    { id: 'i', op: 'match', params: { to: { picture: 's' } } },
    { id: 'j', op: 'match', params: { channel: 'b' }, where },
    { id: 'k', op: 'rein', params: { keepLight: true } },
    { id: 'o', op: 'balance', params: { method: 'sky', white: 'stars' }, blend: { opacity: 0.8 } },
    {
      ...{ id: 'n', op: 'scales', on: { model: 'lab', channels: ['l'] } },
      params: {
        layers: [0.5, 1, 1.5, 2, 1, 1.2].map((gain, i) => ({ gain, threshold: i < 2 ? 1 : 0 })),
        compress: { from: 40, amount: 0.3 }
      }
    },
    { id: 'q', op: 'deconvolve', params: { psf: { fwhm: 2.4 }, iterations: 8, rings: 1 }, where },
    {
      id: 'dn',
      op: 'denoise',
      on: { model: 'lab', channels: ['l', 'a'] },
      params: { strength: { l: 1, a: 2 } }
    },
    {
      ...{ id: 'l', op: 'stretch' },
      where: { terms: [{ ...where.terms[0], stretched: true }], blur: 4 },
      params: { method: 'curve', protect: 0.7, auto: { below: 5, target: 0.4 } }
    }
  ];
  const from = (picture: string, channel: string, weight = 1): object => ({
    from: { picture },
    channel,
    weight
  });
  const joining =
    encoding === 'linear' ? { weighting: 'noise', match: true } : { weighting: 'equal', match: false };
  const document = {
    ...{ kromba: 1, kind: 'document', name: 'Made of others' },
    frames: ['f', 'g'].map((id) => ({ id, name: id, file: `${id}.png`, encoding })),
    pictures: [
      {
        ...{ id: 'p', name: 'Composed', steps },
        head: {
          kind: 'compose',
          r: [from('q', 'rgb.r')],
          g: [from('s', 'rgb.g', 0.7), from('q', 'lum', 0.3)],
          b: [from('s', 'rgb.b')]
        }
      },
      {
        ...{ id: 'm', name: 'Averaged', steps },
        head: { kind: 'average', of: [{ picture: 'q' }, { picture: 's' }], ...joining }
      },
      { id: 'q', name: 'One', head: { kind: 'frame', frame: 'f' } },
      { id: 's', name: 'Other', head: { kind: 'frame', frame: 'g' }, steps: [{ ...local, id: 'z' }] }
    ]
  };
  return zipSync(
    {
      'document.kromba.json': new TextEncoder().encode(JSON.stringify(document)),
      'f.png': await file('jug-under-lamps.png'),
      'g.png': await file('harbour-in-haze.jpg')
    },
    { level: 0 }
  );
}

for (const encoding of ['coded', 'linear'] as const) {
  test(`pictures made of others that are ${encoding}: preview at 1:1, export and headless render agree`, async ({
    page
  }, info) => {
    test.setTimeout(600_000);
    const path = info.outputPath('made.kromba');
    writeFileSync(path, await made(encoding));
    await page.goto('/');
    await page.getByLabel('Pictures or Kromba documents').setInputFiles(path);
    await page.waitForURL('**/work/**');
    await settled(page, 150_000);
    await page.keyboard.press('h');
    await page.getByRole('tab', { name: 'End of path' }).click();
    for (const name of ['Composed', 'Averaged']) {
      await page.getByRole('group', { name: 'Pictures' }).getByRole('button', { name, exact: true }).click();
      await settled(page, 150_000);
      const png = decodedPng(await readFile(await exported(page, undefined, 150_000)));
      const out = info.outputPath(`${name}.png`);
      execFileSync('npm', ['run', '-s', 'render', '--', path, '--picture', name, '--out', out]);
      const headless = decodedPng(await readFile(out));
      expect([headless.depth, headless.width, headless.height]).toEqual([16, 360, 288]);
      expect(Buffer.from(headless.data.buffer).equals(Buffer.from(png.data.buffer))).toBe(true);
      expect(compared(await screenAfter(page, '1'), png)).toBeGreaterThan(300_000);
      await screenAfter(page, 'f');
    }
  });
}

/** Where the second frame lies on the first: turned by this many degrees about the middle, and moved. */
const APART = { turn: -2.5, x: 7.3, y: -4.6 };
const SKY = { width: 480, height: 320 };

/** Two dark frames of the same stars that lie apart, as FITS, and pictures made of both. */
function frames(): Uint8Array {
  const random = randomStream(41);
  const stars = Array.from({ length: 70 }, () => ({
    x: 20 + (SKY.width - 40) * random(),
    y: 20 + (SKY.height - 40) * random(),
    light: 2500 / (0.1 + random())
  }));
  const [sin, cos] = [Math.sin, Math.cos].map((f) => f((APART.turn * Math.PI) / 180));
  const [cx, cy] = [SKY.width / 2, SKY.height / 2];
  const frame = (apart: boolean): Uint8Array => {
    const samples = new Uint16Array(SKY.width * SKY.height).map(
      () => 700 + 25 * (random() + random() + random() + random() - 2)
    );
    for (const { x, y, light } of stars) {
      // What lies at a place of this frame lies moved and turned on the other: here the other way round.
      const [dx, dy] = [x - cx - APART.x, y - cy - APART.y];
      const [px, py] = apart ? [cx + cos * dx + sin * dy, cy - sin * dx + cos * dy] : [x, y];
      for (let j = Math.floor(py) - 6; j <= py + 6; j++)
        for (let i = Math.floor(px) - 6; i <= px + 6; i++) {
          if (i < 0 || j < 0 || i >= SKY.width || j >= SKY.height) continue;
          const r2 = (i + 0.5 - px) ** 2 + (j + 0.5 - py) ** 2;
          const at = j * SKY.width + i;
          samples[at] = Math.min(65535, samples[at] + light * Math.exp(-r2 / 3.2));
        }
    }
    return writeFits({ ...SKY, alpha: false, grey: true, encoding: 'linear', samples });
  };
  const from = (picture: string): object => ({ from: { picture }, channel: 'lum', weight: 1 });
  const stretch = { id: 'z', op: 'stretch', params: { auto: {} } };
  const document = {
    ...{ kromba: 1, kind: 'document', name: 'Apart' },
    frames: ['f', 'g'].map((id) => ({ id, name: id, file: `${id}.fits`, encoding: 'linear' })),
    pictures: [
      { id: 'q', name: 'One', head: { kind: 'frame', frame: 'f' } },
      {
        ...{ id: 's', name: 'Other', head: { kind: 'frame', frame: 'g' } },
        steps: [
          { id: 'r', op: 'register', params: { to: { picture: 'q' } } },
          { id: 'y', op: 'sky', params: { degree: 1 } }
        ]
      },
      {
        ...{ id: 'p', name: 'Composed', steps: [stretch] },
        head: { kind: 'compose', r: [from('q')], g: [from('s')], b: [from('q')] }
      },
      {
        // Stars are told after the stretch, which is undone for it.
        ...{ id: 'w', name: 'Starless', head: { kind: 'frame', frame: 'f' } },
        steps: [
          { id: 'a', op: 'stretch', params: { method: 'asinh', strength: 300 } },
          { id: 't', op: 'stars', params: { threshold: 6, largest: 20 } }
        ]
      },
      {
        ...{ id: 'm', name: 'Averaged', steps: [] },
        head: {
          ...{ kind: 'average', of: [{ picture: 'q' }, { picture: 's' }] },
          ...{ weighting: 'noise', match: true }
        }
      }
    ]
  };
  const text = new TextEncoder().encode(JSON.stringify(document));
  return zipSync(
    { 'document.kromba.json': text, 'f.fits': frame(false), 'g.fits': frame(true) },
    { level: 0 }
  );
}

test('frames that lie apart are brought onto each other alike in preview, export, FITS and headless render', async ({
  page
}, info) => {
  test.setTimeout(600_000);
  const path = info.outputPath('apart.kromba');
  writeFileSync(path, frames());
  await page.goto('/');
  await page.getByLabel('Pictures or Kromba documents').setInputFiles(path);
  await page.waitForURL('**/work/**');
  await settled(page, 150_000);
  await page.keyboard.press('h');
  const show = async (name: string): Promise<void> => {
    await page.getByRole('group', { name: 'Pictures' }).getByRole('button', { name, exact: true }).click();
    await page.getByRole('tab', { name: 'End of path' }).click();
    await settled(page, 150_000);
  };
  const headless = (picture: string, out: string): Promise<Buffer> => {
    execFileSync('npm', ['run', '-s', 'render', '--', path, '--picture', picture, '--out', out]);
    return readFile(out);
  };
  const agreed = async (name: string): Promise<ReturnType<typeof decodedPng>> => {
    await show(name);
    const png = decodedPng(await readFile(await exported(page, undefined, 150_000)));
    const theirs = decodedPng(await headless(name, info.outputPath(`${name}.png`)));
    expect(Buffer.from(theirs.data.buffer).equals(Buffer.from(png.data.buffer))).toBe(true);
    expect(compared(await screenAfter(page, '1'), png)).toBeGreaterThan(450_000);
    await screenAfter(page, 'f');
    return png;
  };
  const starless = await agreed('Starless');
  expect(starless.data.filter((v) => v > 40_000)).toHaveLength(0);
  const png = await agreed('Composed');
  // Where they lie on each other stars are white: green, which is of the other frame, is as bright as red and blue.
  const at = (x: number, y: number, c: number): number => png.data[(y * SKY.width + x) * 3 + c];
  let [white, off] = [0, 0];
  for (let y = 60; y < SKY.height - 60; y++)
    for (let x = 60; x < SKY.width - 60; x++) {
      if (at(x, y, 0) < 50_000) continue;
      white++;
      if (at(x, y, 1) < 40_000) off++;
    }
  expect(white).toBeGreaterThan(300);
  expect(off / white).toBeLessThan(0.02);

  for (const name of ['Averaged', 'Other']) {
    await show(name);
    const asFits = await exported(
      page,
      async () => {
        await page.getByLabel('Format').selectOption({ label: 'FITS' });
        await page.getByLabel('Depth').selectOption({ label: '32-bit float' });
      },
      150_000
    );
    const own = await readFits(new Uint8Array(readFileSync(asFits)));
    const other = await readFits(new Uint8Array(await headless(name, info.outputPath(`${name}.fits`))));
    expect([own.width, own.height, own.layout]).toEqual([SKY.width, SKY.height, 'grey']);
    expect(other.fits!.cards).toEqual(own.fits!.cards);
    expect(Buffer.from(other.samples.buffer).equals(Buffer.from(own.samples.buffer))).toBe(true);
    // The corners that the other frame does not reach are missing in it, and in the average those of the first alone.
    expect(Number.isNaN(own.samples[0])).toBe(name === 'Other');
    await settled(page, 150_000);
  }
});
