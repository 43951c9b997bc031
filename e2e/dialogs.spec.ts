import type { Locator, Page } from '@playwright/test';
import {
  addStep,
  begin,
  expect,
  fillStorage,
  give,
  openPart,
  openPlain,
  openSample,
  plainFile,
  settled,
  storageMayBeFull,
  test
} from './bench-page';

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
  await storageMayBeFull(page.context());
  await openPlain(page, 'jug');
  await begin(page, 'A look');
  await openPart(page, 'Where');
  await page.getByLabel('File of a mask').setInputFiles(await plainFile('lid', '#888'));
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

  await fillStorage(page, true);
  await addStep(page, 'Invert');
  await expect(page.locator('footer [data-save]')).toHaveText('not saved');
  const home = page.getByRole('link', { name: 'Kromba' });
  await goRound(page, 'Leave without saving?', () => home.press('Enter'), home);
  await expect(steps(page)).toHaveText(['Source', 'Mix', 'Invert']);
  await fillStorage(page, false);
  await addStep(page, 'Invert');
  await expect(page.locator('footer [data-save]')).toHaveText('saved');

  await home.press('Enter');
  await page.waitForURL((url) => url.pathname === '/');
  await choose(page, 'What to do with jug', 'Delete');
  await page.locator('details').evaluate((d: HTMLDetailsElement) => (d.open = true));
  const ending = page.getByRole('button', { name: 'Delete for good' });
  await goRound(page, 'Delete “jug” for good?', () => ending.press('Enter'), ending);
  await expect(page.locator('ul[aria-label="Deleted documents"] > li')).toHaveCount(1);
});

test('a click beside a dialog is for nothing that lies behind, and what is dropped or pasted on it comes in nowhere', async ({
  page
}) => {
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  await openPlain(page, 'jug');
  await begin(page, 'A look');
  const pictures = page.getByRole('group', { name: 'Pictures' }).getByRole('listitem');
  const exporting = page.getByRole('banner').getByRole('button', { name: 'Export' });
  const dialog = page.getByRole('dialog', { name: 'Export the picture' });
  const list = page.getByRole('dialog', { name: 'Add a step' });
  const keys = page.getByRole('dialog', { name: 'Keys' });
  // Over the button that adds a step.
  const { x, y } = (await page.getByRole('button', { name: 'Add a step' }).boundingBox())!;
  await exporting.press('?');
  await expect(keys).toBeVisible();
  await page.mouse.click(x + 4, y + 4);
  await expect(keys).toBeHidden();
  await expect(exporting).toBeFocused();
  await expect(list).toBeHidden();

  // What is being set is not lost by it.
  await exporting.click();
  await expect(dialog).toBeVisible();
  await page.mouse.click(x + 4, y + 4);
  await expect(list).toBeHidden();
  await expect(dialog).toBeVisible();
  const name = dialog.getByLabel('Name');
  for (const on of [page.locator('body'), dialog, name, dialog.getByRole('combobox').first()])
    for (const type of ['drop', 'paste'] as const)
      await give(page, type, [await plainFile('behind', '#163')], on);
  // Text goes into its fields as ever.
  await page.evaluate(() => navigator.clipboard.writeText('from the clipboard'));
  await name.fill('');
  await name.press('Control+v');
  await expect(name).toHaveValue('from the clipboard');
  await expect(dialog).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(dialog).toBeHidden();
  await expect(steps(page)).toHaveText(['Source', 'Mix']);
  // What comes in comes in one after another: had the others been taken, they would stand before it.
  await give(page, 'drop', [await plainFile('lid', '#888')]);
  await expect(page.getByText('“lid.png” is a picture of this document now.')).toBeVisible();
  await expect(pictures).toHaveText(['jug', 'lid']);
});

test('a menu whose item opens nothing gives the focus back to its button', async ({ page }) => {
  await openPlain(page, 'jug');
  await begin(page, 'A look');
  const ofStep = page.getByRole('button', { name: /^What to do with Mix/ });
  await ofStep.press('Enter');
  await page.getByRole('menuitem', { name: 'Copy', exact: true }).press('Enter');
  await expect(page.getByRole('menuitem')).toHaveCount(0);
  await expect(ofStep).toBeFocused();
});

test('the table of frames leaves out what can’t be read and says so, and lies on the clipboard when it says so', async ({
  page
}) => {
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  await openPlain(page, 'jug');
  await give(page, 'drop', [await plainFile('lid', '#888')]);
  await expect(page.getByText('“lid.png” is a picture of this document now.')).toBeVisible();
  await page
    .getByRole('group', { name: 'Pictures' })
    .getByRole('button', { name: 'jug', exact: true })
    .click();
  await expect(page.locator('footer [data-save]')).toHaveText('saved');
  const work = page.url();
  await page.goto('/');
  await expect(page.getByRole('list', { name: 'Documents', exact: true }).getByRole('link')).toHaveCount(1);
  // The file of the second frame is spoilt where it lies.
  await page.evaluate(async () => {
    const done = <T>(request: IDBRequest<T>): Promise<T> =>
      new Promise((resolve, reject) => {
        request.onsuccess = () => resolve(request.result);
        request.onerror = () => reject(new Error(String(request.error)));
      });
    const database = await done(indexedDB.open('kromba'));
    const stores = database.transaction(['documents', 'files'], 'readwrite');
    const [{ document, files }] = (await done(stores.objectStore('documents').getAll())) as {
      document: { frames: { id: string; name: string }[] };
      files: Record<string, string>;
    }[];
    const { id } = document.frames.find(({ name }) => name === 'lid')!;
    await done(stores.objectStore('files').put({ hash: files[id], bytes: new Blob(['no picture']) }));
    database.close();
  });
  await page.goto(work);
  await settled(page);
  await choose(page, 'What to do with this picture', 'Table of frames …');
  const dialog = page.getByRole('dialog', { name: 'Frames' });
  const copy = dialog.getByRole('button', { name: 'Copy as text' });
  const told = dialog.getByRole('status');
  await expect(told).toContainText('“lid” is not in the table.');
  await expect(told).toContainText('3 rows.');

  await page.evaluate(() => {
    const { writeText } = Clipboard.prototype;
    Clipboard.prototype.writeText = function (text) {
      Clipboard.prototype.writeText = writeText;
      return Promise.reject(new DOMException(text, 'NotAllowedError'));
    };
  });
  await copy.click();
  await expect(told).toContainText('did not let the table onto the clipboard');
  await copy.click();
  await expect(told).toContainText('The table is on the clipboard.');
  await expect(told).not.toContainText('did not let');
  await expect(told).toContainText('“lid” is not in the table.');
  const text = await page.evaluate(() => navigator.clipboard.readText());
  const [heads, ...rows] = text
    .trim()
    .split('\n')
    .map((line) => line.split('\t'));
  const at = (title: string): number => heads.indexOf(title);
  expect(rows.map((row) => row[at('Plane')])).toEqual(['r', 'g', 'b']);
  // #a63 as the file has it.
  for (const title of ['Min, %', 'Max, %', 'Mean, %', 'Median, %'])
    expect(rows.map((row) => row[at(title)])).toEqual(['66.6667', '40', '20']);
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
