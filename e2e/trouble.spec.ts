import { readFile, writeFile } from 'node:fs/promises';
import type { Page, Route } from '@playwright/test';
import sharp from 'sharp';
import { hostileFiles } from './hostile-files';
import { begin, expect, plainPng, settled, test } from './bench-page';

const WORKER = /\/worker-[^/]*\.js$/;
const picture = (): Promise<Buffer> => plainPng('#a63', 300, 200);

async function open(page: Page, name: string, mimeType: string, buffer: Buffer): Promise<void> {
  await page.getByLabel('Pictures or Kromba documents').setInputFiles({ name, mimeType, buffer });
}

// What a test breaks on purpose is told by the browser in the console too.
test.use({ expectsErrors: true });

test('a script that was not shipped does not run', async ({ page }) => {
  await page.goto('/');
  const ran = await page.evaluate(() => {
    const script = document.createElement('script');
    script.textContent = 'window.foreign = true';
    document.body.append(script);
    return 'foreign' in window;
  });
  expect(ran).toBe(false);
});

test('workers that can’t be loaded are told, and tried again', async ({ page }) => {
  const refuse = (route: Route): Promise<void> => route.abort();
  await page.route(WORKER, refuse);
  await page.goto('/');
  await open(page, 'jug.png', 'image/png', await picture());
  await expect(page.getByText('“jug.png” was not opened.')).toBeVisible();
  await expect(page.getByText(/that computes could not be loaded/)).toBeVisible();
  await page.unroute(WORKER, refuse);
  await open(page, 'jug.png', 'image/png', await picture());
  await page.waitForURL('**/work/**');
  await settled(page);
});

test('charts that can’t be loaded are told where they would stand, and are there after reloading', async ({
  page
}) => {
  const isOfCharts = (text: string): boolean => text.length > 2e5 && /echarts/i.test(text);
  const missing = async (route: Route): Promise<void> => {
    const response = await route.fetch();
    if (isOfCharts(await response.text())) await route.abort();
    else await route.fulfill({ response });
  };
  await page.route(/_app\/immutable\/.*\.js$/, missing);
  await page.goto('/');
  await open(page, 'jug.png', 'image/png', await picture());
  await page.waitForURL('**/work/**');
  await settled(page);
  const histogram = page.getByRole('region', { name: 'Histogram' });
  await expect(histogram.getByText(/charts could not be loaded/)).toBeVisible();
  await expect(histogram.locator('canvas')).toHaveCount(0);
  await page.unrouteAll({ behavior: 'wait' });
  await page.reload();
  await expect(histogram.locator('canvas')).toBeVisible();
  await expect(histogram.getByText(/could not be loaded/)).toBeHidden();
});

test('a codec that can’t be loaded is not the file’s fault, and is tried again', async ({ page }) => {
  const jpeg = await sharp(await picture())
    .jpeg()
    .toBuffer();
  const missing = (route: Route): Promise<void> => route.fulfill({ status: 404, body: '' });
  await page.route(/mozjpeg_dec/, missing);
  await page.goto('/');
  await open(page, 'jug.jpg', 'image/jpeg', jpeg);
  await expect(page.getByText(/that reads JPEG files could not be loaded/)).toBeVisible();
  await expect(page.getByText(/damaged/)).toHaveCount(0);
  await page.unroute(/mozjpeg_dec/, missing);
  await open(page, 'jug.jpg', 'image/jpeg', jpeg);
  await page.waitForURL('**/work/**');
  await settled(page);
});

/** Workers whose behaviour a test can change: by what it says over a channel. */
async function spoilt(page: Page): Promise<(how: 'hangs' | 'fails' | 'throws' | '') => Promise<void>> {
  await page.route(WORKER, async (route) => {
    const answer = await route.fetch();
    const body = `${await answer.text()}
      ;{ let how = '';
         const asleep = new Int32Array(new WebAssembly.Memory({ initial: 1, maximum: 1, shared: true }).buffer);
         new BroadcastChannel('spoil').onmessage = ({ data }) => { how = data; };
         const take = self.onmessage;
         const jobs = (m) => m.type === 'job' ? [m] : m.type === 'together' ? m.messages.flatMap(jobs) : [];
         self.onmessage = (event) => {
           const tiles = jobs(event.data).filter(({ job }) => job.kind === 'tile');
           if (how && tiles.length > 0) {
             // An endless loop, which leaves the machine to the others.
             if (how === 'hangs') for (;;) Atomics.wait(asleep, 0, 0, 50);
             if (how === 'throws') throw new Error('spoilt');
             for (const { number } of tiles)
               self.postMessage({ type: 'failure', number, error: { name: 'RangeError', message: 'spoilt' } });
             // All else goes on as ever.
             const rest = event.data.type === 'together' ? event.data.messages.filter((m) => m.type !== 'job') : [];
             take({ data: { type: 'together', messages: rest } });
             return;
           }
           take(event);
         }; }`;
    await route.fulfill({ response: answer, body });
  });
  return async (how) => {
    await page.evaluate((data) => new BroadcastChannel('spoil').postMessage(data), how);
    await page.waitForTimeout(200);
  };
}

test('tiles that fail are told over the picture, and come when tried again', async ({ page }) => {
  const spoil = await spoilt(page);
  await page.goto('/');
  await open(page, 'jug.png', 'image/png', await picture());
  await page.waitForURL('**/work/**');
  await settled(page);
  await begin(page, 'A look');
  await spoil('fails');
  await page.getByRole('button', { name: 'Swap red and blue' }).click();
  const told = page.getByText(/Not computed:.*The picture/);
  await expect(told).toBeVisible();
  await expect(page.getByText(/inside \(spoilt\).*the document itself is whole/)).toBeVisible();
  await expect(page.locator('footer [data-save]')).toHaveText('saved');
  await spoil('');
  await page.getByRole('button', { name: 'Try again' }).click();
  await expect(told).toHaveCount(0);
  await settled(page);
});

for (const how of ['hangs', 'throws'] as const) {
  test(`a worker that ${how} is replaced, and the picture comes`, async ({ page }) => {
    const spoil = await spoilt(page);
    await page.goto('/');
    await open(page, 'jug.png', 'image/png', await picture());
    await page.waitForURL('**/work/**');
    await settled(page);
    await begin(page, 'A look');
    await spoil(how);
    await page.evaluate(() => performance.clearMeasures('kromba:settled'));
    await page.getByRole('button', { name: 'Swap red and blue' }).click();
    // Those that come in the place of the spoilt ones have not heard of it.
    await page.waitForFunction(() => performance.getEntriesByName('kromba:settled').length > 0, null, {
      polling: 40,
      timeout: 150_000
    });
    await expect(page.getByText(/Not computed/)).toHaveCount(0);
  });
}

/** The most memory that the page's process has ever taken, in MB. */
async function peak(page: Page): Promise<number> {
  const session = await page.context().browser()!.newBrowserCDPSession();
  const { processInfo } = await session.send('SystemInfo.getProcessInfo');
  await session.detach();
  const peaks = await Promise.all(
    processInfo
      .filter(({ type }) => type === 'renderer')
      .map(async ({ id }) => {
        const status = await readFile(`/proc/${id}/status`, 'utf8').catch(() => '');
        return Number(/VmHWM:\s+(\d+)/.exec(status)?.[1] ?? 0) / 1024;
      })
  );
  return Math.max(...peaks);
}

test('files built to hang or to fill memory are answered in the browser', async ({ page }, info) => {
  test.setTimeout(600_000);
  await page.goto('/');
  await expect(page.getByRole('button', { name: 'Open pictures' })).toBeEnabled();
  const input = page.getByLabel('Pictures or Kromba documents');
  const cards = page.getByRole('list', { name: 'Documents', exact: true }).getByRole('listitem');
  const figures: string[] = [];
  let before = await peak(page);
  for (const { name, make, says } of hostileFiles) {
    const path = info.outputPath(name);
    await writeFile(path, await make());
    const start = Date.now();
    await input.setInputFiles(path);
    const told = page.locator('.messages');
    if (says) {
      await expect(told.getByText(`“${name}” was not opened.`)).toBeVisible({ timeout: 10_000 });
      await expect(told).toContainText(says);
    } else await page.waitForURL('**/work/**', { timeout: 10_000 });
    const time = Date.now() - start;
    const most = await peak(page);
    figures.push(`${name}: ${time} ms, ${Math.round(most - before)} MB`);
    // A second time where the machine was busy with something else is not worth its cost: half as much again is room for it.
    expect.soft(time, name).toBeLessThan(7500);
    expect.soft(most - before, name).toBeLessThan(1024);
    before = Math.max(before, most);
    if (says) {
      await told.getByRole('button').click();
      await expect(told).toBeEmpty();
    } else {
      await settled(page);
      await page.getByRole('link', { name: 'Kromba' }).click();
      await expect(cards.first()).toBeVisible();
    }
  }
  await info.attach('figures', { body: figures.join('\n') });
});
