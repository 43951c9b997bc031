import { readFile } from 'node:fs/promises';
import {
  decodedPng,
  addStep,
  expect,
  exported,
  openSample,
  screenOf,
  setAmount,
  settled,
  test,
  type Screen
} from './bench-page';

/** Mean difference of what is shown at a quarter to a file's pixels, 4×4 at a time, in steps of 8 bit. */
async function differs({ width, height, data }: Screen, file: string): Promise<number> {
  const png = decodedPng(await readFile(file));
  const [w, h] = [png.width / 4, png.height / 4];
  const [left, top] = [(width - w) / 2, (height - h) / 2];
  let sum = 0;
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      for (let c = 0; c < 3; c++) {
        let mean = 0;
        for (let i = 0; i < 16; i++)
          mean += png.data[3 * ((4 * y + (i >> 2)) * png.width + 4 * x + (i & 3)) + c] / (16 * 257);
        sum += Math.abs(mean - data[4 * ((y + top) * width + x + left) + c]);
      }
    }
  }
  return sum / (3 * w * h);
}

test('faint detail of every size is shown at once, and then as full size made smaller', async ({
  page
}, info) => {
  // Out is 400 pixels high then, and the picture is shown at 25 %.
  await page.setViewportSize({ width: 1280, height: 794 });
  await openSample(page, 'Harbour in haze', '');
  await addStep(page, 'Faint detail');
  await setAmount(page, 'Faint detail amount in percent', 200);
  await setAmount(page, 'Faint detail radius in pixels', 100);
  const bar = page.getByRole('progressbar', { name: 'Faint detail: computing the whole picture' });
  await page.evaluate(() => performance.clearMarks('kromba:whole'));
  await expect(bar).toBeVisible({ timeout: 10_000 });
  await settled(page);
  const first = await screenOf(page);
  await expect(page.locator('footer')).toContainText(/Faint detail: computing the whole picture, \d+ %/);
  await page.waitForFunction(() => performance.getEntriesByName('kromba:whole').length > 0, null, {
    polling: 40,
    timeout: 150_000
  });
  await expect(bar).toBeHidden();
  await settled(page);
  const then = await screenOf(page);
  const file = await exported(page);
  const [before, after] = [await differs(first, file), await differs(then, file)];
  info.annotations.push({
    type: 'difference',
    description: `${before.toFixed(2)}, then ${after.toFixed(2)}`
  });
  // Rounding alone comes to a quarter of a step on average.
  expect(before).toBeGreaterThan(1);
  expect(after).toBeLessThan(0.3);
});
