import { execFileSync } from 'node:child_process';
import { readFile } from 'node:fs/promises';
import { decode } from 'fast-png';
import { expect, exported, openSample, setWeight, settled, test } from './bench-page';

test('preview at 1:1, export and headless render give the same samples', async ({ page }, info) => {
  test.setTimeout(180_000);
  await openSample(page, 'Jug under lamps');
  await setWeight(page, 'green gets red', 27);
  await setWeight(page, 'green gets a constant', -3);
  await page.getByRole('button', { name: 'Add a mix' }).click();
  await page.getByRole('tab', { name: 'LAB' }).click();
  await setWeight(page, 'green to magenta gets blue to yellow', 35);
  await page.getByRole('button', { name: 'Add a mix' }).click();
  await page.getByRole('tab', { name: 'CMYK' }).click();
  await setWeight(page, 'black gets black', 85);
  const png = decode(await readFile(await exported(page)));

  // The document goes out as a bundle and through the headless command.
  await settled(page);
  await page.getByRole('link', { name: 'Kromba' }).click();
  await page.getByRole('button', { name: 'What to do with Jug under lamps' }).click();
  const download = page.waitForEvent('download');
  await page.getByRole('menuitem', { name: 'Export document' }).click();
  const bundle = info.outputPath('jug.kromba');
  await (await download).saveAs(bundle);
  const out = info.outputPath('headless.png');
  execFileSync('npm', ['run', '-s', 'render', '--', bundle, '--picture', 'Jug under lamps', '--out', out]);
  const headless = decode(await readFile(out));
  expect(headless.depth).toBe(16);
  expect(Buffer.from(headless.data.buffer).equals(Buffer.from(png.data.buffer))).toBe(true);

  // Preview at 1:1 of the end of the path: the screen's 8 bits are the export's, rounded.
  await page.getByRole('link', { name: 'Open Jug under lamps' }).click();
  await settled(page);
  await page.getByRole('tab', { name: 'End of path' }).click();
  await page.evaluate(() => performance.clearMeasures());
  await page.keyboard.press('1');
  await settled(page);
  const screen = await page
    .getByLabel('The picture', { exact: true })
    .evaluate((canvas: HTMLCanvasElement) => {
      const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
      let text = '';
      for (let i = 0; i < data.length; i += 8192) text += String.fromCharCode(...data.subarray(i, i + 8192));
      return { width: canvas.width, height: canvas.height, base64: btoa(text) };
    });
  const shownPixels = Buffer.from(screen.base64, 'base64');
  const left = Math.round(screen.width / 2 - 1200);
  const top = Math.round(screen.height / 2 - 800);
  let compared = 0;
  for (let y = 0; y < screen.height; y++) {
    for (let x = 0; x < screen.width; x++) {
      for (let c = 0; c < 3; c++) {
        const sample = png.data[((y - top) * png.width + x - left) * 3 + c];
        const shown = shownPixels[(y * screen.width + x) * 4 + c];
        // The float before rounding lies within half a 16-bit step of the export's sample.
        if (Math.abs(shown - sample / 257) > 0.5 + 0.002)
          throw new Error(`${x}, ${y}: ${shown} for ${sample / 257}`);
        compared++;
      }
    }
  }
  expect(compared).toBeGreaterThan(1_000_000);
});
