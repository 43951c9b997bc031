import { readFile } from 'node:fs/promises';
import {
  expect,
  test as base,
  type BrowserContext,
  type ConsoleMessage,
  type Page,
  type Request
} from '@playwright/test';
import { converter, differenceCiede2000 } from 'culori';
import { decode } from 'fast-png';
import sharp from 'sharp';

const toLab = converter('lab');
const difference = differenceCiede2000();

/** Every test also makes sure that the console stays empty of errors and no request leaves the page's origin. */
export const test = base.extend<{ watched: void; expectsErrors: boolean }>({
  /** The test breaks something on purpose, of which the browser writes into the console. */
  expectsErrors: [false, { option: true }],
  watched: [
    async ({ page, baseURL, expectsErrors }, use) => {
      const errors: string[] = [];
      const strangers: string[] = [];
      const onConsole = (message: ConsoleMessage): void => {
        if (message.type() === 'error') errors.push(message.text());
      };
      const onError = (error: Error): void => void errors.push(error.message);
      const onRequest = (request: Request): void => {
        const url = request.url();
        if (!url.startsWith(baseURL!) && !/^(blob|data):/.test(url)) strangers.push(url);
      };
      page.on('console', onConsole).on('pageerror', onError).on('request', onRequest);
      await use();
      page.off('console', onConsole).off('pageerror', onError).off('request', onRequest);
      if (!expectsErrors) expect(errors).toEqual([]);
      expect(strangers).toEqual([]);
    },
    { auto: true }
  ]
});
export { expect };

const visits = new WeakSet<Page>();

/**
 * Tests that follow each other in one visit, as in a long day's work, each on documents of its own: the page and its workers are there.
 * How the screen is laid out is as on a first visit; the documents of before stay.
 */
export const visiting = test.extend<object, { visit: Page }>({
  visit: [
    async ({ browser }, use, { project }) => {
      const { baseURL, viewport, actionTimeout, navigationTimeout } = project.use;
      const context = await browser.newContext({ baseURL, viewport });
      context.setDefaultTimeout(actionTimeout!);
      context.setDefaultNavigationTimeout(navigationTimeout!);
      const page = await context.newPage();
      visits.add(page);
      await use(page);
      await context.close();
    },
    { scope: 'worker' }
  ],
  context: ({ visit }, use) => use(visit.context()),
  page: async ({ visit }, use) => {
    if (visit.url() !== BLANK) await visit.evaluate(() => localStorage.clear());
    await use(visit);
  }
});
const BLANK = 'about:blank';

/** By the link, as within a visit; else as one comes from elsewhere. */
async function goHome(page: Page): Promise<void> {
  if (!visits.has(page) || page.url() === BLANK) return void (await page.goto('/'));
  if (new URL(page.url()).pathname !== '/') {
    // What the test before ended with may be open still.
    if (await page.getByRole('dialog').count()) await page.keyboard.press('Escape');
    await page.getByRole('link', { name: 'Kromba' }).click();
    await page.waitForURL((url) => url.pathname === '/');
  }
  await page.evaluate(() => performance.clearMeasures());
}

/** Waits until the picture in Out stands and everything is saved. */
export async function settled(page: Page, timeout = 90_000): Promise<void> {
  await expect(page.locator('footer [data-save]')).toHaveText('saved', { timeout });
  await page.waitForFunction(() => performance.getEntriesByName('kromba:settled').length > 0, null, {
    polling: 40,
    timeout
  });
  // What is asked for now may have been begun after the last mark.
  await expect(page.getByLabel('The picture', { exact: true }).first()).toHaveAttribute(
    'aria-busy',
    'false',
    {
      timeout
    }
  );
  await page.evaluate(
    () => new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve)))
  );
}

export interface Screen {
  readonly width: number;
  readonly height: number;
  /** RGBA. */
  readonly data: Buffer;
}

/** What stands in Out. */
export async function screenOf(page: Page): Promise<Screen> {
  const found = await page
    .getByLabel('The picture', { exact: true })
    .evaluate((canvas: HTMLCanvasElement) => {
      const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
      let text = '';
      for (let i = 0; i < data.length; i += 8192) text += String.fromCharCode(...data.subarray(i, i + 8192));
      return { width: canvas.width, height: canvas.height, base64: btoa(text) };
    });
  return { ...found, data: Buffer.from(found.base64, 'base64') };
}

/** Begins a job on a picture whose path is empty. */
export async function begin(page: Page, job: string): Promise<void> {
  await page.getByRole('list', { name: 'Ways to begin' }).getByRole('button', { name: job }).click();
  await settled(page);
}

/** Opens a sample from the page Documents, and begins a job where one is named: most with a mix. */
export async function openSample(page: Page, title: string, job = 'A look'): Promise<void> {
  await goHome(page);
  const samples = page.getByRole('region', { name: 'Samples' }).getByRole('button');
  await samples.filter({ has: page.getByText(title, { exact: true }) }).click();
  await page.waitForURL('**/work/**');
  await settled(page);
  if (job) await begin(page, job);
}

/** Opens a sample made smaller, as a PNG: for what hangs neither on its size nor on its being a sample. */
export async function openSmall(page: Page, file: string, width = 800): Promise<void> {
  const buffer = await sharp(`demo/samples/${file}`).resize(width).png({ compressionLevel: 1 }).toBuffer();
  const name = file.replace(/\.\w+$/, '.png');
  await page.goto('/');
  await page
    .getByLabel('Pictures or Kromba documents')
    .setInputFiles({ name, mimeType: 'image/png', buffer });
  await page.waitForURL('**/work/**');
  await settled(page);
}

/** Where a full-size pixel of a picture of `width`×`height` that is shown whole stands on the screen. */
export async function onScreen(
  page: Page,
  x: number,
  y: number,
  width = 2400,
  height = 1600
): Promise<{ x: number; y: number }> {
  const box = (await page.getByLabel('The picture', { exact: true }).boundingBox())!;
  const zoom = Math.min(box.width / width, box.height / height);
  return {
    x: box.x + box.width / 2 + (x + 0.5 - width / 2) * zoom,
    y: box.y + box.height / 2 + (y + 0.5 - height / 2) * zoom
  };
}

/** The status line's readings on one side, as numbers by channel; waits until they are there. */
export async function reading(page: Page, side: 'in' | 'out'): Promise<Record<string, number>> {
  const values = page.locator(`footer [data-side="${side}"] [data-channel]`);
  await expect(values.first()).toHaveText(/\d/);
  const pairs = await values.evaluateAll((all) =>
    all.map((e) => [(e as HTMLElement).dataset['channel'], e.textContent])
  );
  return Object.fromEntries(pairs.map(([id, text]) => [id, Number(text!.replace('−', '-'))]));
}

/** Types a weight into the mix, in %. */
export async function setWeight(page: Page, name: string, value: number): Promise<void> {
  const field = page.getByRole('textbox', { name: `${name} in percent`, exact: true });
  await field.fill(String(value));
  await field.press('Enter');
}

/** Exports through the panel and gives the file's path. */
export async function exported(page: Page, choose?: () => Promise<void>, timeout = 90_000): Promise<string> {
  await page.getByRole('banner').getByRole('button', { name: 'Export' }).click();
  const dialog = page.getByRole('dialog', { name: 'Export the picture' });
  await expect(dialog.getByLabel('Name')).toBeVisible();
  await choose?.();
  const download = page.waitForEvent('download', { timeout });
  await dialog.getByRole('button', { name: 'Export' }).click();
  return (await download).path();
}

/** Adds a step by searching for it. */
export async function addStep(page: Page, title: string): Promise<void> {
  await page.getByRole('button', { name: 'Add a step' }).click();
  await page.getByLabel('Search the steps').fill(title);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('region', { name: /^Work/ }).locator('header .name')).toHaveText(title);
}

/** Types a number into a field of the step's panel. */
export async function setAmount(page: Page, name: string, value: number): Promise<void> {
  const field = page.getByRole('textbox', { name, exact: true });
  await field.fill(String(value));
  await field.press('Enter');
}

/** Opens one of the parts under the panel: On, Blend or Limits. */
export async function openPart(page: Page, title: 'On' | 'Blend' | 'Limits' | 'Where'): Promise<void> {
  const button = page
    .getByRole('toolbar', { name: 'Parts of the step' })
    .getByRole('button', { name: new RegExp(`^${title}`) });
  if ((await button.getAttribute('aria-expanded')) !== 'true') await button.click();
}

/** Sets the step's On: a model, and which of its channels stay. */
export async function setOn(page: Page, model: string, channels: readonly string[]): Promise<void> {
  await openPart(page, 'On');
  const part = page.getByRole('region', { name: 'On' });
  await part.getByLabel('Model').selectOption({ label: model });
  const buttons = part.getByRole('group', { name: 'Channels' }).getByRole('button');
  for (const on of [true, false]) {
    for (const button of await buttons.all()) {
      const wanted = channels.includes((await button.getAttribute('aria-label')) ?? '');
      if (wanted === on && (await button.getAttribute('aria-pressed')) !== String(on)) await button.click();
    }
  }
}

/** Drops a pin at a full-size pixel by key, and gives it a role. */
export async function dropPin(
  page: Page,
  x: number,
  y: number,
  role: string,
  size?: { readonly width: number; readonly height: number }
): Promise<void> {
  const spot = await onScreen(page, x, y, size?.width, size?.height);
  await page.mouse.move(spot.x, spot.y);
  await expect(page.locator('footer .place')).toBeVisible();
  const roles = page.getByRole('combobox', { name: /^Role of/ });
  const count = await roles.count();
  await page.keyboard.press('p');
  await expect(roles).toHaveCount(count + 1);
  await roles.last().selectOption(role);
}

export type Rgb = readonly [number, number, number];

/** The pixels of an exported picture, coded RGB 0…1. */
export interface Pixels {
  readonly width: number;
  readonly height: number;
  at(x: number, y: number): Rgb;
  /** The mean over the square from −half to half about a pixel. */
  mean(x: number, y: number, half?: number): Rgb;
  /** One channel of a pixel, for long loops. */
  value(x: number, y: number, channel: number): number;
}

/** Pixels over interleaved samples of `channels` a pixel. */
export function pixelsOf(
  data: ArrayLike<number>,
  width: number,
  height: number,
  channels: number,
  most: number
): Pixels {
  const value = (x: number, y: number, c: number): number =>
    data[(y * width + x) * channels + Math.min(c, channels - 1)] / most;
  return {
    width,
    height,
    value,
    at: (x, y) => [value(x, y, 0), value(x, y, 1), value(x, y, 2)],
    mean(x, y, half = 6) {
      const sum = [0, 0, 0];
      for (let v = y - half; v <= y + half; v++)
        for (let u = x - half; u <= x + half; u++) for (let c = 0; c < 3; c++) sum[c] += value(u, v, c);
      return sum.map((s) => s / (2 * half + 1) ** 2) as unknown as Rgb;
    }
  };
}

/** Exports the picture as a TIFF through the panel and reads it, one strip of samples as baseline TIFF has it. */
export async function exportedPixels(
  page: Page,
  depth: '16 bit' | '32-bit float' = '16 bit',
  choose?: () => Promise<void>
): Promise<Pixels> {
  const path = await exported(page, async () => {
    await page.getByLabel('Format').selectOption({ label: 'TIFF' });
    await page.getByLabel('Depth').selectOption({ label: depth });
    // It says the same, and is there sooner.
    if (depth === '16 bit') await page.getByLabel('Compression').selectOption('none');
    await choose?.();
  });
  const file = await readFile(path);
  if (depth === '16 bit') {
    const given = sharp(file, { ignoreIcc: true, limitInputPixels: false });
    const space = (await given.metadata()).channels === 1 ? 'grey16' : 'rgb16';
    const { data, info } = await given
      .pipelineColourspace(space)
      .toColourspace(space)
      .raw({ depth: 'ushort' })
      .toBuffer({ resolveWithObject: true });
    const samples = new Uint16Array(data.buffer, data.byteOffset, data.length / 2);
    return pixelsOf(samples, info.width, info.height, info.channels, 65535);
  }
  // Floats lie in it as they are.
  const directory = file.readUInt32LE(4);
  const tags = new Map(
    Array.from({ length: file.readUInt16LE(directory) }, (_, i) => {
      const at = directory + 2 + 12 * i;
      const long = file.readUInt16LE(at + 2) === 4;
      return [file.readUInt16LE(at), long ? file.readUInt32LE(at + 8) : file.readUInt16LE(at + 8)];
    })
  );
  const [width, height, channels, strip] = [256, 257, 277, 273].map((tag) => tags.get(tag)!);
  const { buffer } = new Uint8Array(file.subarray(strip, strip + 4 * width * height * channels));
  const floats = new Float32Array(buffer);
  expect(floats).toHaveLength(width * height * channels);
  return pixelsOf(floats, width, height, channels, 1);
}

/** A PNG as fast-png reads it, in three channels: greys, that are written as one, three times. */
export function decodedPng(file: Uint8Array): ReturnType<typeof decode> {
  const png = decode(file);
  if (png.channels !== 1) return png;
  const data = new (png.data.constructor as Uint16ArrayConstructor)(png.data.length * 3);
  png.data.forEach((value: number, i: number) => data.fill(value, 3 * i, 3 * i + 3));
  return { ...png, channels: 3, data };
}

/** One channel at every n-th pixel. */
export function channelOf(pixels: Pixels, value: (rgb: Rgb) => number, every = 7): number[] {
  const out: number[] = [];
  for (let y = 0; y < pixels.height; y += every)
    for (let x = 0; x < pixels.width; x += every) out.push(value(pixels.at(x, y)));
  return out;
}

/** A colour's distance from the grey of the same lightness, ΔE 2000, by culori. */
export function fromNeutral([r, g, b]: Rgb): number {
  const lab = toLab({ mode: 'rgb', r, g, b });
  return difference(lab, { ...lab, a: 0, b: 0 });
}

/** Adds a term to the mask that is open. */
export async function addTerm(page: Page, title: string): Promise<void> {
  await page.getByLabel('Add a term').selectOption({ label: title });
}

/** Drags over the picture from one full-size pixel to others, as a brush does. */
export async function dragOver(page: Page, places: readonly (readonly [number, number])[]): Promise<void> {
  const [first, ...rest] = await Promise.all(places.map(([x, y]) => onScreen(page, x, y)));
  await page.mouse.move(first.x, first.y);
  await page.mouse.down();
  for (const { x, y } of rest) await page.mouse.move(x, y, { steps: 6 });
  await page.mouse.up();
}

/** Sets a slider of a panel to a value by its field, in %. */
export const setPercent = (page: Page, name: string, value: number): Promise<void> =>
  setAmount(page, `${name} in percent`, value);

export const median = (values: readonly number[]): number =>
  [...values].sort((a, b) => a - b)[values.length >> 1];
export const mean = (values: readonly number[]): number =>
  values.reduce((sum, v) => sum + v, 0) / values.length;
export const deviation = (values: readonly number[]): number => {
  const m = mean(values);
  return Math.sqrt(mean(values.map((v) => (v - m) ** 2)));
};

export interface GivenFile {
  readonly name: string;
  readonly mimeType: string;
  readonly buffer: Buffer;
}

/** A PNG of one colour. */
export const plainPng = (background = '#a63', width = 60, height = 40): Promise<Buffer> =>
  sharp({ create: { width, height, channels: 3, background } })
    .png()
    .toBuffer();

/** The same as a file, under its name without the ending. */
export const plainFile = async (name: string, background?: string): Promise<GivenFile> => ({
  ...{ name: `${name}.png`, mimeType: 'image/png' },
  buffer: await plainPng(background)
});

/** Opens a picture of one colour from the page Documents. */
export async function openPlain(page: Page, name: string): Promise<void> {
  await page.goto('/');
  await page.getByLabel('Pictures or Kromba documents').setInputFiles(await plainFile(name));
  await page.waitForURL('**/work/**');
  await settled(page);
}

/** From the next visit on storage is full, in all tabs, while `fillStorage` says so. */
export async function storageMayBeFull(context: BrowserContext): Promise<void> {
  await context.addInitScript(() => {
    const { put } = IDBObjectStore.prototype;
    IDBObjectStore.prototype.put = function (...given) {
      if (localStorage.getItem('full')) throw new DOMException('full', 'QuotaExceededError');
      return put.apply(this, given);
    };
  });
}

export const fillStorage = (page: Page, full: boolean): Promise<void> =>
  page.evaluate((on) => (on ? localStorage.setItem('full', '1') : localStorage.removeItem('full')), full);

/** Gives files to a page as a person drops or pastes them. */
export const give = (
  page: Page,
  type: 'drop' | 'paste',
  files: readonly GivenFile[],
  on = page.locator('body')
): Promise<void> =>
  on.evaluate(
    (element, { type, given }) => {
      const files = new DataTransfer();
      for (const { name, mimeType, bytes } of given)
        files.items.add(new File([new Uint8Array(bytes)], name, { type: mimeType }));
      const event =
        type === 'drop'
          ? new DragEvent('drop', { dataTransfer: files, bubbles: true, cancelable: true })
          : new ClipboardEvent('paste', { clipboardData: files, bubbles: true });
      element.dispatchEvent(event);
    },
    { type, given: files.map(({ buffer, ...file }) => ({ ...file, bytes: [...buffer] })) }
  );
