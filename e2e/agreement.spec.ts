import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { converter, differenceCiede2000 } from 'culori';
import { decode } from 'fast-png';
import { zipSync } from 'fflate';
import sharp from 'sharp';
import { expect, exported, settled, test } from './bench-page';

const { steps, masks } = JSON.parse(readFileSync('e2e/every-op.json', 'utf8')) as Record<string, object[]>;

/** A bundle of the jug, two fifths as wide, with a step of every op there is, and masks of every source. */
async function bundle(): Promise<Uint8Array> {
  const document = {
    kromba: 1,
    kind: 'document',
    name: 'Every step',
    frames: [{ id: 'f', name: 'jug', file: 'jug.png' }],
    pictures: [
      { id: 'p', name: 'Every step', head: { kind: 'frame', frame: 'f' }, steps },
      { id: 'q', name: 'As it came', head: { kind: 'frame', frame: 'f' } }
    ],
    masks
  };
  return zipSync(
    {
      'document.kromba.json': new TextEncoder().encode(JSON.stringify(document)),
      'jug.png': await sharp('demo/samples/jug-under-lamps.png')
        .toColourspace('rgb16')
        .resize(960, 640)
        .png({ compressionLevel: 1 })
        .toBuffer()
    },
    { level: 0 }
  );
}

interface Screen {
  readonly width: number;
  readonly height: number;
  readonly data: Buffer;
}

test('with every step in the path, preview at 1:1, export and headless render give the same samples', async ({
  page
}, info) => {
  test.setTimeout(300_000);
  const path = info.outputPath('every.kromba');
  writeFileSync(path, await bundle());
  await page.goto('/');
  await page.getByLabel('Pictures or Kromba documents').setInputFiles(path);
  await page.waitForURL('**/work/**');
  await settled(page, 100_000);
  // It waits for the small pictures of more than twenty steps, each of the path up to it.
  const png = decode(await readFile(await exported(page, undefined, 120_000)));
  const out = info.outputPath('headless.png');
  execFileSync('npm', ['run', '-s', 'render', '--', path, '--picture', 'Every step', '--out', out]);
  const headless = decode(await readFile(out));
  expect([headless.depth, headless.width, headless.height]).toEqual([16, png.width, png.height]);
  expect(Buffer.from(headless.data.buffer).equals(Buffer.from(png.data.buffer))).toBe(true);

  await page.keyboard.press('h');
  await page.getByRole('tab', { name: 'End of path' }).click();
  const screen = async (key: string): Promise<Screen> => {
    await page.evaluate(() => performance.clearMeasures());
    await page.keyboard.press(key);
    await settled(page, 100_000);
    const found = await page
      .getByLabel('The picture', { exact: true })
      .evaluate((canvas: HTMLCanvasElement) => {
        const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
        let text = '';
        for (let i = 0; i < data.length; i += 8192)
          text += String.fromCharCode(...data.subarray(i, i + 8192));
        return { width: canvas.width, height: canvas.height, base64: btoa(text) };
      });
    return { ...found, data: Buffer.from(found.base64, 'base64') };
  };

  // 1:1: the screen's 8 bits are the export's 16, rounded.
  const full = await screen('1');
  const left = Math.round(full.width / 2 - png.width / 2);
  const top = Math.round(full.height / 2 - png.height / 2);
  let compared = 0;
  for (let y = 0; y < full.height; y++) {
    for (let x = 0; x < full.width; x++) {
      for (let c = 0; c < 3; c++) {
        const sample = png.data[((y - top) * png.width + x - left) * 3 + c];
        const shown = full.data[(y * full.width + x) * 4 + c];
        // The float before rounding lies within half a 16-bit step of the export's sample.
        if (Math.abs(shown - sample / 257) > 0.5 + 0.002)
          throw new Error(`${x}, ${y}: ${shown} for ${sample / 257}`);
        compared++;
      }
    }
  }
  expect(compared).toBeGreaterThan(1_000_000);

  // Shown whole: against the export made as small by sharp.
  const fit = await screen('f');
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
