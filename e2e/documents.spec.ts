import type { ElementHandle, Locator } from '@playwright/test';
import sharp, { type Sharp } from 'sharp';
import { damagedFiles, type DamagedFile } from './damaged-files';
import { addStep, begin, expect, give, plainFile, plainPng, reading, settled, test } from './bench-page';

const picture = (colour: string): Promise<Buffer> => plainPng(colour, 300, 200);

test('documents are opened, renamed, duplicated, deleted and brought back', async ({ page }) => {
  await page.goto('/');
  await expect(page.getByText('No documents yet')).toBeVisible();
  const input = page.getByLabel('Pictures or Kromba documents');
  await input.setInputFiles([
    { name: 'first.png', mimeType: 'image/png', buffer: await picture('#a52') },
    { name: 'second.png', mimeType: 'image/png', buffer: await picture('#25a') }
  ]);
  const cards = page.getByRole('list', { name: 'Documents', exact: true }).getByRole('listitem');
  await expect(cards).toHaveCount(2);
  // In the order in which they were given.
  await expect(cards.first()).toContainText('first');
  await expect(cards.last()).toContainText('second');

  await cards.last().getByRole('button', { name: 'What to do with second' }).click();
  await page.getByRole('menuitem', { name: 'Rename' }).click();
  await page
    .getByLabel('Name of the document')
    .fill('A very long name of a document that goes on and on, well past the edge of its card');
  await page.keyboard.press('Enter');
  // What was changed last stands first.
  await expect(cards.first()).toContainText('A very long name');

  await cards.getByRole('button', { name: 'What to do with first' }).click();
  await page.getByRole('menuitem', { name: 'Duplicate' }).click();
  await expect(cards).toHaveCount(3);
  await expect(cards.first()).toContainText('first copy');

  await cards.first().getByRole('button', { name: 'What to do with first copy' }).click();
  await page.getByRole('menuitem', { name: 'Delete' }).click();
  await expect(cards).toHaveCount(2);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(cards).toHaveCount(3);
  await page.reload();
  await expect(cards).toHaveCount(3);
});

test('what is deleted by keyboard gives the focus to the row in its place', async ({ page }) => {
  await page.goto('/');
  const names = ['first', 'second', 'third'];
  const files = await Promise.all(names.map((name) => plainFile(name)));
  await page.getByLabel('Pictures or Kromba documents').setInputFiles(files);
  const menu = (name: string): Locator => page.getByRole('button', { name: `What to do with ${name}` });
  const remove = async (name: string): Promise<void> => {
    await menu(name).press('Enter');
    await page.getByRole('menuitem', { name: 'Delete' }).press('Enter');
  };
  await expect(menu('third')).toBeVisible();
  await remove('second');
  await expect(menu('third')).toBeFocused();
  await remove('third');
  await expect(menu('first')).toBeFocused();
  // The last of all: what follows the list, which is the list of what is deleted.
  await remove('first');
  const deleted = page.getByText('Deleted 3');
  await expect(page.locator('summary')).toBeFocused();
  await page.keyboard.press('Enter');
  const rows = page.getByRole('list', { name: 'Deleted documents' }).getByRole('listitem');
  await expect(deleted).toBeVisible();
  const end = async (row: Locator): Promise<void> => {
    await row.getByRole('button', { name: 'Delete for good' }).press('Enter');
    await page.getByRole('dialog').getByRole('button', { name: 'Delete for good' }).press('Enter');
  };
  await end(rows.first());
  await expect(rows).toHaveCount(2);
  await expect(rows.first().getByRole('button', { name: 'Delete for good' })).toBeFocused();
  await end(rows.last());
  await expect(rows).toHaveCount(1);
  await expect(rows.first().getByRole('button', { name: 'Delete for good' })).toBeFocused();
  await rows.first().getByRole('button', { name: 'Put back' }).press('Enter');
  await expect(rows).toHaveCount(0);
  await expect(page.locator('main :focus')).toHaveCount(1);
});

test('a document goes out as a bundle and comes back the same', async ({ page }, info) => {
  await page.goto('/');
  const input = page.getByLabel('Pictures or Kromba documents');
  await input.setInputFiles({ name: 'tile.png', mimeType: 'image/png', buffer: await picture('#7a5') });
  await page.waitForURL('**/work/**');
  await settled(page);
  // Red and blue exchanged.
  await begin(page, 'False colour');
  await settled(page);
  await page.getByRole('link', { name: 'Kromba' }).click();
  await page.getByRole('button', { name: 'What to do with tile' }).click();
  const download = page.waitForEvent('download');
  await page.getByRole('menuitem', { name: 'Export document' }).click();
  const bundle = info.outputPath('tile.kromba');
  await (await download).saveAs(bundle);
  await input.setInputFiles(bundle);
  await page.waitForURL('**/work/**');
  await settled(page);
  await expect(page.getByRole('textbox', { name: 'red gets blue in percent', exact: true })).toHaveValue(
    '100'
  );
});

/** Whether the middle of a card's small picture has about this colour. */
const isNear = (card: Locator, colour: readonly number[]): Promise<boolean> =>
  card.locator('canvas').evaluate((canvas: HTMLCanvasElement, colour) => {
    const { data } = canvas.getContext('2d')!.getImageData(canvas.width / 2, canvas.height / 2, 1, 1);
    return colour.every((v, c) => Math.abs(v - data[c]) < 6);
  }, colour);

test('what is done to a document that is just being left, or that another tab lets go, is done', async ({
  page
}) => {
  // Leaving takes as long as its small picture.
  await page.addInitScript(() => {
    const { postMessage } = Worker.prototype;
    interface Message {
      readonly job?: { readonly kind: string };
      readonly messages?: readonly Message[];
    }
    Worker.prototype.postMessage = function (this: Worker, message: Message, ...given: unknown[]) {
      const isThumbnail = (message.messages ?? [message]).some(({ job }) => job?.kind === 'thumbnail');
      const late = isThumbnail && localStorage.getItem('late');
      const post = (): void => Reflect.apply(postMessage, this, [message, ...given]);
      if (late) setTimeout(post, 7000);
      else post();
    };
  });
  await page.goto('/');
  await page.getByLabel('Pictures or Kromba documents').setInputFiles(await plainFile('tile'));
  await page.waitForURL('**/work/**');
  const id = page.url().split('/').at(-1)!;
  await settled(page);
  await begin(page, 'False colour');
  await settled(page);
  await page.evaluate(() => localStorage.setItem('late', 'yes'));
  await page.getByRole('link', { name: 'Kromba' }).click();
  const choose = async (item: string): Promise<void> => {
    await page
      .locator('.documents')
      .getByRole('button', { name: /^What to do with/ })
      .click();
    await page.getByRole('menuitem', { name: item }).click();
  };
  const exported = async (): Promise<void> => {
    const download = page.waitForEvent('download', { timeout: 4500 });
    await choose('Export document');
    await download;
  };
  await exported();
  await choose('Rename');
  await page.getByLabel('Name of the document').fill('tile that was left');
  await page.keyboard.press('Enter');
  await expect(page.locator('.documents b')).toHaveText('tile that was left', { timeout: 4500 });
  await page.evaluate(() => localStorage.removeItem('late'));

  // One that is closed before it answers.
  const other = await page.context().newPage();
  await other.goto('/');
  const held = (): Promise<unknown> =>
    page.evaluate(async () => (await navigator.locks.query()).held?.map(({ name }) => name));
  await expect.poll(held).not.toContain(`kromba-document-${id}`);
  await other.evaluate((name) => {
    void navigator.locks.request(name, () => new Promise((letGo) => setTimeout(letGo, 2500)));
  }, `kromba-document-${id}`);
  await expect.poll(held).toContain(`kromba-document-${id}`);
  await exported();
  await expect(page.getByRole('alert')).toHaveCount(0);
});

test('a document that is left at once is saved, and the page shows it as it was left', async ({ page }) => {
  await page.goto('/');
  await page
    .getByLabel('Pictures or Kromba documents')
    .setInputFiles({ name: 'red.png', mimeType: 'image/png', buffer: await picture('#e02010') });
  await page.waitForURL('**/work/**');
  await settled(page);
  // Red and blue exchanged.
  await begin(page, 'False colour');
  await page.getByRole('link', { name: 'Kromba' }).click();
  const card = page.getByRole('list', { name: 'Documents', exact: true }).getByRole('listitem');
  await expect(card.locator('canvas')).toBeVisible();
  // The card stands at once, with its small picture as it was before.
  await expect.poll(() => isNear(card, [0x10, 0x20, 0xe0])).toBe(true);
});

test('opening several files can be cancelled; what was opened before stays, and nothing of the rest', async ({
  page
}) => {
  await page.goto('/');
  const files = await Promise.all(
    Array.from({ length: 12 }, async (_, i) => ({
      name: `tile ${i}.png`,
      mimeType: 'image/png',
      buffer: await picture(`rgb(${20 * i}, 90, 60)`)
    }))
  );
  await page.getByLabel('Pictures or Kromba documents').setInputFiles(files);
  await expect(page.getByText(/Opening tile \d+\.png \(([2-9]|1[01]) of 12\)/)).toBeVisible();
  await page.getByRole('button', { name: 'Cancel' }).click();
  await expect(page.getByText(/^Opening/)).toHaveCount(0);
  const cards = page.getByRole('list', { name: 'Documents', exact: true }).getByRole('listitem');
  await expect(cards.first()).toBeVisible();
  const count = await cards.count();
  expect(count).toBeLessThan(12);
  await page.waitForTimeout(1500);
  await expect(cards).toHaveCount(count);
  // The page takes files as before.
  await page.getByLabel('Pictures or Kromba documents').setInputFiles(files[0]);
  await page.waitForURL('**/work/**');
  await settled(page);
});

test('damaged and lying files are told one by one and the application goes on', async ({ page }) => {
  await page.goto('/');
  const input = page.getByLabel('Pictures or Kromba documents');
  await expect(page.getByRole('button', { name: 'Open pictures' })).toBeEnabled();
  /** Milliseconds until the message stands. */
  const told = async ({ name, bytes, says }: DamagedFile): Promise<number> => {
    const start = Date.now();
    await input.setInputFiles({ name, mimeType: 'application/octet-stream', buffer: bytes });
    await expect(page.locator('.messages').getByText(`“${name}” was not opened.`)).toBeVisible({
      timeout: 6000
    });
    await expect(page.locator('.messages')).toContainText(says);
    const time = Date.now() - start;
    await page.locator('.messages').getByRole('button').click();
    await expect(page.locator('.messages')).toBeEmpty();
    return time;
  };
  for (const file of await damagedFiles()) {
    // Once more where the machine was busy with something else.
    const time = await told(file);
    expect(time < 2000 ? time : await told(file), file.name).toBeLessThan(2000);
  }
  await expect(page.getByRole('list', { name: 'Documents', exact: true })).toHaveCount(0);
  await input.setInputFiles({ name: 'good.png', mimeType: 'image/png', buffer: await picture('#888') });
  await page.waitForURL('**/work/**');
  await settled(page);
});

test('turned, wider-space, CMYK and float files are read in the browser as they are elsewhere', async ({
  page
}) => {
  const base = (): Sharp => sharp({ create: { width: 300, height: 200, channels: 3, background: '#f00' } });
  const ink = Buffer.alloc(64 * 48 * 4, 40);
  const cases: [name: string, file: Buffer, says: RegExp[]][] = [
    [
      'turned.jpg',
      await base().withMetadata({ orientation: 6 }).jpeg().toBuffer(),
      [/200 × 300 pixels/, /8-bit integers/]
    ],
    [
      'wide.png',
      await base().withIccProfile('p3', { attach: true }).png().toBuffer(),
      [/300 × 200 pixels/, /32-bit floats/]
    ],
    [
      'grey.tif',
      await base().toColourspace('grey16').tiff({ compression: 'lzw' }).toBuffer(),
      [/Channels\s*grey/, /16-bit integers/]
    ],
    [
      'ink.jpg',
      await sharp(ink, { raw: { width: 64, height: 48, channels: 4 } })
        .pipelineColourspace('cmyk')
        .toColourspace('cmyk')
        .jpeg()
        .toBuffer(),
      [/64 × 48 pixels/, /plain formula/]
    ]
  ];
  for (const [name, buffer, says] of cases) {
    await page.goto('/');
    await expect(page.getByRole('button', { name: 'Open pictures' })).toBeEnabled();
    await page
      .getByLabel('Pictures or Kromba documents')
      .setInputFiles({ name, mimeType: 'application/octet-stream', buffer });
    await page.waitForURL('**/work/**');
    await settled(page);
    await page.getByRole('button', { name: /^Source/ }).click();
    for (const text of says) await expect(page.getByRole('region', { name: /^Work/ })).toContainText(text);
  }
});

test('the page has a title and a word without script, and guards what it loads', async ({ request }) => {
  const answer = await request.get('/');
  const html = await answer.text();
  expect(html).toContain('<title>Kromba</title>');
  expect(html).toMatch(/<noscript>[\s\S]*JavaScript[\s\S]*<\/noscript>/);
  const policy = answer.headers()['content-security-policy'];
  expect(policy).toContain("default-src 'none'");
  expect(policy).toMatch(/script-src 'self' 'wasm-unsafe-eval' 'sha256-/);
  expect(policy).toContain("frame-ancestors 'none'");
  expect(answer.headers()).toMatchObject({
    'x-content-type-options': 'nosniff',
    'referrer-policy': 'no-referrer'
  });
  expect((await request.get('/', { headers: { Host: 'kiln.example' } })).status()).toBe(421);
});

test('a picture is dropped, and one is pasted', async ({ page }) => {
  await page.goto('/');
  await expect(page.getByRole('button', { name: 'Open pictures' })).toBeEnabled();
  const buffer = await picture('#fa0');
  for (const type of ['drop', 'paste'] as const) {
    await give(page, type, [{ name: `${type}ped.png`, mimeType: 'image/png', buffer }]);
    await page.waitForURL('**/work/**');
    await expect(page.getByRole('heading', { level: 1 })).toHaveText(`${type}ped`);
    await page.getByRole('link', { name: 'Kromba' }).click();
    await expect(page.getByRole('button', { name: 'Open pictures' })).toBeEnabled();
  }
});

test('small pictures are there again when their cards come back into view', async ({ page }) => {
  await page.setViewportSize({ width: 1024, height: 560 });
  await page.goto('/');
  const files = await Promise.all(
    Array.from({ length: 24 }, async (_, i) => ({
      name: `tile ${i}.png`,
      mimeType: 'image/png',
      buffer: await picture(`rgb(${10 * i}, 90, 60)`)
    }))
  );
  await page.getByLabel('Pictures or Kromba documents').setInputFiles(files);
  const cards = page.getByRole('list', { name: 'Documents', exact: true }).getByRole('listitem');
  await expect(cards).toHaveCount(24, { timeout: 150_000 });
  const first = cards.first().locator('canvas');
  for (let round = 0; round < 3; round++) {
    await cards.first().scrollIntoViewIfNeeded();
    await expect(first).toBeVisible();
    const drawn = (await first.elementHandle()) as ElementHandle<HTMLCanvasElement>;
    expect(await drawn.evaluate((canvas) => canvas.width)).toBe(300);
    await cards.last().scrollIntoViewIfNeeded();
    await expect(first).toHaveCount(0);
    // Its memory is given back at once, not when the browser next tidies up.
    expect(await drawn.evaluate((canvas) => canvas.width)).toBe(0);
    await drawn.dispose();
  }
});

test('a small picture in sight follows its document, and is none where it can’t be read', async ({
  page
}) => {
  await page.goto('/');
  const buffer = await picture('#e02010');
  await page
    .getByLabel('Pictures or Kromba documents')
    .setInputFiles({ name: 'red.png', mimeType: 'image/png', buffer });
  await page.waitForURL('**/work/**');
  await settled(page);
  const home = await page.context().newPage();
  await home.goto('/');
  const card = home.getByRole('list', { name: 'Documents', exact: true }).getByRole('listitem');
  await expect(card.locator('canvas')).toBeVisible();
  expect(await isNear(card, [0xe0, 0x20, 0x10])).toBe(true);
  // Red and blue exchanged.
  await begin(page, 'False colour');
  await expect.poll(() => isNear(card, [0x10, 0x20, 0xe0])).toBe(true);

  await home.evaluate(() => {
    window.createImageBitmap = () => Promise.reject(new DOMException('It can’t be decoded.'));
  });
  await addStep(page, 'Invert');
  // Not the older one, which would tell what is not so any more.
  await expect(card.getByText('no picture yet')).toBeVisible();
  await expect(card.locator('canvas')).toHaveCount(0);
});

test('a sample whose small picture can’t be had says so, and can be opened', async ({ page }) => {
  await page.route('**/samples/*.small.jpg', (route) =>
    route.request().url().includes('tiles') ? route.fulfill({ body: 'no picture' }) : route.continue()
  );
  await page.goto('/');
  const samples = page.getByRole('region', { name: 'Samples' }).getByRole('button');
  const without = samples.filter({ hasText: 'no picture of it here' });
  await expect(without).toHaveCount(1);
  await expect(without).toContainText('Glaze tiles');
  await without.click();
  await page.waitForURL('**/work/**');
  await settled(page);
});

test('what comes in after the page was left has its small picture', async ({ page }) => {
  let asked = (): void => undefined;
  let give = (): void => undefined;
  const wasAsked = new Promise<void>((resolve) => (asked = resolve));
  const given = new Promise<void>((resolve) => (give = resolve));
  await page.route(/\/samples\/(?!.*\.small\.jpg$).+/, async (route) => {
    asked();
    await given;
    await route.continue();
  });
  await page.goto('/');
  const samples = page.getByRole('region', { name: 'Samples' }).getByRole('button');
  await samples.filter({ hasText: 'Glaze tiles' }).click();
  await wasAsked;
  await page.getByRole('link', { name: 'Many files' }).click();
  await page.waitForURL('**/many');
  give();
  // It goes nowhere: the page to which the person went stays.
  await page.waitForTimeout(1500);
  expect(page.url()).toMatch(/\/many$/);
  await page.getByRole('link', { name: 'Kromba' }).click();
  const card = page.getByRole('list', { name: 'Documents', exact: true }).getByRole('listitem');
  await expect(card).toHaveText(/Glaze tiles/);
  await expect(card.locator('canvas')).toBeVisible();
});

test('what was drawn of a document gives its memory back as the document is left', async ({ page }) => {
  await page.addInitScript(() => {
    const drawn = new Set<ImageBitmap>();
    const { drawImage } = CanvasRenderingContext2D.prototype;
    CanvasRenderingContext2D.prototype.drawImage = function (...given: unknown[]) {
      if (given[0] instanceof ImageBitmap) drawn.add(given[0]);
      return (drawImage as (...given: unknown[]) => void).apply(this, given);
    };
    // One that is closed has no size.
    Object.assign(window, { openBitmaps: () => [...drawn].filter(({ width }) => width > 0).length });
  });
  const open = (): Promise<number> =>
    page.evaluate(() => (window as unknown as { openBitmaps: () => number }).openBitmaps());
  await page.goto('/');
  const sample = page
    .getByRole('region', { name: 'Samples' })
    .getByRole('button')
    .filter({ has: page.getByText('Glaze tiles', { exact: true }) });
  const small = sample.locator('canvas');
  await expect(small).toBeVisible();
  const drawn = (await small.elementHandle()) as ElementHandle<HTMLCanvasElement>;
  expect(await drawn.evaluate((canvas) => [canvas.width, canvas.height])).toEqual([480, 320]);
  await sample.click();
  await page.waitForURL('**/work/**');
  await settled(page);
  expect(await drawn.evaluate((canvas) => canvas.width)).toBe(0);
  await begin(page, 'A look');
  await addStep(page, 'Invert');
  await settled(page);
  // Tiles before and after the change.
  expect(await open()).toBeGreaterThan(12);
  await page.getByRole('link', { name: 'Kromba' }).click();
  await expect(page.getByRole('button', { name: 'Open pictures' })).toBeEnabled();
  await expect.poll(open).toBe(0);
  await expect(small).toBeVisible();
});

test('what is given before the documents are read is opened when they are', async ({ page }) => {
  // The browser's storage takes its time.
  await page.addInitScript(() => {
    const open = IDBFactory.prototype.open;
    let held = false;
    IDBFactory.prototype.open = function (...asked) {
      const request = open.apply(this, asked);
      if (held) return request;
      held = true;
      const listen = request.addEventListener.bind(request);
      request.addEventListener = (type: string, listener: unknown, ...more: unknown[]) =>
        listen(
          type,
          (event) => {
            const hear = (): void => (listener as (event: Event) => void).call(request, event);
            if (type === 'success') setTimeout(hear, 4000);
            else hear();
          },
          ...(more as [])
        );
      return request;
    };
  });
  await page.goto('/');
  await page.getByLabel('Pictures or Kromba documents').setInputFiles(await plainFile('early'));
  await expect(page.getByRole('button', { name: 'Open pictures' })).toBeDisabled();
  await page.waitForURL('**/work/**');
  await settled(page);
});

test('of a TIFF of several pictures the one is chosen that is wanted', async ({ page }) => {
  const both = await Promise.all(['#333333', '#999999'].map(picture));
  const buffer = await sharp(both, { join: { animated: true } })
    .tiff({ compression: 'lzw' })
    .toBuffer();
  await page.goto('/');
  await page
    .getByLabel('Pictures or Kromba documents')
    .setInputFiles({ name: 'bracket.tif', mimeType: 'image/tiff', buffer });
  await page.waitForURL('**/work/**');
  await settled(page);
  await expect(page.getByText('The file holds 2 pictures; this is number 1.')).toBeVisible();
  const lightness = async (): Promise<number> => {
    await page.getByLabel('The picture', { exact: true }).hover();
    return (await reading(page, 'in'))['rgb.r'];
  };
  expect(await lightness()).toBeCloseTo(20, 0);
  await page.getByLabel('Part of the file').selectOption({ label: 'Picture 2, 300 × 200' });
  await settled(page);
  await expect.poll(lightness).toBeCloseTo(60, 0);
  await page.keyboard.press('Control+z');
  await settled(page);
  await expect.poll(lightness).toBeCloseTo(20, 0);
  await page.keyboard.press('Control+Shift+z');
  await expect.poll(lightness).toBeCloseTo(60, 0);
  await settled(page);
  await page.reload();
  await settled(page);
  await expect(page.getByLabel('Part of the file')).toHaveValue('1');
  await expect.poll(lightness).toBeCloseTo(60, 0);
});
