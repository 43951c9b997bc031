import {
  addStep,
  dropPin,
  expect,
  exportedPixels,
  onScreen,
  openPart,
  openSample,
  reading,
  setAmount,
  setOn,
  settled,
  visiting as test
} from './bench-page';

test('steps are found, renamed, duplicated, moved by key and by drag, switched and undone', async ({
  page
}) => {
  await openSample(page, 'Quench tank');
  const titles = page.getByRole('navigation', { name: 'Path' }).locator('.chip .title');
  await page.keyboard.press('a');
  await page.getByLabel('Search the steps').fill('cast');
  await expect(page.getByRole('listbox', { name: 'Steps' }).getByRole('option')).toHaveText([
    /^Balance/,
    /^Rein in/
  ]);
  await page.getByLabel('Search the steps').fill('nothing of the kind');
  await expect(page.getByText('No step is called that')).toBeVisible();
  await page.keyboard.press('Escape');
  await addStep(page, 'Blur');
  await addStep(page, 'Tint');
  await expect(titles).toHaveText(['Source', 'Mix', 'Blur', 'Tint']);

  await page.getByRole('button', { name: 'What to do with Tint' }).click();
  await page.getByRole('menuitem', { name: 'Rename' }).click();
  await page.getByLabel('Name of the step').fill('sepia');
  await page.keyboard.press('Enter');
  await expect(titles).toHaveText(['Source', 'Mix', 'Blur', 'sepia']);
  await page.getByRole('button', { name: 'What to do with Blur' }).click();
  await page.getByRole('menuitem', { name: 'Duplicate' }).click();
  await expect(titles).toHaveText(['Source', 'Mix', 'Blur', 'Blur', 'sepia']);
  await page.keyboard.press('Delete');
  await expect(titles).toHaveText(['Source', 'Mix', 'Blur', 'sepia']);

  const chips = page.getByRole('navigation', { name: 'Path' }).locator('.chip .choose');
  await chips.nth(3).focus();
  await page.keyboard.press('Alt+ArrowLeft');
  await expect(titles).toHaveText(['Source', 'Mix', 'sepia', 'Blur']);
  const [from, to] = [(await chips.nth(3).boundingBox())!, (await chips.nth(1).boundingBox())!];
  await page.mouse.move(from.x + 40, from.y + 30);
  await page.mouse.down();
  await page.mouse.move(from.x, from.y + 30, { steps: 4 });
  await page.mouse.move(to.x + 20, to.y + 30, { steps: 14 });
  await page.waitForTimeout(400);
  await page.mouse.up();
  await expect(titles).toHaveText(['Source', 'Blur', 'Mix', 'sepia']);
  // One entry a gesture, made when the chip has come to rest.
  await page.waitForTimeout(600);
  await page.keyboard.press('Control+z');
  await expect(titles).toHaveText(['Source', 'Mix', 'sepia', 'Blur']);
  await page.keyboard.press('Control+z');
  await expect(titles).toHaveText(['Source', 'Mix', 'Blur', 'sepia']);
  await page.keyboard.press('Control+Shift+z');
  await expect(titles).toHaveText(['Source', 'Mix', 'sepia', 'Blur']);

  // A step that moves pixels goes to the front and stays there.
  await addStep(page, 'Straighten');
  await expect(titles).toHaveText(['Source', 'Straighten', 'Mix', 'sepia', 'Blur']);
  await chips.nth(1).focus();
  await page.keyboard.press('Alt+ArrowRight');
  await expect(titles).toHaveText(['Source', 'Straighten', 'Mix', 'sepia', 'Blur']);
});

test('text that is no step is refused, and the path stays', async ({ page, context }) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await openSample(page, 'Quench tank');
  await page.evaluate(() =>
    navigator.clipboard.writeText(
      '{"kromba": 1, "kind": "look", "name": "x", "steps": [{"id": "a", "op": "blur", "params": {"radius": 900}}]}'
    )
  );
  await page.keyboard.press('Control+v');
  await expect(page.getByText('Nothing was pasted.')).toBeVisible();
  await expect(
    page.getByText('$.steps[0].params.radius: must be at most 100 px. The path is as it was.')
  ).toBeVisible();
  await page.evaluate(() => navigator.clipboard.writeText('a shopping list'));
  await page.keyboard.press('Control+v');
  await expect(page.getByText('The clipboard holds no steps.')).toBeVisible();
  await expect(page.getByRole('navigation', { name: 'Path' }).locator('.chip')).toHaveCount(2);
});

test('a chosen channel is seen as a grey picture before and after, or as its effect in colour', async ({
  page
}) => {
  await openSample(page, 'Jug under lamps');
  await addStep(page, 'Levels');
  await setOn(page, 'CMYK', ['magenta']);
  await page.getByRole('tab', { name: 'One' }).click();
  await expect(page.getByRole('radio', { name: 'CMYK magenta' })).toBeChecked();
  await page.keyboard.press('g');
  await expect(page.getByRole('button', { name: 'Grey M' })).toHaveAttribute('aria-pressed', 'true');
  await page.getByRole('radio', { name: 'magenta', exact: true }).click();
  await setAmount(page, 'cmyk.m out white in percent', 40);
  await settled(page);
  const spot = await onScreen(page, 860, 980);
  await page.mouse.move(spot.x, spot.y);
  await settled(page);
  const [before, after] = [await reading(page, 'in'), await reading(page, 'out')];
  expect(Math.abs(after['cmyk.m'] - 0.4 * before['cmyk.m'])).toBeLessThan(0.2);
  expect(Math.abs(after['cmyk.y'] - before['cmyk.y'])).toBeLessThan(0.2);
  // Ink as it lies on paper: less of it is lighter.
  const grey = await page.getByLabel('The picture', { exact: true }).evaluate((canvas: HTMLCanvasElement) => {
    const { data } = canvas.getContext('2d')!.getImageData(canvas.width / 2, canvas.height / 2, 1, 1);
    return [...data];
  });
  expect(grey[0] === grey[1] && grey[1] === grey[2]).toBe(true);
});

test('limits hold a step to its tones', async ({ page }) => {
  await openSample(page, 'Quench tank');
  await addStep(page, 'Invert');
  await openPart(page, 'Limits');
  const handle = page.getByRole('slider', { name: 'Tones that come in: begins' });
  await page.getByRole('slider', { name: 'Tones that come in: is full' }).focus();
  for (let i = 0; i < 5; i++) await page.keyboard.press('Shift+ArrowRight');
  await handle.focus();
  for (let i = 0; i < 5; i++) await page.keyboard.press('Shift+ArrowRight');
  await expect(handle).toHaveAttribute('aria-valuenow', '50');
  await expect(page.getByRole('region', { name: 'Limits' })).toContainText('50 – 50 – 100 – 100 %');
  await settled(page);
  const after = await exportedPixels(page);
  await page.keyboard.press('x');
  await settled(page);
  const before = await exportedPixels(page);
  const lum = ([r, g, b]: readonly number[]): number => {
    const light = [r, g, b].map((v) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4));
    const y = 0.2126 * light[0] + 0.7152 * light[1] + 0.0722 * light[2];
    return y <= 0.0031308 ? 12.92 * y : 1.055 * y ** (1 / 2.4) - 0.055;
  };
  let [inside, outside, most] = [0, 0, 0];
  for (let y = 0; y < before.height; y += 11) {
    for (let x = 0; x < before.width; x += 11) {
      const [was, is] = [before.at(x, y), after.at(x, y)];
      const tone = lum(was);
      if (Math.abs(tone - 0.5) < 1e-3) continue;
      const wanted = tone > 0.5 ? was.map((v) => 1 - v) : was;
      if (tone > 0.5) inside++;
      else outside++;
      is.forEach((v, c) => (most = Math.max(most, Math.abs(v - wanted[c]))));
    }
  }
  expect(most).toBeLessThan(4e-5);
  expect(Math.min(inside, outside)).toBeGreaterThan(1000);
});

test('pins are dropped, named, moved and read; they follow straighten and crop', async ({ page }) => {
  await openSample(page, 'Jug under lamps');
  await dropPin(page, 860, 980, 'neutral');
  const table = page.getByRole('region', { name: 'Pins' });
  await table.getByLabel('Name of pin 1').fill('glaze');
  await table.getByLabel('Name of pin 1').press('Enter');
  const pin = page.getByRole('button', { name: 'glaze, should be neutral' });
  await expect(pin).toBeVisible();
  const values = table.locator('td.values [data-side="out"]');
  await expect(values).not.toHaveText('');
  const before = (await values.textContent())!;
  await addStep(page, 'Straighten');
  await page.getByRole('button', { name: '90° right' }).click();
  await page.getByRole('navigation', { name: 'Path' }).locator('.choose').last().click();
  await settled(page);
  // The same place of the frame, elsewhere on the picture, with the same numbers.
  await expect(values).toHaveText(before);
  await expect(page.locator('footer')).toContainText('MP');
  const box = (await page.getByLabel('The picture', { exact: true }).boundingBox())!;
  const zoom = Math.min(box.width / 1600, box.height / 2400);
  const at = (await pin.boundingBox())!;
  // Turned right: x becomes 1600 − y.
  const wanted = {
    x: box.x + box.width / 2 + (1600 - 980 - 800) * zoom,
    y: box.y + box.height / 2 + (860 - 1200) * zoom
  };
  expect(Math.abs(at.x - 6 - wanted.x)).toBeLessThan(4);
  expect(Math.abs(at.y + 28 - wanted.y)).toBeLessThan(4);
  await pin.focus();
  await page.keyboard.press('Shift+ArrowUp');
  await expect(values).not.toHaveText(before);
  await page.keyboard.press('Control+z');
  await expect(values).toHaveText(before);
  await pin.focus();
  await page.keyboard.press('Delete');
  await expect(pin).toBeHidden();
});

test('straighten: a line sets the picture level, and a crop of fixed proportions goes into the export', async ({
  page
}) => {
  await openSample(page, 'Harbour in haze');
  await addStep(page, 'Straighten');
  const box = (await page.getByLabel('The picture', { exact: true }).boundingBox())!;
  const [x, y] = [box.x + box.width * 0.3, box.y + box.height * 0.6];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x + 200, y + 10, { steps: 6 });
  await page.mouse.up();
  const angle = page.getByRole('textbox', { name: 'Angle in degrees' });
  await expect(angle).toHaveValue(/−2\.[78]/);
  await page.getByRole('radio', { name: 'Crop' }).click();
  await page.getByLabel('Proportions').selectOption({ label: '1 : 1' });
  const width = page.getByRole('textbox', { name: 'Crop width in pixels' });
  const side = Number(await width.inputValue());
  expect(side).toBeGreaterThan(1200);
  await expect(page.getByRole('textbox', { name: 'Crop height in pixels' })).toHaveValue(String(side));
  const pixels = await exportedPixels(page);
  expect([pixels.width, pixels.height]).toEqual([side, side]);
  for (const [u, v] of [
    [0, 0],
    [side - 1, 0],
    [0, side - 1],
    [side - 1, side - 1]
  ])
    expect(Math.max(...pixels.at(u, v))).toBeGreaterThan(0.05);
});
