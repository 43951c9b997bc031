import { readFileSync, writeFileSync } from 'node:fs';
import { unzipSync } from 'fflate';
import type { Page } from '@playwright/test';
import {
  addStep,
  expect,
  exportedPixels,
  openSample,
  setAmount,
  setPercent,
  settled,
  test
} from './bench-page';

const shelf = (page: Page): ReturnType<Page['getByRole']> => page.getByRole('region', { name: 'Looks' });
const cards = (page: Page): ReturnType<Page['locator']> => shelf(page).locator('.card .name');
const card = (page: Page, name: string): ReturnType<Page['locator']> =>
  shelf(page).locator('.card').filter({ hasText: name });

async function openShelf(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'Looks', exact: true }).click();
  await expect(shelf(page)).toBeVisible();
}

/** Keeps the chosen steps, or the whole path, as a look. */
async function keep(page: Page, name: string, note: string): Promise<void> {
  await shelf(page).getByRole('button', { name: 'Keep a look …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Keep a look' });
  await dialog.getByLabel('Name').fill(name);
  await dialog.getByLabel('Note').fill(note);
  await dialog.getByText('The whole path').click();
  await dialog.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(page.getByText(`“${name}” is on the shelf.`)).toBeVisible();
}

test('a look is kept, found after a reload, and put on another picture at 60 %', async ({ page }) => {
  await openSample(page, 'Glaze tiles', '');
  await addStep(page, 'Colour');
  await setPercent(page, 'Saturation', 45);
  await addStep(page, 'Invert');
  await openShelf(page);
  await expect(cards(page)).toHaveCount(12);
  await keep(page, 'Turned tiles', 'for the kiln’s second shelf');
  await expect(cards(page).first()).toHaveText('Turned tiles');
  await settled(page);
  await page.reload();
  await settled(page);

  await openSample(page, 'Old print', '');
  const before = await exportedPixels(page);
  await openShelf(page);
  await shelf(page).getByLabel('Search the looks').fill('second shelf');
  await expect(cards(page)).toHaveText(['Turned tiles']);
  await setPercent(page, 'Strength of a look', 60);
  await card(page, 'Turned tiles').locator('.wear').click();
  const titles = page.getByRole('navigation', { name: 'Path' }).locator('.chip .title');
  await expect(titles).toHaveText(['Source', 'Turned tiles']);
  await settled(page);
  const put = await exportedPixels(page);
  // The same by hand: the steps in a group, faded.
  await page.getByRole('button', { name: 'Take off' }).click();
  await expect(titles).toHaveText(['Source']);
  await addStep(page, 'Colour');
  await setPercent(page, 'Saturation', 45);
  await addStep(page, 'Invert');
  const whole = await exportedPixels(page);
  let compared = 0;
  for (let y = 40; y < put.height; y += 97)
    for (let x = 40; x < put.width; x += 89) {
      const [b, w, p] = [before.at(x, y), whole.at(x, y), put.at(x, y)];
      p.forEach((v, c) => {
        // What the overdone one clips can't be told from its file.
        if (w[c] <= 0 || w[c] >= 1) return;
        compared++;
        expect(Math.abs(v - (b[c] + 0.6 * (w[c] - b[c])))).toBeLessThan(4e-5);
      });
    }
  expect(compared).toBeGreaterThan(500);
});

test('looks are tried on, marked, renamed, deleted and brought back; put on several pictures at once', async ({
  page
}) => {
  await openSample(page, 'Glaze tiles', '');
  await page.keyboard.press('d');
  await openShelf(page);
  const titles = page.getByRole('navigation', { name: 'Path' }).locator('.chip .title');
  await card(page, 'Soot and ochre').locator('.wear').click();
  await expect(titles).toHaveText(['Source', 'Soot and ochre']);
  // Another takes its place.
  await card(page, 'Amber pane').locator('.wear').click();
  await expect(titles).toHaveText(['Source', 'Amber pane']);
  await page.keyboard.press('Control+z');
  await expect(titles).toHaveText(['Source', 'Soot and ochre']);
  await page.keyboard.press('Control+z');
  await expect(titles).toHaveText(['Source']);

  await card(page, 'Ember pane').hover();
  await page.getByRole('button', { name: 'Ember pane: favourite' }).click();
  await expect(cards(page).first()).toHaveText('Ember pane');
  await page.getByRole('button', { name: 'What to do with Ember pane' }).click();
  await page.getByRole('menuitem', { name: 'Duplicate' }).click();
  await expect(cards(page)).toHaveCount(13);
  await card(page, 'Ember pane, 2').hover();
  await page.getByRole('button', { name: 'What to do with Ember pane, 2' }).click();
  await page.getByRole('menuitem', { name: 'Rename' }).click();
  await page.getByLabel('Name of the look').fill('Coal pane');
  await page.keyboard.press('Enter');
  await expect(card(page, 'Coal pane')).toBeVisible();
  await expect(shelf(page).getByRole('button', { name: 'What to do with Coal pane' })).toBeFocused();

  await card(page, 'Coal pane').hover();
  await page.getByRole('button', { name: 'What to do with Coal pane' }).click();
  await page.getByRole('menuitem', { name: 'Put on pictures …' }).click();
  const which = page.getByRole('dialog', { name: 'Put on “Coal pane”' });
  // None of them is nothing to put on; all stand chosen at first.
  for (const box of await which.getByRole('checkbox').all()) await box.uncheck({ force: true });
  await expect(which.getByRole('button', { name: 'Put on', exact: true })).toBeDisabled();
  for (const box of await which.getByRole('checkbox').all()) await box.check({ force: true });
  await which.getByRole('button', { name: 'Put on', exact: true }).click();
  await expect(page.getByText('“Coal pane” is on 2 pictures.')).toBeVisible();
  await expect(titles).toHaveText(['Source', 'Coal pane']);
  await page.keyboard.press('PageUp');
  await expect(titles).toHaveText(['Source', 'Coal pane']);

  // Deleted by keyboard, it leaves the focus to the one that comes in its place.
  const menus = shelf(page).getByRole('button', { name: /^What to do with/ });
  const place = (await cards(page).allInnerTexts()).indexOf('Coal pane');
  await menus.nth(place).press('Enter');
  await page.getByRole('menuitem', { name: 'Delete' }).press('Enter');
  await expect(cards(page)).toHaveCount(12);
  await expect(menus.nth(place)).toBeFocused();
  await page.getByRole('button', { name: 'Put it back' }).click();
  await expect(cards(page)).toHaveCount(13);

  // Out as a file and in again: the same is there once.
  await card(page, 'Coal pane').hover();
  await page.getByRole('button', { name: 'What to do with Coal pane' }).last().click();
  const download = page.waitForEvent('download');
  await page.getByRole('menuitem', { name: 'Export as a file' }).click();
  const file = await download;
  expect(file.suggestedFilename()).toBe('Coal pane.look.json');
  const look = JSON.parse(readFileSync(await file.path(), 'utf8')) as { name: string; steps: unknown[] };
  expect([look.name, look.steps.length]).toEqual(['Coal pane', 2]);
  await page.getByLabel('Files of looks').setInputFiles({
    ...{ name: 'again.look.json', mimeType: 'application/json' },
    buffer: Buffer.from(JSON.stringify(look))
  });
  await expect(page.getByText('0 looks were taken; 1 was there already.')).toBeVisible();
  await page.getByLabel('Files of looks').setInputFiles({
    ...{ name: 'broken.look.json', mimeType: 'application/json' },
    buffer: Buffer.from('{ "kromba": 1, "kind": "look"')
  });
  const wrong = page
    .getByRole('alert')
    .filter({ hasText: '“broken.look.json” was not taken. This is not JSON' });
  await expect(wrong).toBeVisible();
  // By keyboard: what had the focus before has it again.
  const before = page.getByRole('button', { name: 'Close the looks' });
  await before.focus();
  await page.keyboard.press('Tab');
  await expect(wrong.getByRole('button', { name: 'Close notification' })).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(wrong).toHaveCount(0);
  await expect(before).toBeFocused();
  await expect(cards(page)).toHaveCount(13);
});

test('settings of one step are kept under a name and used on the second print', async ({ page }) => {
  await openSample(page, 'Old print', '');
  await addStep(page, 'Levels');
  await setAmount(page, 'all black in percent', 12);
  await page.getByRole('button', { name: 'What to do with Levels' }).click();
  await page.getByRole('menuitem', { name: 'Keep as a look …' }).click();
  const dialog = page.getByRole('dialog', { name: 'Keep a look' });
  await dialog.getByLabel('Name').fill('Print’s black');
  await dialog.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(page.getByText('“Print’s black” is on the shelf.')).toBeVisible();
  await settled(page);
  await openSample(page, 'Old print, the second', '');
  await addStep(page, 'Levels');
  await page.getByRole('button', { name: 'What to do with Levels' }).click();
  await page.getByRole('menuitem', { name: 'Settings “Print’s black”' }).click();
  await expect(page.getByRole('textbox', { name: 'all black in percent', exact: true })).toHaveValue('12');
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('textbox', { name: 'all black in percent', exact: true })).toHaveValue('0');
});

/** A cube of `size` that turns red about, as a .cube file. */
function turned(size: number): string {
  const rows: string[] = [`LUT_3D_SIZE ${size}`];
  const at = (i: number): number => i / (size - 1);
  for (let b = 0; b < size; b++)
    for (let g = 0; g < size; g++) for (let r = 0; r < size; r++) rows.push(`${1 - at(r)} ${at(g)} ${at(b)}`);
  return rows.join('\n');
}

test('tables are dropped, chosen, kept on the shelf, and refused by their line', async ({ page }, info) => {
  await openSample(page, 'Glaze tiles', '');
  const before = await exportedPixels(page);
  await addStep(page, 'LUT');
  const picker = page.getByLabel('File of a table');
  await picker.setInputFiles({
    ...{ name: 'broken.cube', mimeType: 'text/plain' },
    buffer: Buffer.from(`LUT_3D_SIZE 2\n0 0 0\n1 zero 0\n${'1 1 1\n'.repeat(6)}`)
  });
  await expect(page.getByText(/Line 3: “zero” is no number/)).toBeVisible();
  await picker.setInputFiles({
    ...{ name: 'turned.cube', mimeType: 'text/plain' },
    buffer: Buffer.from(turned(9))
  });
  await expect(page.getByText('9³ over 0 … 1')).toBeVisible();
  await settled(page);
  const after = await exportedPixels(page);
  for (const [x, y] of [
    [300, 300],
    [1200, 800]
  ]) {
    const [b, a] = [before.at(x, y), after.at(x, y)];
    [1 - b[0], b[1], b[2]].forEach((v, c) => expect(Math.abs(a[c] - v)).toBeLessThan(2e-5));
  }
  // It is there after a reload, and in the document that is handed on.
  await page.reload();
  await settled(page);
  await expect(page.getByText('9³ over 0 … 1')).toBeVisible();
  const bench = page.url();
  await page.goto('/');
  const exportIt = async (): Promise<string[]> => {
    await page.getByRole('button', { name: 'What to do with Glaze tiles' }).click();
    const download = page.waitForEvent('download');
    await page.getByRole('menuitem', { name: 'Export' }).click();
    const zip = unzipSync(new Uint8Array(readFileSync(await (await download).path())));
    return Object.keys(zip).sort();
  };
  expect(await exportIt()).toEqual(['document.kromba.json', 'glaze-tiles.jpg', 'turned.cube']);
  await page.goto(bench);
  await settled(page);
  await page.keyboard.press('Control+z');
  await expect(page.getByText('A .cube file, or a picture of a table')).toBeVisible();

  await openShelf(page);
  const files = [3, 5].map((size) => {
    const path = info.outputPath(`cube ${size}.cube`);
    writeFileSync(path, turned(size));
    return path;
  });
  await page.getByLabel('Files of looks').setInputFiles(files);
  await expect(page.getByText('2 looks were taken.')).toBeVisible();
  await card(page, 'cube 5').locator('.wear').click();
  await settled(page);
  const worn = await exportedPixels(page);
  const [b, w] = [before.at(1200, 800), worn.at(1200, 800)];
  expect(Math.abs(w[0] - (1 - b[0]))).toBeLessThan(2e-5);
});

test('a table is baked at 33, its report is told before it is saved, and it is put on as a step', async ({
  page
}, info) => {
  await openSample(page, 'Glaze tiles', '');
  await addStep(page, 'Colour');
  await setPercent(page, 'Saturation', 30);
  await addStep(page, 'Blur');
  await page.getByRole('button', { name: 'What to do with this picture' }).click();
  await page.getByRole('menuitem', { name: 'Make a LUT of its path …' }).click();
  await page.getByRole('button', { name: 'Make the table' }).click();
  await expect(page.getByText('left out: it looks at neighbours')).toBeVisible({ timeout: 150_000 });
  const report = page.getByRole('table', { name: 'How near it comes' });
  const cells = report.getByRole('row', { name: /^every colour/ }).getByRole('cell');
  // ΔE 2000 against the steps that it carries; the blur that it leaves out is in what is told of this picture.
  expect(Number(await cells.nth(0).textContent())).toBeLessThan(0.2);
  expect(Number(await cells.nth(2).textContent())).toBeLessThan(3);
  const here = report.getByRole('row', { name: /^this picture/ }).getByRole('cell');
  await expect(here).toHaveCount(4);
  await expect(page.getByText('So far,')).toHaveCount(0, { timeout: 90_000 });
  expect(Number(await here.nth(2).textContent())).toBeGreaterThan(2);
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Save as a .cube file' }).click();
  const path = info.outputPath('tiles.cube');
  await (await download).saveAs(path);
  expect(readFileSync(path, 'utf8')).toMatch(/^TITLE "Glaze tiles"\n(LUT_1D_SIZE 1024\n)?LUT_3D_SIZE 33\n/);
  await page.getByRole('button', { name: 'Close', exact: true }).click();

  // The colours alone, by the steps and by the table.
  await page.keyboard.press('x');
  await settled(page);
  const by = await exportedPixels(page);
  await page.keyboard.press('Delete');
  await page.keyboard.press('x');
  await addStep(page, 'LUT');
  await page.getByLabel('File of a table').setInputFiles(path);
  await expect(page.getByText('33³ over 0 … 1')).toBeVisible();
  await settled(page);
  const through = await exportedPixels(page);
  let sum = 0;
  let count = 0;
  for (let y = 5; y < by.height; y += 41)
    for (let x = 5; x < by.width; x += 37) {
      const [p, q] = [by.at(x, y), through.at(x, y)];
      p.forEach((v, c) => (sum += Math.abs(v - q[c])));
      count += 3;
    }
  expect(sum / count).toBeLessThan(0.001);
});
