import { readFile } from 'node:fs/promises';
import sharp from 'sharp';
import type { Locator } from '@playwright/test';
import { spaceOf } from '../src/core/colour/output';
import { spaceProfile } from '../src/core/files/srgb-profile';
import { tiffCompression } from '../src/core/testing';
import {
  addStep,
  expect,
  exported,
  onScreen,
  openSample,
  reading,
  setAmount,
  setWeight,
  settled,
  visiting as test
} from './bench-page';
import { asFits } from './deep-sky';

test('the picture is zoomed about the pointer, panned, and shown whole again', async ({ page }) => {
  await openSample(page, 'Quench tank');
  const spot = await onScreen(page, 700, 500);
  await page.mouse.move(spot.x, spot.y);
  const place = page.locator('footer .place');
  const before = await place.innerText();
  for (let i = 0; i < 4; i++) await page.mouse.wheel(0, -200);
  await page.mouse.move(spot.x + 1, spot.y);
  await page.mouse.move(spot.x, spot.y);
  const [x, y] = before.split(', ').map(Number);
  const [zx, zy] = (await place.innerText()).split(', ').map(Number);
  expect(Math.abs(zx - x)).toBeLessThanOrEqual(4);
  expect(Math.abs(zy - y)).toBeLessThanOrEqual(4);
  await page.keyboard.press('1');
  await expect(page.locator('.zoom')).toHaveText('100 %');
  await page.mouse.move(spot.x + 2, spot.y);
  const [ax] = (await place.innerText()).split(', ').map(Number);
  await page.mouse.down();
  await page.mouse.move(spot.x + 102, spot.y, { steps: 5 });
  await page.mouse.up();
  await page.mouse.move(spot.x + 2, spot.y);
  const [bx] = (await place.innerText()).split(', ').map(Number);
  expect(ax - bx).toBe(100);
  await page.keyboard.press('+');
  await expect(page.locator('.zoom')).toHaveText('200 %');
  await page.keyboard.press('f');
  await expect(page.getByRole('button', { name: 'Fit' })).toHaveAttribute('aria-pressed', 'true');
});

test('the mix keeps totals, scales to 100 %, resets a row, and keeps each model’s numbers', async ({
  page
}) => {
  await openSample(page, 'Drying yard');
  const field = (name: string): ReturnType<typeof page.getByRole> =>
    page.getByRole('textbox', { name: `${name} in percent`, exact: true });
  await setWeight(page, 'green gets blue', 40);
  await expect(page.getByRole('region', { name: 'green gets' })).toContainText('total 140 %');
  await expect(page.getByRole('region', { name: 'green gets' })).toContainText(
    'Where the picture is blue, green is added.'
  );
  await page.getByRole('button', { name: 'Reset green' }).click();
  await expect(page.getByRole('region', { name: 'green gets' })).toContainText('total 100 %');

  await page.locator('label').filter({ hasText: 'Keep totals' }).first().click();
  await setWeight(page, 'green gets blue', 40);
  await expect(field('green gets red')).toHaveValue('−20');
  await expect(field('green gets green')).toHaveValue('80');
  await field('green gets blue').press('Shift+ArrowUp');
  await expect(field('green gets blue')).toHaveValue('50');
  // Another weight of the row goes on from what stands there now.
  await field('green gets red').press('ArrowUp');
  await expect(field('green gets red')).toHaveValue('−24');
  await expect(field('green gets blue')).toHaveValue('49.5');
  await page.keyboard.press('Control+z');
  await expect(field('green gets blue')).toHaveValue('50');

  await page.getByRole('tab', { name: 'LAB' }).click();
  await setWeight(page, 'blue to yellow gets lightness', -15);
  await expect(page.getByRole('region', { name: 'blue to yellow gets' })).toContainText('total 100 %');
  await expect(field('blue to yellow gets blue to yellow')).toHaveValue('107.5');
  await page.getByRole('tab', { name: 'CMYK' }).click();
  await setWeight(page, 'magenta gets yellow', 30);
  await page.getByRole('tab', { name: 'RGB' }).click();
  await expect(field('green gets blue')).toHaveValue('50');
  await page.getByRole('tab', { name: 'CMYK' }).click();
  await expect(field('magenta gets yellow')).toHaveValue('30');

  await field('magenta gets yellow').fill('a lot');
  await field('magenta gets yellow').press('Enter');
  await expect(field('magenta gets yellow')).toHaveAttribute('aria-invalid', 'true');
  await field('magenta gets yellow').press('Escape');
  await expect(field('magenta gets yellow')).toHaveValue('30');
});

test('red and blue are swapped with one click, and In shows one channel large', async ({ page }) => {
  await openSample(page, 'Drying yard');
  await page.getByRole('button', { name: 'Swap red and blue' }).click();
  const spot = await onScreen(page, 1200, 200);
  await page.mouse.move(spot.x, spot.y);
  await settled(page);
  const [before, after] = [await reading(page, 'in'), await reading(page, 'out')];
  expect([after['rgb.r'], after['rgb.g'], after['rgb.b']]).toEqual([
    before['rgb.b'],
    before['rgb.g'],
    before['rgb.r']
  ]);
  await page.getByRole('button', { name: /RGB blue/ }).dblclick();
  await expect(page.getByRole('tab', { name: 'One' })).toHaveAttribute('aria-selected', 'true');
  const blue = page.getByRole('radio', { name: 'RGB blue' });
  await expect(blue).toBeChecked();
  await expect(page.getByLabel('Channel blue')).toBeVisible();
  await blue.focus();
  await page.keyboard.press('ArrowRight');
  await expect(page.getByRole('radio', { name: 'LAB lightness' })).toBeFocused();
  await expect(page.getByLabel('Channel lightness')).toBeVisible();
  await page.getByRole('radio', { name: 'CMYK black' }).click();
  await expect(page.getByLabel('Channel black')).toBeVisible();
});

test('panes fold by key and by drag, and stay as they were left', async ({ page }) => {
  await openSample(page, 'Quench tank');
  await page.keyboard.press('w');
  await expect(page.getByRole('region', { name: /^Work/ })).toBeHidden();
  await page.reload();
  await settled(page);
  await expect(page.getByRole('region', { name: /^Work/ })).toBeHidden();
  await page.keyboard.press('w');
  await expect(page.getByRole('region', { name: /^Work/ })).toBeVisible();
  const inside = page.getByRole('region', { name: /^In:/ });
  const width = (await inside.boundingBox())!.width;
  const splitter = (await page.getByRole('separator', { name: 'Width of In' }).boundingBox())!;
  await page.mouse.move(splitter.x + 2, 400);
  await page.mouse.down();
  await page.mouse.move(splitter.x + 122, 400, { steps: 6 });
  await page.mouse.up();
  expect((await inside.boundingBox())!.width).toBeGreaterThan(width + 60);
});

test('a worker that is killed is replaced and the picture still answers', async ({ page }) => {
  await openSample(page, 'Quench tank');
  const workers = page.workers();
  expect(workers.length).toBeGreaterThan(0);
  await Promise.all(workers.map((worker) => worker.evaluate(() => self.close()).catch(() => undefined)));
  await setWeight(page, 'red gets green', 80);
  const spot = await onScreen(page, 1200, 800);
  await page.mouse.move(spot.x, spot.y);
  await settled(page);
  await expect(page.locator('footer [data-side="out"]')).toBeVisible({ timeout: 60_000 });
  const [before, after] = [await reading(page, 'in'), await reading(page, 'out')];
  expect(after['rgb.r']).toBeCloseTo(before['rgb.r'] + 0.8 * before['rgb.g'], 0);
});

test('an export is cancelled and another is made', async ({ page }) => {
  await openSample(page, 'Jug under lamps');
  await page.keyboard.press('e');
  const dialog = page.getByRole('dialog', { name: 'Export the picture' });
  await dialog.getByRole('button', { name: 'Export' }).click();
  await expect(dialog.getByText(/Computing the picture|Writing the file/)).toBeVisible();
  await dialog.getByRole('button', { name: 'Cancel' }).click();
  await expect(dialog.getByText(/Computing the picture|Writing the file/)).toBeHidden();
  await dialog.getByLabel('Name').fill('bad/name');
  await expect(dialog.getByText('Give a name without')).toBeVisible();
  await expect(dialog.getByRole('button', { name: 'Export' })).toBeDisabled();
  await dialog.getByLabel('Name').fill('small jug');
  await dialog.getByLabel('Format').selectOption('jpeg');
  await dialog.getByLabel('Size').selectOption('1024');
  await expect(dialog).toContainText('1024 × 683 pixels');
  const download = page.waitForEvent('download');
  await dialog.getByRole('button', { name: 'Export' }).click();
  expect((await download).suggestedFilename()).toBe('small jug.jpg');
});

test('an export is chosen and made by keyboard alone', async ({ page }) => {
  await openSample(page, 'Jug under lamps');
  await page.keyboard.press('e');
  const dialog = page.getByRole('dialog', { name: 'Export the picture' });
  await expect(dialog.getByLabel('Name')).toBeFocused();
  await page.keyboard.press('Control+a');
  await page.keyboard.type('by keys');
  /** Goes on until it is there, and types into it. */
  const into = async (place: Locator, typed = ''): Promise<void> => {
    for (let i = 0; i < 12; i++) {
      await page.keyboard.press('Tab');
      if (await place.evaluate((element) => element === document.activeElement)) break;
    }
    await expect(place).toBeFocused();
    await page.keyboard.type(typed);
  };
  await into(dialog.getByLabel('Format'), 'JPEG');
  await into(dialog.getByLabel('Size'), 'At most 1024');
  await into(dialog.getByLabel('Quality'));
  await page.keyboard.press('Control+a');
  await page.keyboard.type('85');
  await into(dialog.getByLabel('Colour space'), 'Display');
  await into(dialog.getByRole('button', { name: 'Export' }));
  const download = page.waitForEvent('download');
  await page.keyboard.press('Enter');
  expect((await download).suggestedFilename()).toBe('by keys.jpg');
  const { width, format, icc } = await sharp(await (await download).path()).metadata();
  expect([format, width]).toEqual(['jpeg', 1024]);
  expect(Buffer.from(spaceProfile(spaceOf('display-p3'))).equals(icc!)).toBe(true);
  await expect(dialog).toBeHidden();
});

test('a dialog gives the focus back as it closes, and takes no key from what comes next', async ({
  page
}) => {
  await openSample(page, 'Jug under lamps');
  const button = page.getByRole('banner').getByRole('button', { name: 'Export' });
  const name = page.getByRole('dialog', { name: 'Export the picture' }).getByLabel('Name');
  // The first time it is made, the second time it is there.
  for (const wanted of ['Invert', 'Blur']) {
    await button.press('Enter');
    await expect(name).toBeFocused();
    await page.keyboard.press('Escape');
    await expect(button).toBeFocused();
    await page.keyboard.press('Enter');
    await expect(name).toBeFocused();
    await page.keyboard.press('Escape');
    await page.keyboard.press('a');
    const search = page.getByLabel('Search the steps');
    await expect(search).toBeFocused();
    await page.keyboard.type(wanted);
    // Whatever moves as a dialog goes has come to its end.
    await expect.poll(() => page.evaluate(() => document.getAnimations().length)).toBe(0);
    await expect(search).toBeFocused();
    await page.keyboard.press('Enter');
    await expect(page.getByRole('region', { name: /^Work/ }).locator('header .name')).toHaveText(wanted);
  }
});

test('an export is written in another format and colour space, as other programs read it', async ({
  page
}) => {
  await openSample(page, 'Jug under lamps');
  await page.keyboard.press('e');
  const dialog = page.getByRole('dialog', { name: 'Export the picture' });
  await dialog.getByLabel('Colour space').selectOption('prophoto');
  await dialog.getByLabel('Format').selectOption('avif');
  // What a format can't say is not offered, and not kept.
  await expect(dialog.getByLabel('Colour space').locator('option')).toHaveText(['sRGB', 'Display P3']);
  await expect(dialog.getByLabel('Colour space')).toHaveValue('srgb');
  await dialog.getByLabel('Depth').selectOption('12 bit');
  await expect(dialog.getByLabel('Dither')).toBeHidden();
  await dialog.getByLabel('Format').selectOption('webp');
  await dialog.getByLabel('Quality').fill('100');
  await dialog.getByLabel('Colour space').selectOption('display-p3');
  await dialog.getByLabel('Size').selectOption('1024');
  await expect(dialog.getByLabel('Dither')).toBeChecked();
  const download = page.waitForEvent('download');
  await dialog.getByRole('button', { name: 'Export' }).click();
  const file = await download;
  expect(file.suggestedFilename()).toBe('Jug under lamps.webp');
  const image = sharp(await file.path());
  const { format, width, height, icc } = await image.metadata();
  expect([format, width, height]).toEqual(['webp', 1024, 683]);
  // By the profile it holds it is the picture that is seen.
  const seen = await image.clone().raw().toBuffer();
  const stored = await image.clone().keepIccProfile().raw().toBuffer();
  expect(icc?.includes(Buffer.from('Display P3', 'utf16le').swap16())).toBe(true);
  await page.keyboard.press('e');
  await dialog.getByLabel('Colour space').selectOption('srgb');
  const second = page.waitForEvent('download');
  await dialog.getByRole('button', { name: 'Export' }).click();
  const plain = await sharp(await (await second).path())
    .raw()
    .toBuffer();
  const apart = (a: Buffer, b: Buffer): number =>
    a.reduce((sum, v, i) => sum + Math.abs(v - b[i]), 0) / a.length;
  expect(apart(seen, plain)).toBeLessThan(0.8);
  expect(apart(stored, plain)).toBeGreaterThan(2);
});

test('what the colour space of a file can’t hold is counted and hatched before it is written', async ({
  page
}) => {
  await openSample(page, 'Glaze tiles', '');
  await page.keyboard.press('e');
  const dialog = page.getByRole('dialog', { name: 'Export the picture' });
  await expect(dialog.getByText('All of it lies within sRGB.')).toBeVisible();
  await dialog.getByRole('button', { name: 'Cancel' }).click();
  await addStep(page, 'Colour');
  await setAmount(page, 'Saturation in percent', 100);
  await settled(page);
  await page.keyboard.press('e');
  const line = dialog.getByText(/^[\d.]+ % of the pixels lie outside/);
  await expect(line).toHaveText(/outside sRGB/);
  const part = parseFloat(await line.innerText());
  // In a wider space more of it has room.
  await dialog.getByLabel('Colour space').selectOption('prophoto');
  await expect(dialog.getByText(/ProPhoto-compatible(\.$|, and are cut there)/)).toBeVisible();
  await dialog.getByLabel('Colour space').selectOption('srgb');
  await expect(line).toHaveText(/outside sRGB/);
  await dialog.getByRole('button', { name: 'Show where' }).press('Enter');
  const hatched = dialog.getByRole('img', { name: /hatched where it lies outside sRGB/ });
  await expect(hatched).toBeVisible();
  expect(await hatched.evaluate((e) => (e as HTMLImageElement).naturalWidth)).toBe(960);
  await dialog.getByRole('button', { name: 'Hide' }).press('Enter');
  await expect(hatched).toBeHidden();
  // Against the floats of the file that keeps them.
  await dialog.getByLabel('Format').selectOption('tiff');
  await dialog.getByLabel('Depth').selectOption({ label: '32-bit float' });
  await dialog.locator('label').filter({ hasText: 'Keep' }).click();
  await expect(line).toBeHidden();
  await dialog.getByRole('button', { name: 'Cancel' }).click();
  const { samples: values } = await asFits(page, 1);
  let outside = 0;
  for (let i = 0; i < values.length; i += 3)
    if ([0, 1, 2].some((c) => values[i + c] < -0.5 / 65535 || values[i + c] > 1 + 0.5 / 65535)) outside++;
  expect(Math.abs((300 * outside) / values.length - part)).toBeLessThan(0.06);
});

test('a TIFF of 16 bits is written deflated, or as it is', async ({ page }) => {
  await openSample(page, 'Glaze tiles', '');
  // Nothing is made of a dialog before it is opened: the picture need not wait for it.
  await expect(page.getByRole('dialog', { includeHidden: true })).toHaveCount(0);
  const samples: Buffer[] = [];
  for (const [how, compression] of [
    ['Deflate: smaller', 'deflate'],
    ['None: quicker', 'none']
  ]) {
    const path = await exported(page, async () => {
      await page.getByLabel('Format').selectOption('tiff');
      // Of 8 bits there is no choice.
      await page.getByLabel('Depth').selectOption({ label: '8 bit' });
      await expect(page.getByLabel('Compression')).toBeHidden();
      await page.getByLabel('Depth').selectOption({ label: '16 bit' });
      await page.getByLabel('Compression').selectOption({ label: how });
    });
    expect(await tiffCompression(await readFile(path))).toBe(compression);
    const deep = sharp(path, { ignoreIcc: true }).pipelineColourspace('rgb16').toColourspace('rgb16');
    samples.push(await deep.raw({ depth: 'ushort' }).toBuffer());
  }
  expect(samples[0].length).toBe(2400 * 1600 * 6);
  expect(samples[0].equals(samples[1])).toBe(true);
});

test('what a file tells of its picture goes along: all of it, without place and camera, or not at all', async ({
  page
}) => {
  const xmp = `<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/" dc:format="jugs"/></rdf:RDF></x:xmpmeta>`;
  const given = await sharp('demo/samples/old-print.jpg')
    .resize(300)
    .withExif({ IFD0: { Make: 'Kilnworks', Copyright: 'Skerry Kiln' } })
    .withXmp(xmp)
    .withMetadata({ orientation: 6 })
    .jpeg()
    .toBuffer();
  const { width, height } = await sharp(given).metadata();
  await page.goto('/');
  await page
    .getByLabel('Pictures or Kromba documents')
    .setInputFiles({ name: 'print.jpg', mimeType: 'image/jpeg', buffer: given });
  await page.waitForURL('**/work/**');
  await settled(page);
  await addStep(page, 'Invert');
  const dialog = page.getByRole('dialog', { name: 'Export the picture' });
  const written = async (format: string, metadata: string, history = false): Promise<string> => {
    await page.keyboard.press('e');
    await dialog.getByLabel('Format').selectOption(format);
    await dialog.getByLabel('Metadata').selectOption(metadata);
    if (history) await dialog.locator('label').filter({ hasText: 'Write what was done into it' }).click();
    if (metadata === 'keep')
      await expect(dialog.getByText('EXIF and XMP of its file go along.')).toBeVisible();
    const download = page.waitForEvent('download');
    await dialog.getByRole('button', { name: 'Export' }).click();
    const seen = await sharp(await (await download).path()).metadata();
    // It lay on its side, and is upright.
    expect([seen.width, seen.height, seen.orientation ?? 1]).toEqual([height, width, 1]);
    return Buffer.concat([seen.exif ?? Buffer.alloc(0), seen.xmp ?? Buffer.alloc(0)]).toString('latin1');
  };
  const all = await written('jpeg', 'keep');
  expect([/Kilnworks/, /Skerry Kiln/, /jugs/].every((one) => one.test(all))).toBe(true);
  expect(all).toContain(xmp);
  const less = await written('png', 'no-place', true);
  expect(less).not.toContain('Kilnworks');
  expect(less).toContain('Skerry Kiln');
  expect(less).toMatch(/<stEvt:parameters[^>]*>Invert/);
  expect(await written('webp', 'none')).toBe('');
});

test('a document that is not there is told, with a way back', async ({ page }) => {
  await page.goto('/work/nothing-here');
  await expect(page.getByText('This document is not in this browser')).toBeVisible();
  await page.getByRole('button', { name: 'Go to Documents' }).click();
  await expect(page.getByRole('button', { name: 'Open pictures' })).toBeVisible();
});
