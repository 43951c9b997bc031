import { writeFileSync } from 'node:fs';
import sharp from 'sharp';
import {
  addStep,
  addTerm,
  dragOver,
  dropPin,
  expect,
  openPart,
  openSample,
  plainPng,
  setAmount,
  settled,
  visiting as test
} from './bench-page';
import type { Page } from '@playwright/test';

/** What a mask does beside its jobs: names, files, pictures, circles, the brush, and things that others use. */

const menu = async (page: Page, item: string): Promise<void> => {
  await page.getByRole('button', { name: 'What to do with this mask' }).click();
  await page.getByRole('menuitem', { name: item }).click();
};
const terms = (page: Page): ReturnType<Page['locator']> =>
  page.getByRole('list', { name: 'Terms of the mask' }).getByRole('listitem');

test('the brush paints, erases, draws straight lines, changes its size, and a stroke is one entry', async ({
  page
}) => {
  await openSample(page, 'Clay figure');
  await page.getByRole('button', { name: 'Add a step' }).click();
  await page.getByLabel('Search the steps').fill('Lighten by hand');
  await page.keyboard.press('Enter');
  const where = page.getByRole('region', { name: 'Where' });
  await expect(where.getByRole('group', { name: 'Brush', exact: true })).toBeVisible();
  await expect(terms(page)).toContainText('paint, 0 strokes');
  await dragOver(page, [
    [900, 500],
    [1500, 520]
  ]);
  await expect(terms(page)).toContainText('paint, 1 stroke');
  const coverage = where.getByLabel('Coverage');
  const share = async (): Promise<number> => Number((await coverage.textContent())!.replace(' %', ''));
  await expect.poll(share).toBeGreaterThan(1);
  const first = await share();
  // Shift goes straight from the last end.
  await page.keyboard.down('Shift');
  await dragOver(page, [[1500, 1200]]);
  await page.keyboard.up('Shift');
  await expect.poll(share).toBeGreaterThan(1.5 * first);
  const size = page.getByRole('textbox', { name: 'Size of the brush in pixels' });
  const before = Number(await size.inputValue());
  await page.getByRole('radio', { name: 'Erase' }).click();
  await page.keyboard.press('Shift+Period');
  expect(Number(await size.inputValue())).toBeGreaterThan(before);
  const two = await share();
  await dragOver(page, [
    [900, 500],
    [1500, 520]
  ]);
  await expect(terms(page)).toContainText('paint, 3 strokes');
  await expect.poll(share).toBeLessThan(two);
  await page.keyboard.press('Control+z');
  await expect(terms(page)).toContainText('paint, 2 strokes');
  await page.getByRole('button', { name: 'Take the last stroke back' }).click();
  await expect(terms(page)).toContainText('paint, 1 stroke');
  await expect(where).toContainText('Bound to this picture by paint');
  await page.keyboard.press('Escape');
  await expect(where.getByRole('group', { name: 'Brush', exact: true })).toBeHidden();
  // A ramp is moved by its handles.
  await addTerm(page, 'Ramp');
  const handle = page.getByRole('button', { name: 'Empty end of the ramp' });
  await handle.focus();
  const width = await share();
  for (let k = 0; k < 20; k++) await page.keyboard.press('Shift+ArrowUp');
  await expect.poll(share).not.toBe(width);
});

test('a mask is seen in Out, kept under a name, used again, and its removal says who uses it', async ({
  page
}) => {
  await openSample(page, 'Glaze tiles');
  await openPart(page, 'Where');
  await addTerm(page, 'Channel');
  await expect(page.getByRole('tab', { name: 'Mask' })).toHaveAttribute('aria-selected', 'true');
  await page.getByRole('radio', { name: 'Grey outside' }).click();
  await page.keyboard.press('m');
  await expect(page.getByText('The mask · M shows the picture')).toBeVisible();
  await page.keyboard.press('m');
  await menu(page, 'Keep under a name');
  await page.getByLabel('Name of the mask').fill('Green light');
  await page.keyboard.press('Enter');
  await expect(terms(page)).toContainText('mask “Green light”');
  await addStep(page, 'Invert');
  await openPart(page, 'Where');
  await addTerm(page, 'Named mask');
  await expect(terms(page)).toContainText('mask “Green light”');

  // A circle: the named mask made from itself by way of this picture is refused with the names.
  await menu(page, 'Work on “Green light”');
  await expect(page.getByRole('region', { name: 'Where' })).toContainText('Mask “Green light”');
  await page
    .getByRole('region', { name: 'Where' })
    .getByLabel('Of', { exact: true })
    .selectOption({ label: 'this picture after Mix' });
  await expect(page.getByText('Not done.')).toBeVisible();
  await expect(page.getByText(/in a circle: “Glaze tiles” → “Green light” → “Glaze tiles”/)).toBeVisible();

  await menu(page, 'Remove the named mask');
  const dialog = page.getByRole('dialog', { name: 'Remove the mask “Green light”?' });
  await expect(dialog).toContainText('the step “Mix” of “Glaze tiles”');
  await expect(dialog).toContainText('the step “Invert” of “Glaze tiles”');
  await dialog.getByRole('button', { name: 'Keep it' }).click();
  await expect(page.getByRole('region', { name: 'Where' })).toContainText('Mask “Green light”');
  await menu(page, 'Remove the named mask');
  await dialog.getByRole('button', { name: 'Remove and replace' }).click();
  await expect(dialog).toBeHidden();
  await page.getByRole('button', { name: /Back to the step/ }).click();
  await expect(page.getByText('No term yet: the step acts everywhere.')).toBeVisible();
  await settled(page);
});

test('masks come from other pictures and from files, and become pictures; what others take from is not lost', async ({
  page
}, info) => {
  const small = info.outputPath('small.png');
  const ramp = info.outputPath('ramp.png');
  writeFileSync(small, await plainPng('#808080', 300, 200));
  const values = Uint8Array.from({ length: 2400 * 1600 }, (_, i) => ((i % 2400) / 2399) * 255);
  await sharp(values, { raw: { width: 2400, height: 1600, channels: 1 } })
    .png()
    .toFile(ramp);
  await openSample(page, 'Woven cloth');
  await openPart(page, 'Where');
  const file = page.getByLabel('File of a mask');
  await file.setInputFiles(small);
  await expect(page.getByText('“small.png” is 300 × 200 pixels and this picture 2400 × 1600')).toBeVisible();
  await expect(page.getByText('No term yet: the step acts everywhere.')).toBeVisible();
  await file.setInputFiles(ramp);
  await expect(terms(page)).toContainText('red of ramp');
  await expect(page.getByLabel('Coverage')).toHaveText(/^(49|50)\.\d %$/);
  await menu(page, 'Make a picture of it');
  await expect(
    page.getByRole('group', { name: 'Pictures' }).getByRole('button', { name: 'Woven cloth, mask' })
  ).toBeVisible({
    timeout: 60_000
  });

  // The picture that the mask is made from can't go unseen.
  const pictures = page.getByRole('group', { name: 'Pictures' });
  await pictures.getByRole('button', { name: 'ramp', exact: true }).click();
  await expect(pictures.getByRole('button', { name: 'ramp', exact: true })).toHaveAttribute(
    'aria-pressed',
    'true'
  );
  await page.getByRole('button', { name: 'What to do with this picture' }).click();
  await page.getByRole('menuitem', { name: 'Remove' }).click();
  const dialog = page.getByRole('dialog', { name: 'Remove the picture “ramp”?' });
  await expect(dialog).toContainText('the step “Mix” of “Woven cloth”');
  await dialog.getByLabel('They use instead').selectOption({ label: 'the picture “Woven cloth, mask”' });
  await dialog.getByRole('button', { name: 'Remove and replace' }).click();
  await expect(pictures.getByRole('button', { name: 'ramp', exact: true })).toBeHidden();
  await pictures.getByRole('button', { name: 'Woven cloth', exact: true }).click();
  await openPart(page, 'Where');
  await expect(terms(page)).toContainText('red of Woven cloth, mask');
  await settled(page);
});

test('a colour is picked by a click and by a drag, more colours join, and the terms are ordered by keys', async ({
  page
}) => {
  await openSample(page, 'Glaze tiles');
  await openPart(page, 'Where');
  // The next click says to which colour.
  await addTerm(page, 'Distance to a colour');
  await expect(page.getByText('Click or drag: the colour to be near to')).toBeVisible();
  await dragOver(page, [
    [980, 600],
    [1035, 655]
  ]);
  await expect(terms(page)).toContainText(/near L 5\d a −\d+ b/);
  await page.getByRole('button', { name: 'Add a colour' }).click();
  await dragOver(page, [[870, 630]]);
  await expect(terms(page)).toHaveCount(2);
  await expect(terms(page).nth(1)).toContainText('lighter of');
  await page.keyboard.press('Escape');
  await page.getByRole('radio', { name: 'difference' }).click();
  await expect(terms(page).nth(1)).toContainText('difference');
  await addTerm(page, 'Toward a hue');
  await setAmount(page, 'Amount of the term in percent', 40);
  await expect(terms(page).nth(2)).toContainText('and, 40 %');
  await terms(page).nth(2).getByRole('button').first().focus();
  await page.keyboard.press('Alt+ArrowUp');
  await expect(terms(page).nth(1)).toContainText('toward hue 40°');
  await page.getByRole('button', { name: 'Remove term 1' }).click();
  await expect(terms(page)).toHaveCount(2);
  await menu(page, 'Act everywhere');
  await expect(page.getByText('No term yet: the step acts everywhere.')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(terms(page)).toHaveCount(2);
  await dropPin(page, 1009, 630, 'want');
  await settled(page);
});

test('exposures are opened as one document, the darkest first; those of another size are refused', async ({
  page
}, info) => {
  const paths = await Promise.all(
    [230, 51].map(async (v, i) => {
      const path = info.outputPath(`${i ? 'night' : 'day'}.png`);
      writeFileSync(path, await plainPng(`rgb(${v}, ${v}, ${v})`, 320, 200));
      return path;
    })
  );
  const other = info.outputPath('other.png');
  writeFileSync(other, await plainPng('#444', 100, 80));
  await page.goto('/');
  const scene = page.getByLabel('Exposures of one scene');
  await scene.setInputFiles([paths[0], other]);
  await expect(page.getByText(/“day.png” is 320 × 200 pixels and “other.png” 100 × 80/)).toBeVisible();
  await scene.setInputFiles(paths);
  await page.waitForURL('**/work/**');
  await settled(page);
  await expect(
    page.getByRole('group', { name: 'Pictures' }).getByRole('button', { name: /^(day|night)$/ })
  ).toHaveText(['night', 'day']);
  // Another frame comes in by the picture's menu, of whatever size; only a step that takes from it refuses it.
  await page.getByLabel('Frames to add').setInputFiles(other);
  await expect(page.getByText('“other.png” is a picture of this document now.')).toBeVisible();
  await addStep(page, 'Merge exposures');
  await page.getByLabel('Other exposure').selectOption({ label: 'other' });
  await expect(page.getByText(/“other” is 100 × 80 pixels and this picture 320 × 200/)).toBeVisible();
  await settled(page);
});
