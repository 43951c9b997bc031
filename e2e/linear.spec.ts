import sharp from 'sharp';
import { addStep, expect, exportedPixels, onScreen, reading, setWeight, settled, test } from './bench-page';

/** A picture of one colour, as a 16-bit TIFF without a profile. */
const tiff = (rgb: readonly number[]): Promise<Buffer> =>
  sharp(
    Uint16Array.from({ length: 3 * 400 * 300 }, (_, i) => Math.round(rgb[i % 3] * 65535)),
    { raw: { width: 400, height: 300, channels: 3 } }
  )
    .toColourspace('rgb16')
    .tiff({ compression: 'none' })
    .toBuffer();

test('a picture is declared linear, computed as light, seen encoded, and exported as it is or encoded', async ({
  page
}) => {
  await page.goto('/');
  // sRGB 255, 128, 0 as light.
  const light = [1, 0.2158605, 0];
  await page
    .getByLabel('Pictures or Kromba documents')
    .setInputFiles({ name: 'frame.tif', mimeType: 'image/tiff', buffer: await tiff(light) });
  await page.waitForURL('**/work/**');
  await settled(page);
  const place = await onScreen(page, 200, 150, 400, 300);
  await page.mouse.move(place.x, place.y);
  expect((await reading(page, 'in'))['lab.l']).toBeLessThan(60);

  await page.getByText('Proportional to light').click();
  await expect(page.getByText('The values are linear')).toBeVisible();
  await settled(page);
  // The known answer of LAB for that colour, and its values as they stand.
  await expect
    .poll(() => reading(page, 'in'))
    .toMatchObject({ 'rgb.g': 21.6, 'lab.l': 67.8, 'lab.a': 45.5, 'lab.b': 74.8 });
  const seen = async (): Promise<number[]> => {
    const shot = await page.screenshot({ clip: { ...place, width: 1, height: 1 } });
    return [...(await sharp(shot).removeAlpha().raw().toBuffer())];
  };
  expect(await seen()).toEqual([255, 128, 0]);

  // Half of red into green: 0.5 + 0.2158605 of light.
  await addStep(page, 'Mix');
  await setWeight(page, 'green gets red', 50);
  await settled(page);
  const sum = 0.7158605;
  await expect.poll(async () => (await reading(page, 'out'))['rgb.g']).toBe(71.6);
  const floats = await exportedPixels(page, '32-bit float', async () => {
    await expect(page.getByText('linear values, as the picture is')).toBeVisible();
  });
  expect(floats.at(200, 150)[1]).toBeCloseTo(sum, 4);
  const integers = await exportedPixels(page, '16 bit', async () => {
    await expect(page.getByText('sRGB: the linear picture is encoded')).toBeVisible();
    await page.getByLabel('Compression').selectOption({ label: 'None: quicker' });
  });
  // IEC 61966-2-1: 1.055·v^(1/2.4) − 0.055.
  expect(integers.at(200, 150)[1]).toBeCloseTo(1.055 * sum ** (1 / 2.4) - 0.055, 4);

  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await settled(page);
  await expect.poll(async () => (await reading(page, 'in'))['lab.l']).toBeLessThan(60);
});
