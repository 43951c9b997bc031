import { readFile } from 'node:fs/promises';
import { decode } from 'fast-png';
import { expect, exported, onScreen, openSample, reading, setWeight, settled, test } from './bench-page';

/** White glaze on the lamp's side. */
const GLAZE = { x: 860, y: 980 };

test('a cast is taken out by the mix, compared, exported, and all is there after a reload', async ({
  page
}) => {
  await openSample(page, 'Jug under lamps');
  const spot = await onScreen(page, GLAZE.x, GLAZE.y);
  await page.mouse.move(spot.x, spot.y);
  await expect(page.locator('footer')).toContainText(/^8(5[89]|6[0-2]), 9(7[89]|8[0-2])/);
  const before = await reading(page, 'in');
  // Rose light: red stands well above green.
  expect(before['rgb.r'] - before['rgb.g']).toBeGreaterThan(8);

  // A first try by hand: green's slider for red is dragged to the right.
  const slider = (await page.getByRole('slider', { name: 'green gets red, slider' }).boundingBox())!;
  await page.mouse.move(slider.x + slider.width / 2, slider.y + slider.height / 2);
  await page.mouse.down();
  await page.mouse.move(slider.x + slider.width * 0.56, slider.y + slider.height / 2, { steps: 12 });
  await page.mouse.up();
  await page.mouse.move(spot.x, spot.y);
  await settled(page);
  expect((await reading(page, 'out'))['rgb.g']).toBeGreaterThan(before['rgb.g'] + 5);

  // Then by numbers: green and blue get what they lack of red.
  await setWeight(page, 'green gets red', (100 * (before['rgb.r'] - before['rgb.g'])) / before['rgb.r']);
  await setWeight(page, 'blue gets red', (100 * (before['rgb.r'] - before['rgb.b'])) / before['rgb.r']);
  await page.mouse.move(spot.x + 1, spot.y);
  await page.mouse.move(spot.x, spot.y);
  await settled(page);
  const after = await reading(page, 'out');
  const rgb = [after['rgb.r'], after['rgb.g'], after['rgb.b']];
  expect(Math.max(...rgb) - Math.min(...rgb)).toBeLessThan(2);
  expect(await reading(page, 'in')).toEqual(before);

  // Compared by holding a key.
  await page.keyboard.down('o');
  await expect(page.getByRole('status').filter({ hasText: 'Original' })).toBeVisible();
  await page.keyboard.up('o');
  await expect(page.getByRole('status').filter({ hasText: 'Original' })).toBeHidden();

  // Exported as a 16-bit PNG that holds what the screen said.
  const png = decode(await readFile(await exported(page)));
  expect([png.width, png.height, png.depth, png.channels]).toEqual([2400, 1600, 16, 3]);
  const [x, y] = (await page.locator('footer .place').innerText()).split(', ').map(Number);
  rgb.forEach((told, c) => {
    const sample = png.data[(y * png.width + x) * 3 + c] / 655.35;
    expect(Math.abs(sample - told)).toBeLessThan(0.051);
  });

  // A reload finds the same document and the same history.
  const undo = page.getByRole('button', { name: 'Undo', exact: true });
  const undoLabel = await undo.getAttribute('title');
  const blue = page.getByRole('textbox', { name: 'blue gets red in percent', exact: true });
  const wanted = await blue.inputValue();
  await page.reload();
  await settled(page);
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('Jug under lamps');
  await expect(blue).toHaveValue(wanted);
  await expect(undo).toHaveAttribute('title', undoLabel!);
  await page.keyboard.press('Control+z');
  await expect(blue).toHaveValue('0');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('textbox', { name: 'green gets red in percent', exact: true })).toHaveValue(
    '0'
  );
  // Before all of it there was no step.
  await page.keyboard.press('Control+z');
  await expect(undo).toBeDisabled();
  await expect(page.getByRole('list', { name: 'Ways to begin' })).toBeVisible();
  for (let i = 0; i < 4; i++) await page.keyboard.press('Control+Shift+z');
  await expect(blue).toHaveValue(wanted);
});
