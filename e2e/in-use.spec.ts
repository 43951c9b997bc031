import { readFile } from 'node:fs/promises';
import {
  addStep,
  begin,
  dropPin,
  expect,
  onScreen,
  openSample,
  setAmount,
  setPercent,
  setWeight,
  settled,
  visiting as test
} from './bench-page';
import type { Locator, Page } from '@playwright/test';

const work = (page: Page): Locator => page.getByRole('region', { name: /^Work/ });
const picture = (page: Page, name: string): Locator =>
  page.getByRole('group', { name: 'Pictures' }).getByRole('button', { name, exact: true });
const undo = (page: Page): Locator => page.getByRole('banner').getByRole('button', { name: /^Undo/ });
const field = (page: Page, name: string): Locator => page.getByRole('textbox', { name, exact: true });

test('a pin belongs to its picture; one that is given to all says what else it moved', async ({ page }) => {
  await openSample(page, 'Jug under lamps', 'Take a cast out');
  await page.getByLabel('Method').selectOption({ label: 'Neutral pins are neutral' });
  await dropPin(page, 1000, 850, 'neutral');
  await settled(page);
  const gain = (): Promise<string> => field(page, 'gain of green in percent').inputValue();
  await expect.poll(gain).not.toBe('100');
  const first = await gain();

  await page.keyboard.press('d');
  await expect(picture(page, 'Jug under lamps, 2')).toHaveAttribute('aria-pressed', 'true');
  await settled(page);
  // The version has the pin too, as one of its own: a second neutral pin changes this version alone.
  const roles = page.getByRole('combobox', { name: /^Role of/ });
  await expect(roles).toHaveCount(1);
  await dropPin(page, 1900, 1000, 'neutral');
  await expect.poll(gain).not.toBe(first);
  await expect(page.getByText('To know.')).toBeHidden();
  await picture(page, 'Jug under lamps').click();
  await settled(page);
  await expect(roles).toHaveCount(1);
  await expect.poll(gain).toBe(first);

  await page.getByRole('combobox', { name: 'Pictures of pin 1' }).selectOption('all');
  await expect(page.getByText('“Balance” of “Jug under lamps, 2” was solved anew too.')).toBeVisible();
  await page.keyboard.press('Escape');
  await picture(page, 'Jug under lamps, 2').click();
  await expect(roles).toHaveCount(3);
});

test('pins carry their number on the picture, and four stand in the table', async ({ page }) => {
  await openSample(page, 'Glaze tiles');
  for (const [x, y] of [
    [545, 632],
    [1360, 632],
    [870, 630],
    [1145, 630]
  ])
    await dropPin(page, x, y, 'read');
  const out = page.getByRole('region', { name: 'Out: the picture' });
  await expect(out.getByRole('button', { name: 'pin 3, read only' })).toHaveText(/r\s*3/);
  const rows = page.getByRole('region', { name: 'Pins' }).locator('tbody tr');
  for (const row of await rows.all()) await expect(row).toBeInViewport({ ratio: 1 });
  const box = (await page.getByRole('region', { name: 'Pins' }).boundingBox())!;
  const last = (await rows.last().boundingBox())!;
  expect(last.y + last.height).toBeLessThanOrEqual(box.y + box.height + 0.5);
});

test('a crop keeps the proportions that were chosen', async ({ page }) => {
  await openSample(page, 'Harbour in haze', 'Straighten and crop');
  await setAmount(page, 'Angle in degrees', 2);
  await page.getByRole('radio', { name: 'Crop' }).click();
  await page.getByLabel('Proportions').selectOption({ label: '3 : 2' });
  const ratio = async (): Promise<number> => {
    const [w, h] = await Promise.all(
      ['Crop width in pixels', 'Crop height in pixels'].map((name) => field(page, name).inputValue())
    );
    return Number(w) / Number(h);
  };
  expect(await ratio()).toBeCloseTo(1.5, 2);
  await page.getByRole('radio', { name: 'Level' }).click();
  await setAmount(page, 'Angle in degrees', 7);
  await page.getByRole('radio', { name: 'Crop' }).click();
  await page.getByRole('button', { name: 'Largest without empty corners' }).click();
  expect(await ratio()).toBeCloseTo(1.5, 2);
  await page.getByRole('radio', { name: 'Level' }).click();
  await page.getByRole('button', { name: '90° right' }).click();
  await page.getByRole('radio', { name: 'Crop' }).click();
  expect(await ratio()).toBeCloseTo(1.5, 2);
  // The tool that was used last is there again.
  await page.keyboard.press('Escape');
  await page.keyboard.press(',');
  await expect(work(page)).toContainText('Source');
  await page.keyboard.press('.');
  await expect(page.getByRole('radio', { name: 'Crop' })).toHaveAttribute('aria-checked', 'true');
});

test('a proposal tells what becomes of the main colours, and a keep pin holds one; in LAB too', async ({
  page
}) => {
  await openSample(page, 'Jug under lamps');
  await dropPin(page, 1000, 850, 'neutral');
  await work(page).getByRole('button', { name: 'Solve from pins' }).click();
  const proposed = page.getByRole('region', { name: 'Proposed mix' });
  const most = async (): Promise<number> =>
    Number(/at most\s+(\d+\.\d)/.exec((await proposed.innerText()).replaceAll('\n', ' '))![1]);
  await expect(proposed).toContainText('main colours move by ΔE');
  const before = await most();
  expect(before).toBeGreaterThan(10);
  const moved = proposed.getByRole('list', { name: 'Main colours that move' }).getByRole('listitem');
  await moved
    .first()
    .getByRole('button', { name: /^Keep the colour/ })
    .click();
  await expect(page.getByRole('combobox', { name: /^Role of/ })).toHaveCount(2);
  // The one that moved furthest is held now, whatever others do.
  const held = async (): Promise<number> =>
    Number(/moved by ΔE (\d+\.\d)/.exec(await proposed.innerText())?.[1] ?? NaN);
  await expect.poll(held).toBeLessThan(before / 3);
  await proposed.getByRole('button', { name: 'Dismiss' }).click();

  await work(page).getByRole('tab', { name: 'LAB' }).click();
  await work(page).getByRole('button', { name: 'Solve from pins' }).click();
  await expect(proposed).toContainText(/from neutral ΔE \d+\.\d → 0\.\d/);
  await proposed.getByRole('button', { name: 'Take' }).click();
  // LAB's own units, not per cent of them.
  const constant = await field(page, 'green to magenta gets a constant').inputValue();
  await expect(work(page)).toContainText(/(raises|lowers) a\* by/);
  expect(Math.abs(Number(constant.replace('−', '-')))).toBeLessThan(128);
});

test('steps are found by everyday words, and the first number is next', async ({ page }) => {
  await openSample(page, 'Quench tank', '');
  await page.keyboard.press('a');
  const search = page.getByLabel('Search the steps');
  await search.fill('vignette');
  await expect(page.getByRole('listbox', { name: 'Steps' })).toContainText('round ramp under Where');
  await search.fill('swap');
  await page.keyboard.press('Enter');
  await expect(work(page)).toContainText('red gets');
  await expect(field(page, 'red gets red in percent')).toBeFocused();
  // Each press that is meant by itself is undone by itself.
  await page.keyboard.press('ArrowUp');
  await expect(field(page, 'red gets red in percent')).toHaveValue('101');
  await page.waitForTimeout(700);
  await page.keyboard.press('Shift+ArrowUp');
  await expect(field(page, 'red gets red in percent')).toHaveValue('111');
  await page.keyboard.press('Control+z');
  await expect(field(page, 'red gets red in percent')).toHaveValue('101');
  await page.keyboard.press('Control+z');
  await expect(field(page, 'red gets red in percent')).toHaveValue('100');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Alt+Backspace');
  await expect(field(page, 'red gets red in percent')).toHaveValue('100');
  // Escape leaves the field: a digit is a key again, and N goes back.
  await page.keyboard.press('Escape');
  await page.keyboard.press('1');
  await expect(page.getByRole('button', { name: '1:1' })).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('n');
  await expect(field(page, 'red gets red in percent')).toBeFocused();
});

test('what can’t be taken as typed says so beside the field', async ({ page }) => {
  await openSample(page, 'Quench tank');
  await setWeight(page, 'red gets green', 5000);
  await expect(work(page).getByText('at most 1000')).toBeVisible();
  await expect(field(page, 'red gets green in percent')).toHaveValue('1000');
  const sum = field(page, 'red gets blue in percent');
  await sum.fill('10/4');
  await sum.press('Enter');
  await expect(sum).toHaveValue('2.5');
  await sum.fill('+5');
  await sum.press('Enter');
  await expect(sum).toHaveValue('7.5');
  await sum.fill('ten');
  await sum.press('Enter');
  await expect(work(page).getByText('no number')).toBeVisible();
});

test('an export tells the file’s name, size and place, and can be done again', async ({ page }) => {
  await openSample(page, 'Quench tank');
  await page.keyboard.press('e');
  const dialog = page.getByRole('dialog', { name: 'Export the picture' });
  const download = page.waitForEvent('download');
  await dialog.getByRole('button', { name: 'Export' }).click();
  const file = await download;
  expect(file.suggestedFilename()).toBe('Quench tank.png');
  const size = (await readFile(await file.path())).byteLength;
  await expect(
    page.getByText(
      `“Quench tank.png”, 2400 × 1600 pixels, ${(size / 2 ** 20).toFixed(1)} MB, is among your browser’s downloads.`
    )
  ).toBeVisible();
  await page.getByRole('button', { name: 'Export again' }).click();
  await expect(dialog.getByLabel('Name')).toHaveValue('Quench tank');
});

test('nothing in the panel moves while a sentence grows', async ({ page }) => {
  await openSample(page, 'Drying yard');
  const place = async (): Promise<number> =>
    (await field(page, 'blue gets blue in percent').boundingBox())!.y;
  const before = await place();
  await setWeight(page, 'red gets green', 40);
  await setWeight(page, 'red gets blue', -60);
  await setWeight(page, 'red gets a constant', 12);
  await setWeight(page, 'green gets red', -35);
  await setWeight(page, 'green gets blue', 20);
  expect(await place()).toBe(before);
});

test('what is exchanged is called so, and the light follows the gains that were solved', async ({ page }) => {
  await openSample(page, 'Drying yard', 'False colour');
  await expect(work(page)).toContainText('Swap red and blue on RGB');
  await addStep(page, 'Balance');
  await page.getByLabel('Method').selectOption({ label: 'The average is grey' });
  const kelvin = field(page, 'Temperature of the light in kelvin');
  await expect.poll(async () => Number(await kelvin.inputValue())).not.toBe(6504);
  await page.getByLabel('Method').selectOption({ label: 'The sky background is neutral' });
  await expect(work(page)).toContainText('no light of one colour does that');
});

test('a card opens wherever it is clicked, and shows the picture that was worked on last', async ({
  page
}) => {
  await openSample(page, 'Quench tank', 'Black and white');
  await page.keyboard.press('d');
  await addStep(page, 'Tint');
  await setPercent(page, 'Tint saturation', 100);
  await settled(page);
  await page.getByRole('link', { name: 'Kromba' }).click();
  const card = page.getByRole('list', { name: 'Documents', exact: true }).getByRole('listitem').first();
  await expect(card.locator('canvas')).toBeVisible();
  const colour = (): Promise<number> =>
    card.locator('canvas').evaluate((image: HTMLCanvasElement) => {
      const canvas = new OffscreenCanvas(1, 1);
      const context = canvas.getContext('2d')!;
      context.drawImage(image, 0, 0, 1, 1);
      const [r, g, b] = context.getImageData(0, 0, 1, 1).data;
      return Math.max(r, g, b) - Math.min(r, g, b);
    });
  // The second picture is tinted, the first is grey; the card stands at once, as it was before.
  await expect.poll(colour).toBeGreaterThan(6);
  const name = (await card.getByText('Quench tank', { exact: true }).boundingBox())!;
  await page.mouse.click(name.x + 20, name.y + name.height / 2);
  await page.waitForURL('**/work/**');
  await settled(page);
});

test('“Open pictures” takes its first click on return', async ({ page }) => {
  await openSample(page, 'Jug under lamps');
  await setWeight(page, 'green gets red', 20);
  await page.getByRole('link', { name: 'Kromba' }).click();
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Open pictures' }).click();
  await chooser;
});

test('a distance arms the picker, the list goes back to its prompt, and groups move by arrows', async ({
  page
}) => {
  await openSample(page, 'Glaze tiles', 'A part of the picture');
  const list = page.getByLabel('Add a term');
  await list.selectOption({ label: 'Distance to a colour' });
  await expect(page.getByText('Click or drag: the colour to be near to')).toBeVisible();
  await expect(list).toHaveValue('');
  const spot = await onScreen(page, 1009, 630);
  await page.mouse.click(spot.x, spot.y);
  await expect(page.getByRole('list', { name: 'Terms of the mask' })).toContainText(/near L \d+/);
  await page.keyboard.press('Escape');

  await page.getByRole('tab', { name: 'Mask' }).click();
  const views = page.getByRole('radiogroup', { name: 'How the mask is seen' });
  await views.getByRole('radio', { name: 'Mask' }).focus();
  await page.keyboard.press('ArrowRight');
  await expect(views.getByRole('radio', { name: 'Term' })).toHaveAttribute('aria-checked', 'true');
  await expect(views.getByRole('radio', { name: 'Term' })).toBeFocused();
  await page
    .getByRole('toolbar', { name: 'Parts of the step' })
    .getByRole('button', { name: /^Where/ })
    .focus();
  await page.keyboard.press('ArrowLeft');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('region', { name: 'Limits' })).toBeVisible();
  // Tabs name what they show.
  const tab = page.getByRole('tab', { name: 'Wall' });
  await expect(page.locator(`#${(await tab.getAttribute('aria-controls'))!}`)).toHaveRole('tabpanel');
});

test('a new document begins with an empty path', async ({ page }) => {
  await openSample(page, 'Clay figure', '');
  await expect(undo(page)).toBeDisabled();
  await begin(page, 'Contrast');
  await expect(work(page)).toContainText('on L of LAB');
  await undo(page).click();
  await expect(page.getByRole('list', { name: 'Ways to begin' })).toBeVisible();
});
