import {
  addStep,
  expect,
  exportedPixels,
  openPart,
  openSample,
  setAmount,
  setPercent,
  settled,
  visiting as test
} from './bench-page';

test('what was overdone is folded into a group, faded as one, and taken apart again', async ({ page }) => {
  await openSample(page, 'Glaze tiles', '');
  const before = await exportedPixels(page);
  await addStep(page, 'Levels');
  await addStep(page, 'Colour');
  await setPercent(page, 'Saturation', 60);
  const path = page.getByRole('navigation', { name: 'Path' });
  const titles = path.locator('.chip .title');
  const chips = path.locator('.chip .choose');
  await addStep(page, 'Invert');
  await settled(page);
  const overdone = await exportedPixels(page);

  // From the last back to the first, all between with them.
  await chips.nth(1).click({ modifiers: ['Shift'] });
  await page.keyboard.press('u');
  await expect(titles).toHaveText(['Source', 'Group']);
  await expect(page.getByText('3 steps together')).toHaveCount(2);
  await setPercent(page, 'Strength of the group', 40);
  await settled(page);
  const faded = await exportedPixels(page);
  let compared = 0;
  for (const [x, y] of [
    [300, 300],
    [1200, 800],
    [2000, 1300]
  ]) {
    const [b, o, f] = [before, overdone, faded].map((pixels) => pixels.at(x, y));
    // 40 % of the way, within the rounding of three files of 16 bit; what the overdone one clips can't be told from it.
    f.forEach((v, c) => {
      if (o[c] <= 0 || o[c] >= 1) return;
      compared++;
      expect(Math.abs(v - (b[c] + 0.4 * (o[c] - b[c])))).toBeLessThan(3e-5);
    });
  }
  expect(compared).toBeGreaterThan(4);

  // Its steps stand in the row, and are worked on as any.
  await page.getByRole('button', { name: 'Group: steps inside' }).click();
  await expect(titles).toHaveText(['Source', 'Group', 'Levels', 'Colour', 'Invert']);
  await page.keyboard.press('.');
  await page.keyboard.press('.');
  await expect(page.getByRole('region', { name: /^Work/ }).locator('header .name')).toHaveText('Colour');
  await page.keyboard.press('x');
  await expect(chips.nth(3).locator('.subtitle')).toHaveText('off');
  await page.getByRole('button', { name: 'Group: steps inside' }).click();
  await expect(titles).toHaveText(['Source', 'Group']);
  await expect(page.getByRole('region', { name: /^Work/ }).locator('header .name')).toHaveText('Group');
  await expect(page.getByText('2 steps together')).toHaveCount(2);

  // It has a mask and limits of its own, and is there after a reload.
  await openPart(page, 'Limits');
  await settled(page);
  await page.reload();
  await settled(page);
  await expect(titles).toHaveText(['Source', 'Group']);
  await page.getByRole('button', { name: 'Take apart' }).click();
  await expect(titles).toHaveText(['Source', 'Levels', 'Colour', 'Invert']);
  await expect(page.getByText('Undo brings it back')).toBeVisible();
  await page.keyboard.press('Control+z');
  // The step that is selected is inside, and so in sight.
  await expect(titles).toHaveText(['Source', 'Group', 'Levels', 'Colour', 'Invert']);
});

test('steps are dragged into a group and out of it, each in one undo, and by the menu and keys', async ({
  page
}) => {
  // All chips in sight at once.
  await page.setViewportSize({ width: 1720, height: 900 });
  await openSample(page, 'Quench tank', '');
  for (const title of ['Invert', 'Equalise', 'Tint']) await addStep(page, title);
  const path = page.getByRole('navigation', { name: 'Path' });
  const titles = path.locator('.chip .title');
  const chips = path.locator('.chip .choose');
  const inside = page.getByRole('list', { name: 'Steps of Group' }).locator('.chip .title');
  await page.keyboard.press('u');
  await expect(titles).toHaveText(['Source', 'Invert', 'Equalise', 'Group']);
  await page.getByRole('button', { name: 'Group: steps inside' }).click();
  await expect(inside).toHaveText(['Tint']);

  const list = page.getByRole('list', { name: 'Steps of Group' });
  const from = (await chips.nth(2).boundingBox())!;
  await page.mouse.move(from.x + from.width / 2, from.y + 30);
  await page.mouse.down();
  await page.mouse.move(from.x + from.width / 2 + 30, from.y + 30, { steps: 4 });
  // As the chip leaves its place the group moves up to it: a hand follows.
  for (let i = 0; i < 3; i++) {
    const to = (await list.boundingBox())!;
    await page.mouse.move(to.x + to.width - 60, to.y + 30, { steps: 8 });
    await page.waitForTimeout(350);
  }
  await page.mouse.up();
  await page.waitForTimeout(600);
  // Before or behind the one that is there, as the hand was.
  await expect(inside).toHaveCount(2);
  await expect(inside.filter({ hasText: 'Equalise' })).toHaveCount(1);
  await page.keyboard.press('Control+z');
  await expect(titles).toHaveText(['Source', 'Invert', 'Equalise', 'Group', 'Tint']);
  await page.keyboard.press('Control+Shift+z');
  await expect(inside).toHaveCount(2);

  // Out again by keys: past the end of the group.
  await chips.filter({ hasText: 'Equalise' }).focus();
  if ((await inside.first().textContent()) === 'Equalise') {
    await page.keyboard.press('Alt+ArrowRight');
    await expect(inside).toHaveText(['Tint', 'Equalise']);
  }
  await page.keyboard.press('Alt+ArrowRight');
  await expect(inside).toHaveText(['Tint']);
  await expect(titles).toHaveText(['Source', 'Invert', 'Group', 'Tint', 'Equalise']);
  await page.getByRole('button', { name: 'What to do with Invert' }).click();
  await page.getByRole('menuitem', { name: 'Into “Group” after' }).click();
  await expect(inside).toHaveText(['Invert', 'Tint']);

  // What moves pixels stays outside, and says why.
  await addStep(page, 'Straighten');
  await page.keyboard.press('u');
  await expect(page.getByText('“Straighten” moves pixels and can’t stand inside a group.')).toBeVisible();
});

test('another picture is laid on, moved and multiplied', async ({ page }) => {
  await openSample(page, 'Jug under lamps', '');
  const under = await exportedPixels(page);
  await page.keyboard.press('d');
  await addStep(page, 'Lay over');
  await expect(page.getByText('Another picture, not chosen yet')).toHaveCount(2);
  await page.getByLabel('Picture on top').selectOption({ label: 'Jug under lamps' });
  await setAmount(page, 'Shift to the right', 100);
  await openPart(page, 'Blend');
  await page.getByLabel('Mode', { exact: true }).selectOption({ label: 'Multiply' });
  await settled(page);
  const laid = await exportedPixels(page);
  const [a, b, c] = [under.at(900, 700), under.at(800, 700), laid.at(900, 700)];
  a.forEach((v, i) => expect(Math.abs(c[i] - v * b[i])).toBeLessThan(3e-5));
  // Where it does not reach it has no effect.
  laid.at(50, 700).forEach((v, i) => expect(Math.abs(v - under.at(50, 700)[i])).toBeLessThan(2e-5));
});
