import { readFile, writeFile } from 'node:fs/promises';
import { converter } from 'culori';
import sharp from 'sharp';
import { decodedPng, expect, fillStorage, openSmall, storageMayBeFull, test } from './bench-page';
import { paperProfile, paperValues, perceptualLab } from './paper-profile';

test('an export is written by an ICC profile of one’s own, which is there on the next visit and for many files', async ({
  page
}, info) => {
  const [paper, inks] = [info.outputPath('Matte 310.icc'), info.outputPath('inks.icc')];
  await writeFile(paper, paperProfile());
  await writeFile(inks, paperProfile({ 16: 'CMYK' }));
  await storageMayBeFull(page.context());
  await openSmall(page, 'glaze-tiles.jpg');
  const dialog = page.getByRole('dialog', { name: 'Export the picture' });
  const space = dialog.getByLabel('Colour space');
  const written = async (): Promise<{
    file: string;
    samples: ArrayLike<number>;
    icc: Buffer | undefined;
  }> => {
    const download = page.waitForEvent('download');
    await dialog.getByRole('button', { name: 'Export' }).click();
    const file = await (await download).path();
    const { data } = decodedPng(await readFile(file));
    return { file, samples: data, icc: (await sharp(file).metadata()).icc };
  };
  await page.keyboard.press('e');
  const plain = await written();
  await page.keyboard.press('e');
  await dialog.getByLabel('ICC profile to write by').setInputFiles(inks);
  await expect(dialog.getByRole('alert')).toContainText(
    '“inks.icc” can’t be written by: it is a profile of CMYK inks, and Kromba writes RGB.'
  );
  await expect(space).toHaveValue('srgb');
  await dialog.getByLabel('ICC profile to write by').setInputFiles(paper);
  await expect(space.locator('option:checked')).toHaveText('Matte 310');
  await expect(dialog.getByRole('alert')).toBeHidden();
  await expect(dialog.getByLabel('Black-point compensation')).toBeChecked();
  await expect(
    dialog.getByText(/^[\d.]+ % of the pixels lie outside Matte 310, and change by over ΔE\u00a02\.$/)
  ).toBeVisible();
  await dialog.getByRole('button', { name: 'Show where' }).press('Enter');
  await expect(dialog.getByRole('img', { name: /hatched where it lies outside Matte 310/ })).toBeVisible();
  await dialog.getByLabel('Colours that it can’t hold').selectOption('perceptual');
  // Cancelled on the way nothing comes of it, and what was chosen stays.
  const underWay = dialog.getByText(/Computing the picture|Writing the file/);
  await dialog.getByRole('button', { name: 'Export' }).click();
  await expect(underWay).toBeVisible();
  await dialog.getByRole('button', { name: 'Cancel' }).click();
  await expect(underWay).toBeHidden();
  await expect(space.locator('option:checked')).toHaveText('Matte 310');
  const made = await written();
  expect(made.icc?.equals(paperProfile())).toBe(true);
  // What the paper's tables say of the colours of the plain export, by hand.
  const toLab = converter('lab');
  let compared = 0;
  for (let i = 0; i < plain.samples.length; i += 3 * 997) {
    const [r, g, b] = [0, 1, 2].map((c) => plain.samples[i + c] / 65535);
    const { l, a, b: yellow } = toLab({ mode: 'rgb', r, g, b });
    const hand = paperValues(perceptualLab([l, a, yellow]));
    // Near the ends the nodes of its tables are cut.
    if (hand.some((v) => v < 0.12 || v > 0.88)) continue;
    compared++;
    hand.forEach((v, c) => expect(Math.abs(made.samples[i + c] / 65535 - v)).toBeLessThan(0.005));
  }
  expect(compared).toBeGreaterThan(100);

  // The next visit, in a work on many files.
  await page.goto('/many');
  await page.getByLabel('Pictures to work on').setInputFiles('demo/samples/old-print.small.jpg');
  await page.getByLabel('Format').selectOption('jpeg');
  await page.getByLabel('Colour space').selectOption({ label: 'Matte 310' });
  await page.locator('label').filter({ hasText: 'Black-point compensation' }).click();
  await page.getByRole('button', { name: 'Make 1 file' }).click();
  await expect(page.getByRole('status')).toContainText('1 of 1 made.', { timeout: 60_000 });
  await page.reload();
  await expect(page.getByText('Matte 310 (relative colorimetric)')).toBeVisible();
  await page.getByRole('button', { name: 'New work' }).click();

  // It is there until it is forgotten.
  await page.getByLabel('Format').selectOption('png');
  await page.getByLabel('Colour space').selectOption({ label: 'Matte 310' });
  await page.getByRole('button', { name: 'Forget “Matte 310”' }).press('Enter');
  await expect(page.getByLabel('Colour space')).toHaveValue('srgb');
  await page.reload();
  await expect(page.getByLabel('Colour space').locator('option').last()).toHaveText('ProPhoto-compatible');

  // On full storage it is written by all the same.
  await fillStorage(page, true);
  await page.getByLabel('ICC profile to write by').setInputFiles(paper);
  await expect(page.getByRole('alert')).toHaveText(
    'There is no room left in this browser’s storage. The profile is not kept for the next visit.'
  );
  await expect(page.getByLabel('Colour space').locator('option:checked')).toHaveText('Matte 310');

  // Where what was kept can't be read, that is said.
  await page.addInitScript(() => {
    const open = IDBFactory.prototype.open;
    IDBFactory.prototype.open = function (name, version) {
      if (name === 'kromba-profiles') throw new DOMException('no access', 'UnknownError');
      return open.call(this, name, version);
    };
  });
  await page.reload();
  await expect(page.getByRole('alert')).toHaveText(
    'The browser’s storage does not answer (no access). Profiles can’t be kept for the next visit.'
  );
  await page.getByLabel('ICC profile to write by').setInputFiles(paper);
  await expect(page.getByLabel('Colour space').locator('option:checked')).toHaveText('Matte 310');
});
