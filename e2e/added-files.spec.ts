import type { Page } from '@playwright/test';
import sharp from 'sharp';
import {
  addStep,
  expect,
  fillStorage,
  give,
  openPart,
  openPlain,
  openSample,
  plainFile,
  settled,
  storageMayBeFull,
  test,
  type GivenFile
} from './bench-page';

/** A table of 2³ that turns a picture about. */
const table = (name: string): GivenFile => ({
  ...{ name, mimeType: 'text/plain' },
  buffer: Buffer.from(
    `LUT_3D_SIZE 2\n${[0, 1].flatMap((b) => [0, 1].flatMap((g) => [0, 1].map((r) => `${1 - r} ${1 - g} ${1 - b}`))).join('\n')}`
  )
});

test('files that are dropped on the bench come in whole or not at all', async ({ page }) => {
  await storageMayBeFull(page.context());
  await openSample(page, 'Glaze tiles', '');
  const steps = page.getByRole('navigation', { name: 'Path' }).locator('.choose');
  const chosen = page.getByRole('combobox', { name: 'Table' });
  const tile = page
    .getByRole('group', { name: 'Pictures' })
    .getByRole('button', { name: 'tile', exact: true });
  await addStep(page, 'LUT');
  await settled(page);
  const before = await steps.count();

  // On full storage nothing comes in, and the step that is there takes no table.
  await fillStorage(page, true);
  await give(page, 'drop', [table('turned.cube'), table('other.cube')]);
  const full = page.getByText(/is full\. Everything saved before is untouched\..* Nothing was added\./);
  await expect(full).toBeVisible();
  await expect(steps).toHaveCount(before);
  await expect(chosen.getByRole('option')).toHaveText(['none in this document yet']);
  await page.getByRole('button', { name: 'Close notification' }).click();
  await expect(full).toBeHidden();
  const frame = await plainFile('tile');
  await give(page, 'drop', [frame]);
  await expect(full).toBeVisible();
  await fillStorage(page, false);

  // A table that can’t be read takes nothing with it that was done before.
  const broken = { ...table('broken.cube'), buffer: Buffer.from('LUT_3D_SIZE 2\n0 0 0\n') };
  await give(page, 'drop', [table('turned.cube'), broken, frame]);
  await expect(
    page.getByText(/“broken.cube”: Line 2: 8 rows are announced.* Nothing was added\./)
  ).toBeVisible();
  await expect(steps).toHaveCount(before);

  // Two tables that are the same are one, in two steps.
  await give(page, 'drop', [table('turned.cube'), table('again.cube'), frame]);
  await expect(page.getByText('“tile.png” is a picture of this document now.')).toBeVisible();
  await expect(steps).toHaveCount(before + 2);
  await expect(chosen.getByRole('option')).toHaveText(['choose one', 'turned']);
  await expect(chosen.getByRole('option', { selected: true })).toHaveText('turned');
  await expect(tile).toBeVisible();
  await settled(page);
  // All of it is one change.
  await page.keyboard.press('Control+z');
  await expect(steps).toHaveCount(before);
  await expect(tile).toBeHidden();
  await steps.last().click();
  await expect(chosen.getByRole('option')).toHaveText(['none in this document yet']);
  // And it stays, as it came.
  await page.keyboard.press('Control+Shift+z');
  await expect(tile).toBeVisible();
  await expect(page.getByText('saved', { exact: true })).toBeVisible();
  await page.reload();
  await expect(steps).toHaveCount(before + 2);
  await tile.click();
  await expect(tile).toHaveAttribute('aria-pressed', 'true');
  await settled(page);
});

/** Has what a page adds wait, until what is given back is called. */
async function heldUp(page: Page): Promise<() => Promise<void>> {
  await page.evaluate(
    () =>
      new Promise<void>((held) => {
        void navigator.locks.request(
          'kromba-files',
          () =>
            new Promise<void>((end) => {
              window.addEventListener('let-go', () => end());
              held();
            })
        );
      })
  );
  return () => page.evaluate(() => void window.dispatchEvent(new Event('let-go')));
}

test('what takes long to come in is told, and can be cancelled by keyboard', async ({ page }) => {
  await openSample(page, 'Glaze tiles', '');
  await addStep(page, 'LUT');
  await settled(page);
  const letGo = await heldUp(page);
  const warm = table('warm.cube');
  const choosing = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Add a table from a file …' }).press('Enter');
  await (await choosing).setFiles({ ...warm });
  const coming = page.getByText('Adding “warm.cube” …');
  await expect(coming).toBeVisible();
  await page.getByRole('button', { name: 'Cancel' }).press('Enter');
  await expect(page.getByText('Adding was cancelled. Nothing was added.')).toBeVisible();
  await expect(coming).toBeHidden();

  // The same file can be given again; the page asks before it is left with that.
  const again = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Add a table from a file …' }).press('Enter');
  await (await again).setFiles({ ...warm });
  await expect(coming).toBeVisible();
  const asked = page.waitForEvent('dialog');
  const reloading = page.reload({ timeout: 5000 }).catch(() => undefined);
  const dialog = await asked;
  expect(dialog.type()).toBe('beforeunload');
  await dialog.dismiss();
  await reloading;
  await letGo();
  const chosen = page.getByRole('combobox', { name: 'Table' });
  await expect(chosen.getByRole('option', { selected: true })).toHaveText('warm');
  await expect(coming).toBeHidden();
  await settled(page);
});

test('a mask from a file goes to the step that it was asked for, whatever is selected by then, or is cancelled', async ({
  page
}) => {
  await openSample(page, 'Glaze tiles', '');
  await addStep(page, 'Mix');
  await addStep(page, 'Invert');
  await openPart(page, 'Where');
  const letGo = await heldUp(page);
  const ramp = {
    ...{ name: 'ramp.png', mimeType: 'image/png' },
    buffer: await sharp(
      Uint8Array.from({ length: 2400 * 1600 }, (_, i) => ((i % 2400) / 2399) * 255),
      { raw: { width: 2400, height: 1600, channels: 1 } }
    )
      .png()
      .toBuffer()
  };
  const file = page.getByLabel('File of a mask');
  const coming = page.getByText('Adding “ramp.png” …');
  await file.setInputFiles(ramp);
  await expect(coming).toBeVisible();
  await page.getByRole('button', { name: 'Cancel' }).press('Enter');
  // It is no fault: it is told with the other notices.
  await expect(page.getByText('Adding was cancelled. The mask is as it was.')).toBeVisible();
  await expect(page.getByRole('region', { name: 'Where' }).getByRole('alert')).toHaveCount(0);

  await file.setInputFiles(ramp);
  await expect(coming).toBeVisible();
  const path = page.getByRole('navigation', { name: 'Path' }).locator('.choose');
  await path.nth(1).click();
  await letGo();
  await expect(coming).toBeHidden();
  const terms = page.getByRole('list', { name: 'Terms of the mask' }).getByRole('listitem');
  await openPart(page, 'Where');
  await expect(page.getByText('No term yet: the step acts everywhere.')).toBeVisible();
  await path.nth(2).click();
  await openPart(page, 'Where');
  await expect(terms).toContainText('red of ramp');
  await expect(page.getByLabel('Coverage')).toHaveText(/^(49|50)\.\d %$/);
});

test('what comes in while the document is left is there when it is opened again', async ({ page }) => {
  await openSample(page, 'Glaze tiles', '');
  await settled(page);
  const address = page.url();
  const letGo = await heldUp(page);
  await give(page, 'drop', [await plainFile('tile')]);
  await expect(page.getByText('Adding “tile.png” …')).toBeVisible();
  await page
    .getByRole('link', { name: /Documents|Kromba/ })
    .first()
    .click();
  await page.waitForURL('/');
  // The page does not wait for it; who opens the document again does.
  const card = page.getByRole('list', { name: 'Documents', exact: true }).getByRole('link').first();
  await expect(card).toBeVisible();
  await expect(page.getByRole('region', { name: 'Samples' }).getByRole('button').first()).toBeVisible();
  await card.click();
  await page.waitForURL(address);
  await expect(page.getByText('Opening the picture …')).toBeVisible();
  await letGo();
  await expect(
    page.getByRole('group', { name: 'Pictures' }).getByRole('button', { name: 'tile', exact: true })
  ).toBeVisible();
  await settled(page);
});

test('what comes in while another tab takes the document over does not', async ({ page, context }) => {
  await openSample(page, 'Glaze tiles', '');
  await settled(page);
  const other = await context.newPage();
  await other.goto(page.url());
  await expect(other.getByText('follows', { exact: true })).toBeVisible();
  const letGo = await heldUp(page);
  await give(page, 'drop', [await plainFile('tile')]);
  await expect(page.getByText('Adding “tile.png” …')).toBeVisible();
  await other.getByRole('button', { name: 'Edit here' }).click();
  await expect(other.getByRole('button', { name: 'Edit here' })).toBeHidden();
  await letGo();
  await expect(
    page.getByText(/This document is edited in another tab\. .* Nothing was added\./).first()
  ).toBeVisible();
  await give(other, 'drop', [await plainFile('mine')]);
  await expect(other.getByText('“mine.png” is a picture of this document now.')).toBeVisible();
  for (const tab of [page, other])
    await expect(tab.getByRole('group', { name: 'Pictures' }).getByRole('button')).toContainText([
      'Glaze tiles',
      'mine'
    ]);
});

test('a frame that is one too many is refused in words, and the document stays', async ({ page }) => {
  await openPlain(page, 'kiln');
  await page.goto('/');
  await expect(page.getByRole('button', { name: 'Open pictures' })).toBeEnabled();
  // As many frames as there may be, all of one file.
  await page.evaluate(async () => {
    const done = <T>(request: IDBRequest<T>): Promise<T> =>
      new Promise((resolve, reject) => {
        request.onsuccess = () => resolve(request.result);
        request.onerror = () => reject(request.error!);
      });
    const database = await done(indexedDB.open('kromba'));
    const documents = database.transaction('documents', 'readwrite').objectStore('documents');
    const [stored] = (await done(documents.getAll())) as {
      document: { frames: { id: string; name: string; file: string }[] };
      files: Record<string, string>;
    }[];
    const [first] = stored.document.frames;
    for (let i = 1; i < 1000; i++) {
      stored.document.frames.push({ ...first, id: `more ${i}`, name: `kiln ${i}`, file: `kiln ${i}.png` });
      stored.files[`more ${i}`] = stored.files[first.id];
    }
    await done(documents.put(stored));
    database.close();
  });
  await page.getByRole('list', { name: 'Documents', exact: true }).getByRole('link').first().click();
  await page.waitForURL('**/work/**');
  await settled(page);
  await give(page, 'drop', [await plainFile('more')]);
  await expect(page.getByText('A document takes at most 1000 frames. Nothing was added.')).toBeVisible();
  await settled(page);
  await expect(
    page.getByRole('group', { name: 'Pictures' }).getByRole('button', { name: 'kiln' })
  ).toBeVisible();
});
