import { readFileSync } from 'node:fs';
import { readFits } from '../src/core/files/fits/read';
import { writeFits } from '../src/core/files/fits/write';
import { randomStream } from '../src/core/random';
import {
  addStep,
  addTerm,
  expect,
  exportedPixels,
  onScreen,
  openPart,
  openSample,
  reading,
  setOn,
  settled,
  test
} from './bench-page';
import { corners, openFrames, SIZE, spread } from './deep-sky';

test('Quern: a quiet lightness, colour without gradients, and hydrogen in red', async ({ page }) => {
  test.setTimeout(600_000);
  const tabs = page.getByRole('group', { name: 'Pictures' });
  const broadAndNarrow = ['L', 'R', 'G', 'B', 'H'];
  await openSample(page, 'Quern', '');
  await expect(tabs.getByRole('listitem')).toHaveText(broadAndNarrow);
  const truths = await openFrames(page, 'quern');
  await expect(tabs.getByRole('listitem')).toHaveText(broadAndNarrow);
  const menu = async (title: string): Promise<void> => {
    await page.getByRole('button', { name: 'What to do with this picture' }).click();
    await page.getByRole('menuitem', { name: title }).click();
  };
  const shown = (name: string): Promise<void> =>
    expect(tabs.getByRole('button', { name, exact: true })).toHaveAttribute('aria-pressed', 'true');
  const evenSky = async (): Promise<void> => {
    await addStep(page, 'Even sky');
    await page.locator('label').filter({ hasText: 'Spare objects' }).first().click();
    await expect(page.getByText(/% of the picture is spared/)).toBeVisible({ timeout: 150_000 });
    await settled(page, 150_000);
  };
  await tabs.getByRole('button', { name: 'H', exact: true }).click();
  await shown('H');
  await addStep(page, 'Level lines');
  await evenSky();
  // The frames were taken without moving the telescope: its stars say so, through gradient and lines.
  await addStep(page, 'Bring onto another');
  await page.getByLabel('Onto', { exact: true }).selectOption({ label: 'L' });
  const lies = page.getByRole('table', { name: 'How it lies on the other' });
  await expect(lies.getByRole('row', { name: /stars that agree \d\d/ })).toBeVisible({ timeout: 150_000 });
  const [right, down, turned, scaled, , apart] = (await lies.getByRole('cell').allInnerTexts()).map((text) =>
    Number(text.replace('−', '-'))
  );
  for (const v of [right, down, turned, scaled - 100]) expect(Math.abs(v)).toBeLessThan(0.1);
  expect(apart).toBeLessThan(0.3);
  await settled(page, 150_000);
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('button', { name: 'Undo' }).click();

  await menu('Put pictures together');
  await shown('L-R-G-B');
  await page.getByRole('button', { name: 'R-G-B', exact: true }).click();
  await expect(page.getByText('Blue is 100 % B.')).toBeVisible();
  await evenSky();
  await addStep(page, 'Balance');
  await page.getByLabel('Method').selectOption({ label: 'The sky background is neutral' });
  await settled(page, 150_000);

  await menu('Average pictures');
  await shown('Average');
  await page.getByRole('checkbox', { name: 'H', exact: true }).uncheck();
  const told = page.getByText(/^The average has .* by theory/);
  await expect(told).toBeVisible({ timeout: 300_000 });
  await expect(page.getByRole('row', { name: /^H/ })).toHaveText(/^\s*H\s*$/);
  // Every picture of it has its own noise by now: the average's is that of theory, and below the best of them.
  await expect(async () => {
    const [has, theory, best] = (await told.innerText()).match(/\d+\.\d+/g)!.map(Number);
    expect(Math.abs(has / theory - 1)).toBeLessThan(0.03);
    expect(has).toBeLessThan(best);
  }).toPass({ timeout: 150_000 });
  await evenSky();

  await menu('Put pictures together');
  await shown('L-R-G-B, 2');
  const weigh = async (name: string, row: string, percent: number): Promise<void> => {
    const field = page.getByLabel(`${name} in ${row}, percent`, { exact: true });
    await field.fill(String(percent));
    await field.press('Enter');
  };
  for (const [own, row] of [
    ['R', 'red'],
    ['G', 'green'],
    ['B', 'blue']
  ]) {
    await weigh('L-R-G-B', row, 100);
    await weigh(own, row, 0);
  }
  // The line's light goes into red, and what the frame holds of red's own light comes off.
  await page.getByText('Add a narrow band').click();
  await page.getByRole('button', { name: 'Add it' }).click();
  const holds = page.getByText(/^“H” holds [\d.]+ % of “L-R-G-B”/);
  await expect(holds).toBeVisible({ timeout: 150_000 });
  const share = Number((await holds.innerText()).match(/[\d.]+/)![0]);
  expect(share).toBeGreaterThan(2);
  expect(share).toBeLessThan(60);
  await weigh('Average', 'lightness', 100);
  await weigh('L', 'lightness', 0);
  const red = await page.getByText(/^Red is 40 % H \+ [\d.]+ % L-R-G-B\.$/).innerText();
  expect(Math.abs(Number(red.match(/\+ ([\d.]+)/)![1]) - (100 - 0.4 * share))).toBeLessThan(0.06);
  await page.getByRole('button', { name: 'Keep these weights …' }).click();
  await page.getByLabel('Name of the assignment').fill('With hydrogen');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'With hydrogen', exact: true })).toBeEnabled();
  await expect(page.getByText('Lightness is 100 % Average.')).toBeVisible();
  await settled(page, 150_000);
  await addStep(page, 'Balance');
  await page.getByLabel('Method').selectOption({ label: 'The sky background is neutral' });
  await settled(page, 150_000);
  await addStep(page, 'Stretch');
  await page.locator('label').filter({ hasText: 'From the picture’s sky' }).first().click();
  await expect(page.getByRole('table', { name: 'Found in the picture' })).toBeVisible({ timeout: 150_000 });
  await settled(page, 150_000);

  const pixels = await exportedPixels(page);
  const { width, height } = SIZE;
  const samples = Float32Array.from({ length: 3 * width * height }, (_, i) =>
    pixels.value(Math.floor(i / 3) % width, Math.floor(i / 3 / width), i % 3)
  );
  for (const level of corners(samples)) {
    expect(spread(level)).toBeLessThan(0.03);
    level.forEach((v) => expect(Math.abs(v - 0.2)).toBeLessThan(0.05));
  }
  const [r, g, b] = pixels.mean(576, 416, 5);
  expect(Math.min(r, g, b)).toBeGreaterThan(0.8);

  // The frames and their numbers, as a table and a file.
  await menu('Table of frames …');
  const table = page.getByRole('dialog', { name: 'Frames' });
  await expect(table.getByText('5 rows')).toBeVisible({ timeout: 150_000 });
  const medians = async (): Promise<number[]> =>
    (await table.locator('tbody tr td:nth-child(9)').allInnerTexts()).map(Number);
  const asTaken = await medians();
  const byMedian = table.getByRole('columnheader', { name: 'Median' }).getByRole('button');
  for (const sign of [1, -1]) {
    await byMedian.click();
    await expect.poll(medians).toEqual([...asTaken].sort((a, b) => sign * (a - b)));
  }
  const download = page.waitForEvent('download');
  await table.getByRole('button', { name: 'Save as CSV' }).click();
  const lines = readFileSync(await (await download).path(), 'utf8')
    .trim()
    .split('\n');
  expect(lines).toHaveLength(6);
  lines.slice(1).forEach((line, i) => {
    const cells = line.match(/("[^"]*"|[^,]+)/g)!;
    expect(cells[3]).toBe(truths[i].filter);
    // Noise in percent of 65535 counts; the light of the object has noise of its own, so that the frame's is above the empty sky's.
    expect(Math.abs((Number(cells[10]) * 655.35) / truths[i].noise - 1)).toBeLessThan(0.15);
  });
});

/** A small frame with a slope, noise and stars, as a file. */
function smallFrame(
  name: string,
  size: { width: number; height: number },
  seed: number,
  object = ''
): UploadedFile {
  const random = randomStream(seed);
  const samples = new Uint16Array(size.width * size.height).map(
    (_, i) => 700 + 0.4 * (i % size.width) + 30 * (random() + random() + random() + random() - 2)
  );
  for (let star = 0; star < 40; star++) {
    const [x, y] = [5 + random() * (size.width - 10), 5 + random() * (size.height - 10)].map(Math.floor);
    for (let j = -3; j <= 3; j++)
      for (let i = -3; i <= 3; i++) {
        const at = (y + j) * size.width + x + i;
        samples[at] = Math.min(65535, samples[at] + 9000 * Math.exp(-(i * i + j * j) / 3));
      }
  }
  const cards = object ? [`OBJECT  = '${object}'`] : [];
  const bytes = writeFits({ ...size, alpha: false, grey: true, encoding: 'linear', samples }, { cards });
  return { name, mimeType: 'image/fits', buffer: Buffer.from(bytes) };
}
interface UploadedFile {
  readonly name: string;
  readonly mimeType: string;
  readonly buffer: Buffer;
}

test('frames given together are one document, another size is set aside, boxes of sky are set by hand, and a second tab sees it', async ({
  page
}) => {
  const size = { width: 480, height: 320 };
  await page.goto('/');
  const given = page.getByLabel('Pictures or Kromba documents');
  // One that can't be read is told, and the others are opened without it.
  const broken = {
    ...smallFrame('broken_L.fits', size, 5),
    buffer: Buffer.from('SIMPLE  =      T'.padEnd(90))
  };
  await given.setInputFiles([smallFrame('two_R.fits', size, 6), broken, smallFrame('two_G.fits', size, 7)]);
  await expect(page.getByText('“broken_L.fits” was not opened.')).toBeVisible();
  const documents = page.getByRole('list', { name: 'Documents', exact: true }).getByRole('listitem');
  await expect(documents).toHaveCount(1);

  // Those that name different things are a document each.
  await given.setInputFiles([
    smallFrame('a_R.fits', size, 8, 'Alder'),
    smallFrame('b_R.fits', size, 9, 'Birch'),
    smallFrame('a_G.fits', size, 10, 'ALDER')
  ]);
  await expect(documents).toHaveCount(3);
  for (const name of ['Alder', 'Birch']) await expect(documents.filter({ hasText: name })).toHaveCount(1);
  await expect(documents.locator('canvas')).toHaveCount(3);

  await given.setInputFiles([
    smallFrame('field_R.fits', size, 1),
    smallFrame('field_G.fits', size, 2),
    smallFrame('field_B.fits', size, 3),
    smallFrame('other_L.fits', { width: 240, height: 160 }, 4)
  ]);
  await page.waitForURL('**/work/**');
  await expect(
    page.getByText('Set aside, as of another size than 480 × 320: “other_L.fits” (240 × 160).')
  ).toBeVisible();
  const tabs = page.getByRole('group', { name: 'Pictures' });
  await expect(tabs.getByRole('listitem')).toHaveText(['R', 'G', 'B']);
  await settled(page);

  await addStep(page, 'Even sky');
  const told = page.getByText(/\d+ of \d+ boxes hold sky/);
  await expect(told).toBeVisible({ timeout: 150_000 });
  const used = async (): Promise<number> => Number((await told.innerText()).match(/^\d+/)![0]);
  const asFound = await used();
  await page.getByRole('button', { name: 'Leave boxes out' }).click();
  const spot = await onScreen(page, 240, 160, size.width, size.height);
  await page.mouse.click(spot.x, spot.y);
  await expect(page.getByText(/; 1 by hand/)).toBeVisible();
  await expect.poll(used, { timeout: 150_000 }).toBe(asFound - 1);
  await page.keyboard.press('Escape');

  // Another tab follows, and solves for itself what the picture asks for.
  const second = await page.context().newPage();
  await second.goto(page.url());
  await expect(second.getByText('Edited in another tab.')).toBeVisible();
  await expect(second.locator('footer [data-save]')).toHaveText('follows');
  await second
    .getByRole('navigation', { name: 'Path' })
    .getByRole('button', { name: /^Even sky/ })
    .first()
    .click();
  await expect(second.getByText(/; 1 by hand/)).toBeVisible({ timeout: 150_000 });
  await page.bringToFront();
  await page.getByRole('button', { name: 'As found' }).click();
  await expect.poll(used, { timeout: 150_000 }).toBe(asFound);
  await expect(second.getByText(/boxes hold sky\./)).toBeVisible({ timeout: 150_000 });
  await second.close();

  // The point-spread of its own stars: each is a Gaussian of σ² = 3/2, 2√(3·ln 2) = 2.88 px wide, that is cut off at 3 px.
  await addStep(page, 'Sharpen by the point-spread');
  await page.locator('label').filter({ hasText: 'measured from its own stars' }).click();
  const measured = page.getByRole('table', { name: 'Measured from the stars' });
  await expect(measured).toBeVisible({ timeout: 150_000 });
  const number = async (row: RegExp): Promise<number> =>
    Number(await measured.getByRole('row', { name: row }).getByRole('cell').innerText());
  expect(await number(/^stars/)).toBeGreaterThan(9);
  expect(Math.abs((await number(/^width/)) / 2.88 - 1)).toBeLessThan(0.1);
  expect(await number(/^roundness/)).toBeGreaterThan(97);
  await page.getByRole('button', { name: 'Keep these numbers' }).click();
  await expect(page.getByRole('textbox', { name: 'Point-spread width' })).toHaveValue(/^[23]\.\d/);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(measured).toBeVisible();
  await settled(page, 150_000);
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('button', { name: 'Undo' }).click();

  // One that shows no stars can't be brought onto the others, and is left as it was.
  await tabs.getByRole('button', { name: 'G', exact: true }).click();
  await addStep(page, 'Bring onto another');
  await page.getByLabel('Onto', { exact: true }).selectOption({ label: 'R, as it came' });
  await expect(page.getByText(/too few stand to each other alike/)).toBeVisible({ timeout: 150_000 });
  await expect(page.getByLabel('Onto', { exact: true })).toHaveValue('');
});

test('noise is measured, taken out by key, and what is taken out is seen and told', async ({ page }) => {
  await page.goto('/');
  const frame = smallFrame('noisy_L.fits', { width: 480, height: 320 }, 11);
  await page.getByLabel('Pictures or Kromba documents').setInputFiles(frame);
  await page.waitForURL('**/work/**');
  await addStep(page, 'Take noise out');
  await setOn(page, 'RGB', ['green']);
  const told = page.getByRole('table', { name: 'Noise, and what is taken out' });
  const cells = async (): Promise<number[]> =>
    (await told.getByRole('row', { name: /^G/ }).getByRole('cell').allInnerTexts()).map((text) =>
      Number(text.split('–')[0].replace(' %', ''))
    );
  // By hand: four even numbers of 0…1 scatter by √(4/12), times 30 counts of 65535.
  const sigma = (100 * 30 * Math.sqrt(4 / 12)) / 65535;
  await expect.poll(async () => (await cells()).filter(Number.isFinite).length, { timeout: 150_000 }).toBe(3);
  const [measured, out, structure] = await cells();
  expect(Math.abs(measured / sigma - 1)).toBeLessThan(0.1);
  expect(out).toBeGreaterThan(0.85 * sigma);
  expect(out).toBeLessThan(1.1 * sigma);
  expect(structure).toBeLessThan(5);

  // Twice as much by key: more is taken out, the stars' light with it.
  const strength = page.getByRole('textbox', { name: 'Take noise out strength' });
  await strength.focus();
  await page.keyboard.press('Control+A');
  await page.keyboard.type('400');
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await cells())[2], { timeout: 150_000 }).toBeGreaterThan(structure);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(async () => (await cells())[2], { timeout: 150_000 }).toBe(structure);

  // It is shown for a while: the places of before stay what they are, by the panel, by another step, after a reload.
  await page.keyboard.press('b');
  await page.keyboard.press('b');
  const way = page.getByRole('radio', { checked: true }).and(page.getByRole('radio', { name: /^(Tog|Dif)/ }));
  const tabs = page.locator('.place-tab');
  const show = page.getByRole('button', { name: /^Show what is taken out/ });
  const chips = page.getByRole('navigation', { name: 'Path' }).locator('.chip .choose');
  const asBefore = async (): Promise<void> => {
    await expect(way).toHaveAccessibleName('Together');
    await expect(tabs).toHaveCount(3);
  };
  await asBefore();
  const zoom = page.locator('footer').getByText(/^\d+ %$/);
  const seen = await zoom.innerText();
  for (const leave of [
    () => page.getByRole('button', { name: 'Show the picture again' }).press('Enter'),
    () => page.getByRole('button', { name: 'As before' }).click(),
    () => chips.first().click(),
    () => page.reload()
  ]) {
    await show.press('Enter');
    await expect(way).toHaveAccessibleName('Difference');
    await expect(tabs).toHaveCount(2);
    await expect(zoom).toHaveText('100 %');
    await leave();
    await asBefore();
    await expect(zoom).toHaveText(seen);
    await chips.last().click();
  }
});

test('stars are taken out, let stay by hand, and laid over what is made of the rest', async ({ page }) => {
  await page.goto('/');
  const size = { width: 480, height: 320 };
  await page.getByLabel('Pictures or Kromba documents').setInputFiles(smallFrame('starry_L.fits', size, 21));
  await page.waitForURL('**/work/**');
  await addStep(page, 'Stars apart');
  const panel = page.getByRole('region', { name: 'Work' });
  const told = panel.getByText(/^\d+ stars/);
  const count = async (): Promise<number> => Number((await told.innerText()).match(/^\d+/)![0]);
  await expect(told).toBeVisible({ timeout: 150_000 });
  // Forty were put in, some over each other.
  expect(await count()).toBeGreaterThan(33);
  expect(await count()).toBeLessThan(42);
  const all = await count();

  // The brightest sample of the frame is a star: it goes, and stays where a click lets it.
  const { samples } = await readFits(new Uint8Array(smallFrame('', size, 21).buffer));
  let at = 0;
  for (let i = 0; i < size.width * size.height; i++) if (samples[i] > samples[at]) at = i;
  const [x, y] = [at % size.width, Math.floor(at / size.width)];
  const spot = await onScreen(page, x, y, size.width, size.height);
  await settled(page, 150_000);
  await page.mouse.move(spot.x, spot.y);
  const light = async (side: 'in' | 'out'): Promise<number> => (await reading(page, side))['rgb.g'];
  const came = await light('in');
  await expect.poll(() => light('out'), { timeout: 90_000 }).toBeLessThan(0.5 * came);
  await panel.getByRole('button', { name: 'Let stars stay' }).click();
  await page.mouse.click(spot.x, spot.y);
  await expect.poll(count, { timeout: 150_000 }).toBeLessThan(all);
  await page.keyboard.press('Escape');
  await panel.getByRole('button', { name: 'As found' }).click();
  await expect.poll(count, { timeout: 150_000 }).toBe(all);

  // The pair: a picture of the stars, and a step that lays them over; both together are what came in.
  await panel.getByRole('button', { name: 'Bring them back at the end' }).click();
  const pictures = page.getByRole('group', { name: 'Pictures' });
  await expect(pictures.getByRole('button', { name: /, stars$/ })).toBeVisible();
  await page.getByRole('tab', { name: 'End of path' }).click();
  await settled(page, 150_000);
  // What is told below the picture has moved it.
  const again = await onScreen(page, x, y, size.width, size.height);
  await page.mouse.move(again.x, again.y);
  await expect.poll(() => light('out'), { timeout: 90_000 }).toBe(came);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(pictures.getByRole('button', { name: /, stars$/ })).toHaveCount(0);

  // Stars and a scale as masks, of what came in: a few hundredths of the picture, and about half of it.
  await addStep(page, 'Levels');
  await openPart(page, 'Where');
  await addTerm(page, 'Stars');
  await page.getByLabel('Of', { exact: true }).selectOption({ label: 'this picture as it came' });
  const coverage = async (): Promise<number> =>
    Number.parseFloat(await page.getByLabel('Coverage').innerText());
  await expect.poll(coverage, { timeout: 150_000 }).toBeLessThan(25);
  await expect.poll(coverage, { timeout: 150_000 }).toBeGreaterThan(1);
  await page.getByRole('textbox', { name: 'Grow stars by' }).fill('-20');
  await page.keyboard.press('Enter');
  await expect.poll(coverage, { timeout: 150_000 }).toBe(0);
  await addTerm(page, 'Scale');
  await page.getByRole('radio', { name: 'or', exact: true }).click();
  await expect.poll(coverage, { timeout: 150_000 }).toBeGreaterThan(40);
  expect(await coverage()).toBeLessThan(60);

  // Sharpened: the rings that are held are seen as a mask.
  await addStep(page, 'Sharpen by the point-spread');
  const rings = page.getByRole('textbox', { name: 'Hold rings about stars' });
  await rings.fill('0');
  await rings.press('Enter');
  await expect(panel.getByText('See them as a mask in In')).toHaveCount(0);
  await rings.fill('80');
  await rings.press('Enter');
  await panel.locator('label').filter({ hasText: 'See them as a mask in In' }).first().click();
  await expect(page.getByText('Where rings are held, and how strongly')).toBeVisible();
  await settled(page, 150_000);
  await page.getByRole('tab', { name: 'Before' }).click();
  await expect(page.getByText('Where rings are held, and how strongly')).toHaveCount(0);
});
