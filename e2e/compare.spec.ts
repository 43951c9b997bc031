import { readFile } from 'node:fs/promises';
import { converter, differenceCiede2000 } from 'culori';
import type { Page } from '@playwright/test';
import {
  decodedPng,
  addStep,
  dragOver,
  expect,
  exported,
  openPart,
  openSample,
  screenOf,
  setPercent,
  settled,
  visiting as test
} from './bench-page';

const lab = converter('lab');
const deltaE = differenceCiede2000();

/** Three versions of the tiles: as they came, with more colour, and inverted as well. */
async function threeVersions(page: Page): Promise<void> {
  await openSample(page, 'Glaze tiles', '');
  await page.keyboard.press('d');
  await addStep(page, 'Colour');
  await setPercent(page, 'Saturation', 40);
  await page.keyboard.press('d');
  await addStep(page, 'Invert');
  await settled(page);
  await expect(pictures(page)).toHaveCount(3);
}

const pictures = (page: Page): ReturnType<Page['locator']> => page.locator('[data-picture]');
const tabs = (page: Page): ReturnType<Page['locator']> => page.locator('.place-tab');
const figures = (page: Page): ReturnType<Page['locator']> => page.locator('.figures');

/** A picture as it is exported, in 16 bit. */
async function exportOf(page: Page): Promise<ReturnType<typeof decodedPng>> {
  return decodedPng(await readFile(await exported(page)));
}

test('versions are compared beside each other, under a divider, flipped through and by their difference', async ({
  page
}) => {
  await threeVersions(page);
  const third = await exportOf(page);
  await page.keyboard.press('PageUp');
  await page.keyboard.press('PageUp');
  await settled(page);
  const first = await exportOf(page);

  // The first is worked on; the others stand beside it.
  await pictures(page).nth(1).focus();
  await page.keyboard.press('b');
  await pictures(page).nth(2).focus();
  await page.keyboard.press('b');
  await expect(tabs(page)).toHaveCount(3);
  await expect(tabs(page).nth(2)).toContainText('Glaze tiles, 3');
  for (const i of [2, 3])
    await expect(page.getByLabel(new RegExp(`^Place ${i}: `))).toHaveAttribute('aria-busy', 'false');
  await settled(page);

  // One pointer for all: each tab reads its own picture there.
  const box = (await page.getByLabel('The picture', { exact: true }).boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await expect(page.locator('.cross')).toHaveCount(3);
  const x = Number((await page.locator('footer .place').textContent())!.split(',')[0]);
  const y = Number((await page.locator('footer .place').textContent())!.split(',')[1]);
  for (const [i, png] of [
    [0, first],
    [2, third]
  ] as const) {
    const red = tabs(page).nth(i).locator('.told span').first();
    const expected = (100 * png.data[3 * (y * png.width + x)]) / 65535;
    await expect
      .poll(async () => Math.min(100, Number(/[\d.]+/.exec((await red.textContent())!)?.[0])))
      .toBeCloseTo(expected, 0);
  }

  // Another place is worked on: the path is that of its picture.
  await page.keyboard.press('j');
  await expect(pictures(page).nth(1)).toHaveAttribute('aria-pressed', 'true');
  await expect(page.getByRole('navigation', { name: 'Path' }).locator('.chip .title')).toHaveText([
    'Source',
    'Colour'
  ]);
  await tabs(page).nth(0).locator('.choose').click();
  await expect(pictures(page).nth(0)).toHaveAttribute('aria-pressed', 'true');

  // Under a divider, which is moved by keys and by hand.
  await tabs(page).nth(2).locator('.choose').click();
  await page.keyboard.press('c');
  const divider = page.getByRole('separator', { name: 'Divider' });
  await expect(divider).toHaveAttribute('aria-valuenow', '50');
  await divider.press('Shift+ArrowRight');
  await divider.press('ArrowLeft');
  await expect(divider).toHaveAttribute('aria-valuenow', '59');
  const line = (await divider.boundingBox())!;
  const out = (await page.getByLabel('The picture', { exact: true }).boundingBox())!;
  await page.mouse.move(line.x + 7, line.y + 40);
  await page.mouse.down();
  await page.mouse.move(out.x + out.width / 4, line.y + 40, { steps: 4 });
  await page.mouse.up();
  await expect(divider).toHaveAttribute('aria-valuenow', '25');
  await page.getByRole('button', { name: 'Upright' }).click();
  await expect(divider).toHaveAttribute('aria-orientation', 'horizontal');

  // Flipped through: by key, and by themselves.
  await page.keyboard.press('c');
  const visible = (): Promise<number[]> =>
    page
      .locator('.places .place')
      .evaluateAll((all) =>
        all.flatMap((place, i) => (getComputedStyle(place).visibility === 'visible' ? [i] : []))
      );
  const before = await visible();
  expect(before).toHaveLength(1);
  await page.keyboard.press('j');
  expect(await visible()).toEqual([(before[0] + 1) % 3]);
  await page.getByLabel('Flips a second').selectOption('4 a second');
  await page.getByRole('button', { name: 'Flip by itself' }).click();
  const seen = new Set<number>();
  await expect.poll(async () => seen.add((await visible())[0]).size, { intervals: [60] }).toBe(3);
  await page.getByRole('button', { name: 'Flip by itself' }).click();

  // The difference: what is seen, and its figures over all of the files.
  await page.keyboard.press('c');
  await expect(figures(page)).toContainText('largest');
  await expect(figures(page)).not.toContainText('so far', { timeout: 90_000 });
  const values = Array.from(first.data, (v, i) => (100 * Math.abs(v - third.data[i])) / 65535);
  const told = async (): Promise<number[]> =>
    [...(await figures(page).locator('b').allTextContents()).join(' ').matchAll(/[\d.]+(?= ?%| |$)/g)].map(
      Number
    );
  const figuresOf = (all: readonly number[]): number[] => [
    all.reduce((sum, v) => sum + v, 0) / all.length,
    Float64Array.from(all).sort()[Math.floor(0.95 * all.length)],
    all.reduce((most, v) => Math.max(most, v), 0)
  ];
  // Two digits are told; the files are rounded to 16 bit, and clamped as this picture's own values are not.
  for (const [i, expected] of figuresOf(values).entries())
    expect(Math.abs((await told())[i] - expected)).toBeLessThan(0.03);
  await page.getByLabel('Amplified').selectOption('× 1');
  await page.keyboard.press('1');
  await settled(page);
  const screen = await screenOf(page);
  const [left, top] = [
    -Math.round((screen.width - first.width) / 2),
    -Math.round((screen.height - first.height) / 2)
  ];
  for (const [u, v] of [
    [20, 20],
    [200, 100],
    [300, 150]
  ]) {
    const at = 3 * ((v + top) * first.width + u + left);
    for (let c = 0; c < 3; c++)
      expect(Math.abs(screen.data[4 * (v * screen.width + u) + c] - 2.55 * values[at + c])).toBeLessThan(1);
  }
  await page.getByLabel('Difference in').selectOption('ΔE 2000');
  await expect(figures(page)).toContainText('ΔE');
  await expect(figures(page)).not.toContainText('so far', { timeout: 90_000 });
  const rgb = ({ data }: typeof first, i: number): object => {
    const [r, g, b] = [data[3 * i], data[3 * i + 1], data[3 * i + 2]].map((w) => w / 65535);
    // culori would put LAB of D50 into D65 otherwise.
    return { ...lab({ mode: 'rgb', r, g, b })!, mode: 'lab65' };
  };
  // Every seventh pixel: 548,000 of them.
  const some = Array.from({ length: Math.floor((first.width * first.height) / 7) }, (_, i) =>
    deltaE(rgb(first, 7 * i) as never, rgb(third, 7 * i) as never)
  );
  const colours = await figures(page).locator('b').allTextContents();
  const [mean, most] = colours.map((text) => Number(text.replace('ΔE ', '')));
  expect(Math.abs(mean - figuresOf(some)[0])).toBeLessThan(0.1);
  expect(Math.abs(most - figuresOf(some)[1])).toBeLessThan(0.3);
});

test('places outlive a reload, say what is gone, and tell what they differ in', async ({ page }) => {
  await threeVersions(page);
  await pictures(page).nth(1).focus();
  await page.keyboard.press('b');
  await expect(tabs(page)).toHaveCount(2);
  await page.getByRole('button', { name: 'What differs' }).click();
  const words = page.getByRole('region', { name: 'What differs' });
  await expect(words).toContainText('Invert');
  await expect(words).toContainText('only in 1');
  await page.keyboard.press('.');
  await page.keyboard.press(',');
  await expect(page.getByRole('region', { name: /^Work/ }).locator('header .name')).toHaveText('Colour');
  await setPercent(page, 'Saturation', 55);
  await expect(words.getByRole('row', { name: /saturation/ })).toContainText('55 %');
  await expect(words.getByRole('row', { name: /saturation/ })).toContainText('40 %');

  await page.getByRole('radio', { name: 'Difference' }).click();
  await settled(page);
  await page.reload();
  await settled(page);
  await expect(page.getByRole('radio', { name: 'Difference' })).toHaveAttribute('aria-checked', 'true');
  await expect(tabs(page)).toHaveCount(2);
  await expect(figures(page)).toContainText('largest');

  // The other picture goes, and comes back.
  await page.getByRole('radio', { name: 'Together' }).click();
  await page.keyboard.press('PageUp');
  await page.getByRole('button', { name: 'What to do with this picture' }).click();
  await page.getByRole('menuitem', { name: 'Remove' }).click();
  await expect(page.getByText('is not in the document any more')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(page.getByText('is not in the document any more')).toBeHidden();
  await expect(page.getByLabel('Place 2: Glaze tiles, 2')).toBeVisible();
  await page.getByRole('button', { name: 'One place' }).click();
  await expect(tabs(page)).toHaveCount(0);
});

test('a picture’s name and a step’s chip are dragged into Out; sizes that differ are told', async ({
  page
}) => {
  await threeVersions(page);
  const middle = async (): Promise<{ x: number; y: number }> => {
    const box = (await page.getByRole('region', { name: 'Out: the picture' }).boundingBox())!;
    return { x: box.x + box.width / 2, y: box.y + box.height / 2 };
  };
  const drag = async (what: ReturnType<Page['locator']>): Promise<void> => {
    const from = (await what.boundingBox())!;
    const to = await middle();
    await page.mouse.move(from.x + from.width / 2, from.y + from.height / 2);
    await page.mouse.down();
    await page.mouse.move(from.x + from.width / 2 + 12, from.y + from.height / 2 + 12, { steps: 4 });
    await page.mouse.move(to.x, to.y, { steps: 12 });
    await page.waitForTimeout(400);
    await page.mouse.up();
  };
  await drag(pictures(page).nth(0));
  await expect(tabs(page)).toHaveCount(2);
  await expect(tabs(page).nth(1)).toContainText('Glaze tiles');
  await expect(pictures(page)).toHaveText(['Glaze tiles', 'Glaze tiles, 2', 'Glaze tiles, 3']);
  await page.getByRole('button', { name: 'One place' }).click();
  await drag(page.locator('[data-step]').nth(0));
  await expect(tabs(page).nth(1)).toContainText('after Colour');
  await expect(page.getByRole('navigation', { name: 'Path' }).locator('.chip .title')).toHaveText([
    'Source',
    'Colour',
    'Invert'
  ]);

  await addStep(page, 'Straighten');
  await page.getByRole('radio', { name: 'Crop' }).click();
  await dragOver(page, [
    [10, 10],
    [1200, 900]
  ]);
  await page.getByRole('button', { name: 'One place' }).click();
  await pictures(page).nth(0).focus();
  await page.keyboard.press('b');
  await page.getByRole('radio', { name: 'Difference' }).click();
  await expect(figures(page)).toContainText('only pictures of one size have a difference');
  // Told once, and the picture that is worked on is seen as it is.
  await expect(page.getByText('only pictures of one size have a difference')).toHaveCount(1);
});

test('a version begins at a step, goes with what is changed before it, and is given a path of its own', async ({
  page
}) => {
  await openSample(page, 'Glaze tiles', '');
  await addStep(page, 'Invert');
  await page.getByRole('button', { name: 'What to do with Invert' }).click();
  // The menu is to be seen whole, over what lies below the path.
  const seen = await page.getByRole('menuitem').evaluateAll((items) =>
    items.map((item) => {
      const { x, y, width, height } = item.getBoundingClientRect();
      return item.contains(document.elementFromPoint(x + width / 2, y + height / 2));
    })
  );
  expect(seen.length).toBeGreaterThan(8);
  expect(seen).not.toContain(false);
  await page.getByRole('menuitem', { name: 'New version from here on' }).click();
  await expect(pictures(page)).toHaveText(['Glaze tiles', 'Glaze tiles, from Invert']);
  await addStep(page, 'Colour');
  await setPercent(page, 'Saturation', 30);
  await settled(page);
  const before = await exportOf(page);

  // Marked, moved by key, and apart again: the same picture by its own steps.
  await page.getByRole('button', { name: 'What to do with this picture' }).click();
  await page.getByRole('menuitem', { name: 'Mark as a favourite' }).click();
  await expect(pictures(page).nth(1).getByLabel('favourite')).toBeVisible();
  await pictures(page).nth(1).press('Alt+ArrowLeft');
  await expect(pictures(page)).toHaveText(['Glaze tiles, from Invert', 'Glaze tiles']);
  await page.getByRole('button', { name: 'What to do with this picture' }).click();
  await page.getByRole('menuitem', { name: 'Give it a path of its own' }).click();
  const titles = page.getByRole('navigation', { name: 'Path' }).locator('.chip .title');
  await expect(titles).toHaveText(['Source', 'Invert', 'Colour']);
  await settled(page);
  const after = await exportOf(page);
  expect(Buffer.from(after.data.buffer).equals(Buffer.from(before.data.buffer))).toBe(true);
  await page.keyboard.press('Control+z');
  await expect(titles).toHaveText(['Source', 'Colour']);
  await settled(page);
  await page.reload();
  await settled(page);
  await expect(pictures(page).nth(0).getByLabel('favourite')).toBeVisible();
});

test('a number is tried at several values, two as a grid; a value is taken in one undo', async ({ page }) => {
  await openSample(page, 'Glaze tiles', '');
  await addStep(page, 'Mix');
  const label = (name: string): ReturnType<Page['locator']> =>
    page.getByRole('group', { name, exact: true }).locator('.label');
  const wall = page.getByRole('group', { name: 'Values tried' });
  const tried = wall.getByRole('button');
  await label('green gets red').click();
  await expect(tried).toHaveCount(5);
  await page.getByRole('textbox', { name: 'Values of green gets red' }).fill('-40, 0, 40');
  await page.keyboard.press('Enter');
  await expect(tried).toHaveText(['−40 %', '0 %', '40 %']);
  // Each is the picture with that value: 40 % of red more in green, in a yellow tile, at the same place of all.
  await page.getByRole('textbox', { name: 'Values of green gets red' }).fill('two, 0, 40');
  await page.keyboard.press('Enter');
  await expect(page.getByText('“two” is no number')).toBeVisible();
  await expect(tried).toHaveText(['−40 %', '0 %', '40 %']);
  for (const name of ['−40 %', '0 %', '40 %'])
    await expect(page.getByLabel(name, { exact: true })).toHaveAttribute('aria-busy', 'false');
  const middle = (name: string): Promise<number[]> =>
    page
      .getByLabel(name, { exact: true })
      .evaluate((canvas: HTMLCanvasElement) => [
        ...canvas.getContext('2d')!.getImageData(canvas.width / 2, canvas.height / 2, 1, 1).data
      ]);
  const [less, same, more] = [await middle('−40 %'), await middle('0 %'), await middle('40 %')];
  // Their canvases may differ by a pixel.
  for (const [red] of [less, more]) expect(Math.abs(red - same[0])).toBeLessThan(3);
  expect(Math.abs(more[1] - (same[1] + 0.4 * same[0]))).toBeLessThan(2);
  expect(Math.abs(less[1] - (same[1] - 0.4 * same[0]))).toBeLessThan(2);
  await tried.nth(2).click();
  await expect(wall).toHaveCount(0);
  const field = page.getByRole('textbox', { name: 'green gets red in percent', exact: true });
  await expect(field).toHaveValue('40');
  await page.keyboard.press('Control+z');
  await expect(field).toHaveValue('0');

  // Two numbers, of the same row too, by key.
  await field.press('t');
  await page.getByRole('textbox', { name: 'green gets blue in percent', exact: true }).press('t');
  await expect(tried).toHaveCount(15);
  await page.getByLabel('How many values of green gets blue').selectOption('4');
  await expect(tried).toHaveCount(20);
  await tried.nth(19).focus();
  await page.keyboard.press('ArrowLeft');
  await page.keyboard.press('Enter');
  await expect(field).toHaveValue('50');
  await expect(page.getByRole('textbox', { name: 'green gets blue in percent', exact: true })).toHaveValue(
    '100'
  );
  await page.keyboard.press('Control+z');
  await expect(field).toHaveValue('0');

  // A radius and an opacity; it ends without a trace.
  await addStep(page, 'Blur');
  await label('Blur radius').click();
  await expect(tried).toHaveCount(5);
  const texts = (await tried.allTextContents()).map((text) => text.trim());
  expect(texts).toContain('4 px');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Escape');
  await expect(wall).toHaveCount(0);
  await openPart(page, 'Blend');
  await label('Opacity').click();
  await expect(tried.last()).toHaveText('100 %');
  await page.getByRole('button', { name: 'End', exact: true }).click();
  // The size of a brush is nothing of the picture's.
  await openPart(page, 'Where');
  await page.keyboard.press('s');
  const size = page.getByRole('group', { name: 'Size of the brush', exact: true });
  const before = await size.getByRole('textbox').inputValue();
  await size.locator('.label').click();
  await page.waitForTimeout(600);
  await expect(wall).toHaveCount(0);
  await expect(size.getByRole('textbox')).toHaveValue(before);
});
