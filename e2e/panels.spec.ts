import {
  addStep,
  dropPin,
  expect,
  exportedPixels,
  onScreen,
  openSample,
  reading,
  setAmount,
  settled,
  visiting as test
} from './bench-page';

/** What the panels of single steps do, by mouse and by keyboard. */

test('a click on the picture puts a point on the curve at that tone, and the arrows move it', async ({
  page
}) => {
  await openSample(page, 'Harbour in haze');
  await addStep(page, 'Curves');
  await page.getByRole('radio', { name: 'red', exact: true }).click();
  await page.getByRole('button', { name: 'Set on the picture' }).click();
  await expect(page.getByText('Click: a point on the curve at that tone')).toBeVisible();
  const spot = await onScreen(page, 1400, 1300);
  await page.mouse.move(spot.x, spot.y);
  await settled(page);
  const red = (await reading(page, 'in'))['rgb.r'];
  await page.mouse.click(spot.x, spot.y);
  const points = page.getByRole('slider', { name: /^curve point/ });
  await expect(points).toHaveCount(3);
  const into = page.getByRole('textbox', { name: 'Point in in percent' });
  expect(Math.abs(Number(await into.inputValue()) - red)).toBeLessThan(3);
  await page.keyboard.press('Escape');
  await points.nth(1).focus();
  await page.keyboard.press('Shift+ArrowUp');
  const out = page.getByRole('textbox', { name: 'Point out in percent' });
  expect(Number(await out.inputValue())).toBeCloseTo(Number(await into.inputValue()) + 10, 0);
  await setAmount(page, 'Point out in percent', 80);
  await expect(points.nth(1)).toHaveAttribute('aria-valuenow', '0.8');
  await points.nth(1).focus();
  await page.keyboard.press('Delete');
  await expect(points).toHaveCount(2);
  await page.keyboard.press('Control+z');
  await expect(points).toHaveCount(3);
});

test('a click on the picture chooses the band of hue of that colour', async ({ page }) => {
  await openSample(page, 'Harbour in haze');
  await addStep(page, 'Colour');
  await page.getByRole('button', { name: 'Pick a colour' }).click();
  // An orange float.
  const spot = await onScreen(page, 1120, 1400);
  await page.mouse.click(spot.x, spot.y);
  const centre = page.getByRole('textbox', { name: 'Band centre in degrees' });
  await expect(centre).toBeVisible();
  const hue = Number(await centre.inputValue());
  expect(hue).toBeGreaterThan(25);
  expect(hue).toBeLessThan(65);
  // A second click on the same colour chooses the band that is there.
  await page.mouse.click(spot.x + 4, spot.y + 3);
  await page.keyboard.press('Escape');
  await setAmount(page, 'Band saturation in percent', -100);
  await settled(page);
  await page.mouse.move(spot.x + 1, spot.y);
  await page.mouse.move(spot.x, spot.y);
  await expect
    .poll(async () => {
      const { 'lab.a': a, 'lab.b': b } = await reading(page, 'out');
      return Math.hypot(a, b);
    })
    .toBeLessThan(8);
  await page.getByRole('button', { name: 'Remove this band' }).click();
  await expect(centre).toBeHidden();
  await expect(page.getByText('No band yet.')).toBeVisible();
});

test('black and white: a starting point, a further channel, and two pins driven apart', async ({ page }) => {
  await openSample(page, 'Glaze tiles');
  await addStep(page, 'Black and white');
  const work = page.getByRole('region', { name: /^Work/ });
  await work.getByRole('button', { name: 'Red glass' }).click();
  await expect(page.getByRole('textbox', { name: 'Grey from red in percent' })).toHaveValue('124');
  await expect(work).toContainText('total 100 %');
  await work.getByLabel('Add a channel').selectOption({ label: 'K · black' });
  await setAmount(page, 'Grey from black in percent', -20);
  await expect(work).toContainText('total 80 %');
  await work.getByRole('button', { name: 'Leave out black' }).click();
  await expect(work).toContainText('total 100 %');
  const separate = work.getByRole('button', { name: 'Separate the pins' });
  await expect(separate).toBeDisabled();
  // An orange tile wanted, a blue one to avoid.
  await dropPin(page, 545, 632, 'want');
  await dropPin(page, 1360, 632, 'avoid');
  const greys = page
    .getByRole('region', { name: 'Pins' })
    .locator('td.values [data-side="out"] span:first-child');
  await expect(greys).toHaveCount(2);
  const apart = async (): Promise<number> => {
    const [want, avoid] = (await greys.allInnerTexts()).map(Number);
    return want - avoid;
  };
  await work.getByRole('button', { name: 'Plain' }).click();
  await settled(page);
  await page.waitForTimeout(500);
  const plain = await apart();
  await separate.click();
  const proposed = work.getByRole('region', { name: 'Proposed weights' });
  await expect(proposed).toContainText(
    /The wanted becomes \d+ % light, the avoided \d+ %; about \d+ % of the picture clips/
  );
  await expect.poll(apart).toBeGreaterThan(2 * Math.abs(plain));
  // It is seen, and not taken yet.
  await proposed.getByRole('button', { name: 'Dismiss' }).click();
  await expect.poll(apart).toBeCloseTo(plain, 0);
  await separate.click();
  await proposed.getByRole('button', { name: 'Take' }).click();
  await expect(work).toContainText('total 100 %');
  await expect.poll(apart).toBeGreaterThan(2 * Math.abs(plain));
  // The other way round, the blue one is light.
  const roles = page.getByRole('combobox', { name: /^Role of/ });
  await roles.nth(0).selectOption('avoid');
  await roles.nth(1).selectOption('want');
  await separate.click();
  await proposed.getByRole('button', { name: 'Take' }).click();
  await expect.poll(apart).toBeLessThan(0);
  for (let k = 0; k < 4; k++) await page.keyboard.press('Control+z');
  await expect(page.getByRole('textbox', { name: 'Grey from red in percent' })).toHaveValue('30');
});

test('balance: the temperature of the light writes the gains, warm light is taken towards blue', async ({
  page
}) => {
  await openSample(page, 'Old print');
  await addStep(page, 'Balance');
  await setAmount(page, 'Temperature of the light in kelvin', 3200);
  const gain = (name: string): Promise<number> =>
    page
      .getByRole('textbox', { name: `gain of ${name} in percent` })
      .inputValue()
      .then(Number);
  expect(await gain('blue')).toBeGreaterThan(2 * (await gain('red')));
  await expect(page.getByRole('textbox', { name: 'Temperature of the light in kelvin' })).toHaveValue(
    /^3(19|20)\d$/
  );
  await page.getByLabel('Method').selectOption({ label: 'Neutral pins are neutral' });
  await expect(page.getByText('There is no pin of role')).toBeVisible();
});

test('one tolerance for each channel, and one for all again', async ({ page }) => {
  await openSample(page, 'Woven cloth');
  await addStep(page, 'Smooth');
  await page.getByRole('button', { name: 'One for all' }).click();
  // In LAB's own units: a tenth of the range of a* and b*, which is 256, is 25.6.
  await setAmount(page, 'Smooth tolerance of green to magenta', 76.8);
  await expect(
    page.getByRole('textbox', { name: 'Smooth tolerance of blue to yellow', exact: true })
  ).toHaveValue('25.6');
  await expect(page.getByRole('region', { name: /^Work/ })).toContainText('each channel by its own');
  await page.getByRole('button', { name: 'One for each' }).click();
  await expect(page.getByRole('textbox', { name: 'Smooth tolerance', exact: true })).toHaveValue('76.8');
});

test('the histogram counts what is clipped, shows where, and changes its model', async ({ page }) => {
  await openSample(page, 'Jug under lamps');
  await addStep(page, 'Levels');
  await setAmount(page, 'all white in percent', 60);
  const histogram = page.getByRole('region', { name: 'Histogram' });
  const white = histogram.getByRole('button', { name: /^white/ }).first();
  await expect(white).toContainText(/white \d*[1-9]\d*\.\d %/, { timeout: 60_000 });
  const box = (await white.boundingBox())!;
  await page.mouse.move(box.x + 10, box.y + 6);
  await page.mouse.down();
  await expect(page.getByText('Clipped samples', { exact: true })).toBeVisible();
  await page.mouse.up();
  await expect(page.getByText('Clipped samples', { exact: true })).toBeHidden();
  await histogram.getByLabel('Model of the histogram').selectOption({ label: 'CMYK' });
  await histogram.getByRole('button', { name: 'log' }).click();
  await expect(histogram.locator('canvas')).toBeVisible();
  await page.getByRole('button', { name: 'a b plane' }).click();
  await expect(page.getByRole('region', { name: 'a b plane' }).locator('canvas')).toBeVisible();
});

test('scales are raised, seen alone in In, compressed, and found by what people call them', async ({
  page
}) => {
  await openSample(page, 'Woven cloth');
  await page.keyboard.press('a');
  await page.getByLabel('Search the steps').fill('wavelet');
  await page.keyboard.press('Enter');
  const work = page.getByRole('region', { name: /^Work/ });
  await expect(work.getByText('By size: all as it is')).toBeVisible();
  const inPane = page.getByRole('region', { name: /^In:/ });
  await page.getByRole('button', { name: 'See what is of 4 px in In' }).click();
  await expect(inPane.getByText('What is of 4 px')).toBeVisible();
  await settled(page, 150_000);
  await page.getByRole('button', { name: 'See what is of 4 px in In' }).click();
  await expect(inPane.getByText('What is of 4 px')).toBeHidden();
  await page.getByRole('button', { name: 'See what is of 1 px in In' }).click();
  await page.getByRole('tab', { name: 'Wall' }).click();
  await expect(inPane.getByText('What is of 1 px')).toBeHidden();

  // What is of 2 px taken out: beside each other samples differ less than before.
  const roughness = async (): Promise<number> => {
    const { value, width, height } = await exportedPixels(page);
    let sum = 0;
    for (let y = 600; y < 700; y++)
      for (let x = 600; x < 900; x++) sum += Math.abs(value(x + 2, y, 1) - value(x, y, 1));
    expect([width, height]).toEqual([2400, 1600]);
    return sum;
  };
  const before = await roughness();
  await setAmount(page, 'Scales gain of 2 px in percent', 0);
  await setAmount(page, 'Scales gain of 1 px in percent', 0);
  await expect(work.getByText('By size: 2 of 6 scales')).toBeVisible();
  await settled(page, 150_000);
  expect(await roughness()).toBeLessThan(0.7 * before);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await page.locator('label').filter({ hasText: 'Compress what is coarse' }).first().click();
  await expect(work.getByText(/coarser than 32 px compressed by 50 %/)).toBeVisible();
  await page.getByRole('button', { name: 'A coarser scale' }).click();
  await expect(page.getByRole('button', { name: 'See what is of 64 px in In' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'A coarser scale' })).toBeDisabled();
  await page.getByText('Leave out what is noise').click();
  await setAmount(page, 'Scales noise threshold of 1 px, in sigma', 3);
  await expect(page.getByText(/^What is fainter .* Noise: [\d.]+ %/)).toBeVisible({ timeout: 150_000 });
  await settled(page, 150_000);
});
