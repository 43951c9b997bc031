import type { Locator, Page } from '@playwright/test';
import sharp from 'sharp';
import { addStep, begin, expect, openPart, openSample, settled, test } from './bench-page';

const steps = (page: Page): Locator => page.getByRole('navigation', { name: 'Path' }).locator('.chip .title');

async function choose(page: Page, of: string, item: string): Promise<void> {
  await page.getByRole('button', { name: of }).press('Enter');
  await page.getByRole('menuitem', { name: item, exact: true }).press('Enter');
}

/** Opens a dialog twice, when it is made and when it is there, and goes round it by keys. */
async function goRound(page: Page, name: string, open: () => Promise<void>, back: Locator): Promise<void> {
  const dialog = page.getByRole('dialog', { name });
  const inside = (): Promise<boolean> => dialog.evaluate((d) => d.contains(document.activeElement));
  const nowhere = (): Promise<void> => page.evaluate(() => (document.activeElement as HTMLElement).blur());
  for (const time of ['made', 'there']) {
    await open();
    await expect(dialog).toBeVisible();
    await expect.poll(inside, { message: `${name}, ${time}` }).toBe(true);
    for (const key of [...Array<string>(14).fill('Tab'), ...Array<string>(3).fill('Shift+Tab')]) {
      await page.keyboard.press(key);
      expect(await inside(), `${name}, ${time}, ${key}`).toBe(true);
    }
    await nowhere();
    // What lies behind takes no key.
    for (const key of ['x', 'Delete', 'd']) await page.keyboard.press(key);
    await page.keyboard.press('Tab');
    expect(await inside(), `${name}, ${time}, from nowhere`).toBe(true);
    if (time === 'there') await nowhere();
    await page.keyboard.press('Escape');
    await expect(dialog).toBeHidden();
    await expect(back, `${name}, ${time}`).toBeFocused();
  }
}

test('every dialog has the focus while it is open, wherever it was opened, and Escape closes it', async ({
  page
}) => {
  await page.context().addInitScript(() => {
    const { put } = IDBObjectStore.prototype;
    IDBObjectStore.prototype.put = function (...given) {
      if (localStorage.getItem('full')) throw new DOMException('full', 'QuotaExceededError');
      return put.apply(this, given);
    };
  });
  const png = (background: string): Promise<Buffer> =>
    sharp({ create: { width: 60, height: 40, channels: 3, background } })
      .png()
      .toBuffer();
  await page.goto('/');
  await page
    .getByLabel('Pictures or Kromba documents')
    .setInputFiles({ name: 'jug.png', mimeType: 'image/png', buffer: await png('#a63') });
  await page.waitForURL('**/work/**');
  await settled(page);
  await begin(page, 'A look');
  await openPart(page, 'Where');
  await page
    .getByLabel('File of a mask')
    .setInputFiles({ name: 'lid.png', mimeType: 'image/png', buffer: await png('#888') });
  const pictures = page.getByRole('group', { name: 'Pictures' });
  const lid = pictures.getByRole('button', { name: 'lid', exact: true });
  await lid.click();
  await expect(lid).toHaveAttribute('aria-pressed', 'true');
  await page.getByRole('button', { name: 'Looks', exact: true }).press('Enter');

  const menu = page.getByRole('button', { name: 'What to do with this picture' });
  const ofPicture = (item: string) => (): Promise<void> => choose(page, 'What to do with this picture', item);
  await goRound(page, 'Frames', ofPicture('Table of frames …'), menu);
  await goRound(page, 'Remove the picture “lid”?', ofPicture('Remove'), menu);

  await pictures.getByRole('button', { name: 'jug', exact: true }).click();
  const exporting = page.getByRole('banner').getByRole('button', { name: 'Export' });
  await goRound(page, 'Export the picture', () => exporting.press('Enter'), exporting);
  await goRound(page, 'Keys', () => exporting.press('?'), exporting);

  const keeping = page.getByRole('button', { name: 'Keep a look …' });
  await goRound(page, 'Keep a look', () => keeping.press('Enter'), keeping);
  const look = page.getByRole('region', { name: 'Looks' }).locator('.card').first();
  const name = await look.locator('.name').innerText();
  const puttingOn = (): Promise<void> => choose(page, `What to do with ${name}`, 'Put on pictures …');
  const ofLook = page.getByRole('button', { name: `What to do with ${name}` });
  await goRound(page, `Put on “${name}”`, puttingOn, ofLook);

  // What keys did while a dialog was open would be more pictures, or a step switched off or gone.
  await expect(pictures.getByRole('listitem')).toHaveText(['jug', 'lid']);
  await expect(steps(page)).toHaveText(['Source', 'Mix']);
  await expect(page.getByRole('button', { name: 'Mix on', exact: true })).toHaveAttribute(
    'aria-pressed',
    'true'
  );

  await page.evaluate(() => localStorage.setItem('full', '1'));
  await addStep(page, 'Invert');
  await expect(page.locator('footer [data-save]')).toHaveText('not saved');
  const home = page.getByRole('link', { name: 'Kromba' });
  await goRound(page, 'Leave without saving?', () => home.press('Enter'), home);
  await page.evaluate(() => localStorage.removeItem('full'));
  await addStep(page, 'Invert');
  await expect(page.locator('footer [data-save]')).toHaveText('saved');

  await home.press('Enter');
  await page.waitForURL((url) => url.pathname === '/');
  await choose(page, 'What to do with jug', 'Delete');
  await page.locator('details').evaluate((d: HTMLDetailsElement) => (d.open = true));
  const ending = page.getByRole('button', { name: 'Delete for good' });
  await goRound(page, 'Delete “jug” for good?', () => ending.press('Enter'), ending);
});

test('an export that was begun by keys is cancelled by Escape, and what lies behind takes no key', async ({
  page
}) => {
  await openSample(page, 'Jug under lamps');
  await page.keyboard.press('e');
  const dialog = page.getByRole('dialog', { name: 'Export the picture' });
  await dialog.getByLabel('Format').selectOption('avif');
  await dialog.getByRole('button', { name: 'Export' }).press('Enter');
  await expect(dialog.getByText(/Computing the picture|Writing the file/)).toBeVisible();
  await expect(dialog.getByRole('button', { name: 'Export' })).toBeDisabled();
  for (const key of ['x', 'Delete', 'd']) await page.keyboard.press(key);
  await page.keyboard.press('Escape');
  await expect(dialog).toBeHidden();
  await expect(page.getByRole('button', { name: 'Mix on', exact: true })).toHaveAttribute(
    'aria-pressed',
    'true'
  );
  await expect(page.getByRole('group', { name: 'Pictures' }).getByRole('listitem')).toHaveCount(1);
});

test('the list of steps closes by Escape wherever in it the focus is, and as the focus leaves it', async ({
  page
}) => {
  await openSample(page, 'Jug under lamps');
  const list = page.getByRole('dialog', { name: 'Add a step' });
  const field = page.getByLabel('Search the steps');
  await page.keyboard.press('a');
  await expect(field).toBeFocused();
  await page.keyboard.press('Tab');
  await expect(list.getByRole('listbox')).toBeFocused();
  await page.keyboard.press('ArrowDown');
  await expect(list.getByRole('option').nth(1)).toHaveAttribute('aria-selected', 'true');
  await page.keyboard.press('Escape');
  await expect(list).toBeHidden();
  await expect(page.getByRole('button', { name: 'Add a step' })).toBeFocused();

  await page.keyboard.press('a');
  await expect(field).toBeFocused();
  for (let i = 0; i < 3 && (await list.isVisible()); i++) await page.keyboard.press('Tab');
  await expect(list).toBeHidden();
  await expect(steps(page)).toHaveText(['Source', 'Mix']);
});
