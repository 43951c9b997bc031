import { execFile } from 'node:child_process';
import { mkdir, readdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { promisify } from 'node:util';
import type { Page } from '@playwright/test';
import { unzipSync } from 'fflate';
import sharp from 'sharp';
import { ownLooks } from '../src/core/looks/own';
import { tiffCompression } from '../src/core/testing';
import { addStep, decodedPng, expect, exported, openSample, setWeight, settled, test } from './bench-page';

const COUNT = 40;
const BROKEN = 6;

/** Copies of a sample, each a little otherwise, one of them cut off. */
async function copies(folder: string, count: number): Promise<string[]> {
  await mkdir(folder, { recursive: true });
  const image = sharp('demo/samples/jug-under-lamps.png').resize(320);
  return Promise.all(
    Array.from({ length: count }, async (_, i) => {
      const jpeg = await image
        .clone()
        .modulate({ hue: 9 * i })
        .jpeg({ quality: 90 })
        .toBuffer();
      const path = join(folder, `shot ${String(i).padStart(2, '0')}.jpg`);
      await writeFile(path, i === BROKEN ? jpeg.subarray(0, jpeg.length / 2) : jpeg);
      return path;
    })
  );
}

const status = (page: Page): Promise<string> => page.getByRole('status').innerText();
const made = async (page: Page): Promise<number> => Number(/^(\d+) of/.exec(await status(page))?.[1] ?? -1);
const downloaded = async (page: Page, button: string): Promise<string> => {
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: button }).click();
  return (await download).path();
};

test('forty files are made by a look: one is damaged, it is paused, broken off by a reload and finished, as the command makes them', async ({
  page
}, info) => {
  test.slow();
  const paths = await copies(info.outputPath('in'), COUNT);
  await page.goto('/');
  await page.getByRole('link', { name: 'Many files' }).click();
  await expect(page.getByRole('button', { name: 'Make them' })).toBeDisabled();
  await page.getByLabel('Pictures to work on').setInputFiles([...paths, 'README.md']);
  await expect(page.getByText('“README.md” is no picture and was left out')).toBeVisible();
  await page.getByRole('button', { name: 'Take shot 39.jpg off the list' }).click();
  await page.getByLabel('Pictures to work on').setInputFiles(paths.slice(39));
  await page.getByLabel('Look').selectOption({ label: ownLooks[0].look.name });
  await page.getByLabel('Format').selectOption('tiff');
  const names = page.getByLabel('Names');
  await names.fill('all');
  await expect(page.getByText('would both become “all.tif”. Use {n} in the name.')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Make 40 files' })).toBeDisabled();
  await names.fill('{n} {look}');
  await page.getByRole('button', { name: 'Make 40 files' }).click();
  await expect.poll(() => made(page), { timeout: 60_000 }).toBeGreaterThan(2);
  await page.getByRole('button', { name: 'Pause' }).click();
  await expect(page.getByRole('status')).toContainText('Paused.');
  await expect(page.getByText('being made')).toHaveCount(0, { timeout: 60_000 });
  const paused = await made(page);
  expect(paused).toBeLessThan(COUNT - 2);
  await page.waitForTimeout(1500);
  expect(await made(page)).toBe(paused);
  await page.getByRole('button', { name: 'Go on' }).click();
  await expect.poll(() => made(page), { timeout: 60_000 }).toBeGreaterThan(paused + 2);
  await page.reload();
  await expect(page.getByRole('status')).toContainText('Stopped; what was made is kept.');
  const kept = await made(page);
  expect(kept).toBeGreaterThan(paused + 2);
  // Another tab is told, and goes on where this one has ended.
  const second = await page.context().newPage();
  await second.goto('/many');
  await expect(second.getByText('Another tab is at it.')).toBeVisible();
  await page.getByRole('button', { name: 'Go on' }).click();
  await expect(page.getByRole('status')).toContainText(`${COUNT - 1} of ${COUNT} made, 1 failed.`, {
    timeout: 120_000
  });
  // What failed stands first, with why.
  const failed = page.getByRole('list', { name: 'Files' }).getByRole('listitem').first();
  await expect(failed).toContainText('The file ends before the picture is complete.');
  await page.getByRole('button', { name: 'Try the failed again' }).click();
  await expect(page.getByRole('button', { name: 'Save the zip' })).toBeVisible({ timeout: 60_000 });
  await expect(failed).toContainText('The file ends before the picture is complete.');

  const look = info.outputPath('look.json');
  await writeFile(look, JSON.stringify(ownLooks[0].look));
  const out = info.outputPath('out');
  const args = ['render', '--look', look, '--out-dir', out, '--format', 'tif', '--name', '{n} {look}'];
  const ended = promisify(execFile)(process.execPath, ['scripts/run.mjs', ...args, ...paths]);
  await expect(ended).rejects.toThrow(`${COUNT - 1} of ${COUNT} written`);
  const zip = unzipSync(await readFile(await downloaded(page, 'Save the zip')));
  expect(Object.keys(zip).sort()).toEqual((await readdir(out)).sort());
  for (const [name, content] of Object.entries(zip))
    expect(Buffer.from(content).equals(await readFile(join(out, name))), name).toBe(true);

  const { format, width, height } = await sharp(await downloaded(page, 'Contact sheet')).metadata();
  expect([format, width]).toEqual(['jpeg', 1742]);
  expect(height).toBe(14 + 13 * 250);
  await page.close();
  await expect(second.getByRole('status')).toContainText('1 failed', { timeout: 20_000 });
  await second.getByRole('button', { name: 'New work' }).click();
  await expect(second.getByText('No files yet')).toBeVisible();
});

test('files go into a folder, those that are there stay, and one is opened as a document', async ({
  page
}, info) => {
  const paths = (await copies(info.outputPath('in'), 3)).slice(0, 3);
  // The browser's own picker can't be answered: the folder is one of the page's own storage.
  await page.addInitScript(() => {
    Object.assign(window, { showDirectoryPicker: () => navigator.storage.getDirectory() });
  });
  const make = async (overwrite: boolean): Promise<void> => {
    await page.goto('/many');
    const again = page.getByRole('button', { name: 'New work' });
    await expect(again.or(page.getByText('No files yet'))).toBeVisible();
    if (await again.isVisible()) await again.click();
    await page.getByLabel('Pictures to work on').setInputFiles(paths);
    await page.getByLabel('Format').selectOption('jpeg');
    await page.getByLabel('Colour space').selectOption('display-p3');
    await page.getByLabel('Names').fill('{name} small');
    await page.getByLabel('Size').selectOption('1024');
    await page.locator('label').filter({ hasText: 'a folder' }).click();
    await expect(page.getByRole('button', { name: 'Make 3 files' })).toBeDisabled();
    await page.getByRole('button', { name: 'Choose the folder' }).click();
    if (overwrite) await page.locator('label').filter({ hasText: 'Write over files' }).click();
    await page.getByRole('button', { name: 'Make 3 files' }).click();
    await expect(page.getByRole('button', { name: 'New work' })).toBeVisible({ timeout: 60_000 });
  };
  /** The bytes of what is in the folder. */
  const there = (): Promise<Record<string, number[]>> =>
    page.evaluate(async () => {
      const folder = await navigator.storage.getDirectory();
      const found: Record<string, number[]> = {};
      for await (const [name, handle] of (
        folder as unknown as { entries(): AsyncIterable<[string, FileSystemFileHandle]> }
      ).entries())
        found[name] = [...new Uint8Array(await (await handle.getFile()).arrayBuffer())];
      return found;
    });
  await make(false);
  const first = await there();
  expect(Object.keys(first).sort()).toEqual([0, 1, 2].map((i) => `shot 0${i} small.jpg`));
  await expect(page.getByRole('button', { name: 'Save the zip' })).toBeHidden();
  const look = info.outputPath('look.json');
  await writeFile(look, JSON.stringify(ownLooks[0].look));
  const out = info.outputPath('out');
  const settings = ['--format', 'jpg', '--space', 'display-p3', '--size', '1024', '--name', '{name} small'];
  const args = ['scripts/run.mjs', 'render', '--look', look, '--out-dir', out, ...settings, ...paths];
  await promisify(execFile)(process.execPath, args);
  for (const [name, content] of Object.entries(first))
    expect(Buffer.from(content).equals(await readFile(join(out, name))), name).toBe(true);
  await make(false);
  await expect(page.getByText('is in the folder already and stays as it is.')).toHaveCount(3);
  await make(true);
  await expect(page.getByRole('status')).toContainText('3 of 3 made.');
  expect(await there()).toEqual(first);
  // What the browser does not allow any more is said, and gone on with where it is allowed again.
  await page.evaluate(() => {
    const answer = { allowed: 'denied' };
    Object.assign(window, { answer });
    const asked = (): Promise<string> => Promise.resolve(answer.allowed);
    Object.assign(FileSystemDirectoryHandle.prototype, { queryPermission: asked, requestPermission: asked });
  });
  // The next files may be given in the moment in which the last are put away.
  await page.evaluate(async () => {
    [...document.querySelectorAll('button')].find((b) => b.textContent.trim() === 'New work')?.click();
    const field = (): HTMLInputElement | null =>
      document.querySelector('input[aria-label="Pictures to work on"]');
    // The page itself needs no more than some turns of this.
    for (let i = 0; i < 50 && !field(); i++) await Promise.resolve();
    const input = field()!;
    const given = new DataTransfer();
    given.items.add(new File(['soon taken off'], 'next.png'));
    input.files = given.files;
    input.dispatchEvent(new Event('change', { bubbles: true }));
    // Done once they are put away.
    await new Promise<void>((done) => {
      indexedDB.open('kromba-many').onsuccess = ({ target }) => {
        const { result: database } = target as IDBOpenDBRequest;
        const reading = database.transaction('run').objectStore('run').getAllKeys();
        reading.onsuccess = () => {
          database.close();
          setTimeout(done);
        };
      };
    });
  });
  await page.getByRole('button', { name: 'Take next.png off the list' }).click();
  await page.getByLabel('Pictures to work on').setInputFiles(paths.slice(0, 1));
  await page.getByRole('button', { name: 'Make 1 file' }).click();
  await expect(
    page.getByText(/^Kromba may not write into the folder “.*”\. Allow it, and go on\.$/)
  ).toBeVisible();
  await expect(page.getByRole('status')).toContainText('0 of 1 made. Stopped; what was made is kept.');
  await page.evaluate(() => {
    (window as unknown as { answer: { allowed: string } }).answer.allowed = 'granted';
  });
  await page.getByRole('button', { name: 'Go on' }).click();
  await expect(page.getByRole('status')).toContainText('1 of 1 made.', { timeout: 60_000 });
  const card = page.getByRole('listitem', { name: 'shot 00.jpg' });
  await card.hover();
  await card.getByRole('button', { name: 'Open' }).click();
  await page.waitForURL('**/work/**');
  await expect(page.getByText('shot 00 small').first()).toBeVisible();
});

test('the path of a picture is put on files, from the picture and from the list', async ({ page }) => {
  await openSample(page, 'Old print');
  await setWeight(page, 'red gets blue', 60);
  await setWeight(page, 'red gets red', 40);
  await settled(page);
  const print = await exported(page);
  await page.keyboard.press('d');
  await addStep(page, 'Invert');
  await page.getByRole('button', { name: 'What to do with this picture' }).click();
  // What is not saved yet is saved on the way.
  await page.getByRole('menuitem', { name: 'Put its path on many files' }).click();
  await page.waitForURL('**/many?path=**');
  const which = page.getByLabel('Look, or the path of a picture');
  await expect(which.locator('option:checked')).toHaveText(/: .*, 2$/);
  // By keyboard to the picture before it.
  await which.focus();
  await page.keyboard.press('ArrowUp');
  await expect(which.locator('option:checked')).not.toHaveText(/, 2$/);
  await page.getByLabel('Pictures to work on').setInputFiles('demo/samples/old-print.jpg');
  await page.getByLabel('Names').fill('{name}');
  await page.getByLabel('Format').selectOption('tiff');
  // Of 8 bits there is no choice of a compression.
  await page.getByLabel('Depth').selectOption({ label: '8 bit' });
  const compression = page.getByLabel('Compression');
  await expect(compression).toBeHidden();
  await page.getByLabel('Depth').selectOption({ label: '16 bit' });
  await compression.focus();
  await page.keyboard.press('ArrowDown');
  await expect(compression.locator('option:checked')).toHaveText('None: quicker');
  await page.getByRole('button', { name: 'Make 1 file' }).press('Enter');
  await expect(page.getByRole('status')).toContainText('1 of 1 made.', { timeout: 60_000 });
  const zip = unzipSync(await readFile(await downloaded(page, 'Save the zip')));
  expect(Object.keys(zip)).toEqual(['old-print.tif']);
  const made = zip['old-print.tif'];
  expect(await tiffCompression(made)).toBe('none');
  // The same samples as the picture's own export: they lie as they are at the end.
  const { data } = decodedPng(await readFile(print));
  const samples = Buffer.from(data.buffer, data.byteOffset, data.byteLength);
  expect(Buffer.compare(made.subarray(-samples.length), samples)).toBe(0);
  await page.getByRole('button', { name: 'New work' }).click();
  await page.goto('/many?path=gone/gone');
  await expect(page.getByText('The picture whose path was to be used is not there any more.')).toBeVisible();
});
