import { converter } from 'culori';
import sharp from 'sharp';
import {
  addStep,
  channelOf,
  deviation,
  dropPin,
  expect,
  exportedPixels,
  fromNeutral,
  mean,
  median,
  openPart,
  openSample,
  onScreen,
  reading,
  setAmount,
  setOn,
  setWeight,
  settled,
  visiting as test,
  type Rgb
} from './bench-page';

/** The jobs of a retoucher, from opening the picture to the exported file; colours are read by culori. */

const toLab = converter('lab');
interface LabColour {
  mode: 'lab';
  l: number;
  a: number;
  b: number;
}
const labOf = ([r, g, b]: Rgb): LabColour => toLab({ mode: 'rgb', r, g, b });

test.describe('jug under lamps: the white glaze on the lamp’s side', () => {
  const LAMP = { x: 860, y: 980 };
  const DAY = { x: 1340, y: 900 };
  const tell = (way: string, lamp: Rgb, day: Rgb): void => {
    test.info().annotations.push({
      type: way,
      description: `lamp side ΔE ${fromNeutral(lamp).toFixed(2)}, daylight side ΔE ${fromNeutral(day).toFixed(2)}`
    });
  };

  test('by a mix of inks: magenta out where there is magenta, back where there is yellow', async ({
    page
  }) => {
    await openSample(page, 'Jug under lamps');
    await dropPin(page, LAMP.x, LAMP.y, 'read');
    await page.getByRole('radio', { name: 'CMYK' }).click();
    const cell = page.getByRole('region', { name: 'Pins' }).locator('td.values');
    const into = cell.locator('[data-side="in"] span');
    await expect(into).toHaveCount(4);
    const [, magenta, yellow] = (await into.allInnerTexts()).map(Number);
    expect(magenta).toBeGreaterThan(yellow + 5);
    await page.getByRole('tab', { name: 'CMYK' }).click();
    const back = 40;
    await setWeight(page, 'magenta gets yellow', back);
    await setWeight(page, 'magenta gets magenta', (-back * yellow) / magenta);
    await setWeight(page, 'yellow gets magenta', (-100 * yellow) / magenta);
    await settled(page);
    const pixels = await exportedPixels(page);
    const [lamp, day] = [pixels.mean(LAMP.x, LAMP.y), pixels.mean(DAY.x, DAY.y)];
    expect(fromNeutral(lamp)).toBeLessThan(2);
    tell('ink mix', lamp, day);
  });

  test('by a mix solved from pins, shown as a proposal and taken', async ({ page }) => {
    await openSample(page, 'Jug under lamps');
    await dropPin(page, LAMP.x, LAMP.y, 'neutral');
    // The teal bowl should stay as it is.
    await dropPin(page, 2000, 1150, 'keep');
    await page.locator('label').filter({ hasText: 'Keep totals' }).first().click();
    await page.getByRole('button', { name: 'Solve from pins' }).click();
    const proposal = page.getByRole('region', { name: 'Proposed mix' });
    await expect(proposal).toContainText('from neutral ΔE');
    await expect(proposal).toContainText('moved by ΔE');
    await expect(page.getByText('Proposed, not taken yet')).toBeVisible();
    await proposal.getByRole('button', { name: 'Dismiss' }).click();
    await expect(page.getByRole('textbox', { name: 'green gets red in percent', exact: true })).toHaveValue(
      '0'
    );
    await page.getByRole('button', { name: 'Solve from pins' }).click();
    await proposal.getByRole('button', { name: 'Take' }).click();
    for (const out of ['red', 'green', 'blue'])
      await expect(page.getByRole('region', { name: `${out} gets`, exact: true })).toContainText(
        'total 100 %'
      );
    await settled(page);
    const pixels = await exportedPixels(page);
    const [lamp, day] = [pixels.mean(LAMP.x, LAMP.y), pixels.mean(DAY.x, DAY.y)];
    expect(fromNeutral(lamp)).toBeLessThan(2);
    tell('mix from pins', lamp, day);
  });

  test('by balance: neutral pins are neutral, then frozen', async ({ page }) => {
    await openSample(page, 'Jug under lamps');
    await dropPin(page, LAMP.x, LAMP.y, 'neutral');
    await addStep(page, 'Balance');
    await page.getByLabel('Method').selectOption({ label: 'Neutral pins are neutral' });
    await expect(page.getByRole('table', { name: 'Left from neutral' })).toContainText('ΔE 0.0');
    const gain = page.getByRole('textbox', { name: 'gain of red in percent' });
    await expect(gain).toBeDisabled();
    const solved = await gain.inputValue();
    expect(Number(solved)).toBeLessThan(100);
    await page.getByRole('button', { name: 'Freeze these numbers' }).click();
    await expect(gain).toBeEnabled();
    await expect(gain).toHaveValue(solved);
    await settled(page);
    const pixels = await exportedPixels(page);
    const [lamp, day] = [pixels.mean(LAMP.x, LAMP.y), pixels.mean(DAY.x, DAY.y)];
    expect(fromNeutral(lamp)).toBeLessThan(2);
    tell('balance by pins', lamp, day);
  });
});

test('quench tank: red rebuilt from green, then red’s levels', async ({ page }) => {
  await openSample(page, 'Quench tank');
  await setWeight(page, 'red gets red', 40);
  await setWeight(page, 'red gets green', 55);
  await addStep(page, 'Levels');
  await page.getByRole('radio', { name: 'red', exact: true }).click();
  // White is dragged down to where red's histogram ends.
  const white = page.getByRole('slider', { name: 'white point' });
  const handle = (await white.boundingBox())!;
  const graph = (await page.getByRole('group', { name: 'Levels over the histogram' }).boundingBox())!;
  await page.mouse.move(handle.x + handle.width / 2, handle.y + handle.height / 2);
  await page.mouse.down();
  await page.mouse.move(graph.x + graph.width * 0.66, handle.y + handle.height / 2, { steps: 8 });
  await expect(page.getByText('Clipped samples', { exact: true })).toBeVisible();
  await page.mouse.up();
  await expect(page.getByText('Clipped samples', { exact: true })).toBeHidden();
  await setAmount(page, 'rgb.r white in percent', 61);
  await settled(page);
  const pixels = await exportedPixels(page);
  const [red, green] = [median(channelOf(pixels, (c) => c[0])), median(channelOf(pixels, (c) => c[1]))];
  expect(Math.abs(red / green - 1)).toBeLessThan(0.1);
});

test('drying yard: grey balance, red and blue swapped, curves, local contrast at 70 %', async ({ page }) => {
  await openSample(page, 'Drying yard');
  await page.getByRole('button', { name: 'Swap red and blue' }).click();
  await page.keyboard.press(',');
  await addStep(page, 'Balance');
  await page.getByLabel('Method').selectOption({ label: 'The average is grey' });
  // A new step’s first number has the focus; Escape leaves it.
  await page.keyboard.press('Escape');
  await page.keyboard.press('.');
  await addStep(page, 'Curves');
  for (const [channel, up] of [
    ['blue', 0.05],
    ['red', -0.04]
  ] as const) {
    await page.getByRole('radio', { name: channel, exact: true }).click();
    const curve = (await page.getByRole('group', { name: 'Curve' }).boundingBox())!;
    await page.mouse.move(curve.x + curve.width / 2, curve.y + curve.height / 2);
    await page.mouse.down();
    await page.mouse.move(curve.x + curve.width / 2, curve.y + curve.height * (0.5 - up), { steps: 5 });
    await page.mouse.up();
  }
  await addStep(page, 'Local contrast');
  await setAmount(page, 'Local contrast amount in percent', 120);
  const spot = await onScreen(page, 1000, 560);
  await page.mouse.move(spot.x, spot.y);
  await settled(page);
  const [into, full] = [await reading(page, 'in'), await reading(page, 'out')];
  await openPart(page, 'Blend');
  await setAmount(page, 'Opacity in percent', 70);
  await settled(page);
  await page.mouse.move(spot.x + 3, spot.y);
  await page.mouse.move(spot.x, spot.y);
  // 70 % of the way, to the digits that are told.
  await expect
    .poll(async () => {
      const faded = await reading(page, 'out');
      const off = (id: string): number => Math.abs(faded[id] - (into[id] + 0.7 * (full[id] - into[id])));
      return Math.max(...['rgb.r', 'rgb.g', 'rgb.b'].map(off));
    })
    .toBeLessThan(0.11);
  const [x, y] = (await page.locator('footer .place').innerText()).split(', ').map(Number);
  await expect(page.getByRole('navigation', { name: 'Path' }).locator('.chip .title')).toHaveText([
    'Source',
    'Balance',
    'Mix',
    'Curves',
    'Local contrast'
  ]);
  const pixels = await exportedPixels(page);
  const sky = pixels.mean(300, 130, 40);
  const leaves = pixels.mean(700, 700, 60);
  // The sky is dark and leans to blue against red; the leaves are pale.
  expect(sky[2]).toBeGreaterThan(sky[0]);
  expect(labOf(leaves).l).toBeGreaterThan(labOf(sky).l);
  // The values under the pointer come a little after its place.
  await expect
    .poll(async () => {
      const told = await reading(page, 'out');
      return Math.max(
        ...pixels.at(x, y).map((v, c) => Math.abs(100 * v - told[['rgb.r', 'rgb.g', 'rgb.b'][c]]))
      );
    })
    .toBeLessThan(0.06);
});

test('old print: levels by ends, and the same steps pasted on the second print', async ({ page }) => {
  await openSample(page, 'Old print');
  await addStep(page, 'Levels');
  await page.locator('label').filter({ hasText: 'Ends from the picture' }).first().click();
  await expect(page.getByRole('table', { name: 'Ends found in the picture' })).toContainText('→ 100');
  await settled(page);
  const first = await exportedPixels(page);
  await page.getByRole('button', { name: 'What to do with Levels' }).click();
  await page.getByRole('menuitem', { name: 'Copy', exact: true }).click();

  await settled(page);
  await openSample(page, 'Old print, the second');
  await page.keyboard.press('Control+v');
  await expect(page.getByRole('navigation', { name: 'Path' }).locator('.chip .title')).toHaveText([
    'Source',
    'Mix',
    'Levels'
  ]);
  await settled(page);
  const second = await exportedPixels(page);
  for (const pixels of [first, second]) {
    for (let c = 0; c < 3; c++) {
      const sorted = channelOf(pixels, (rgb) => rgb[c], 5).sort((a, b) => a - b);
      expect(sorted[Math.floor(sorted.length * 0.002)]).toBeLessThan(0.06);
      expect(sorted[Math.floor(sorted.length * 0.998)]).toBeGreaterThan(0.95);
    }
  }
  // White cloth: on the table of the first, folded on the stool of the second.
  expect(fromNeutral(first.mean(500, 1330, 20))).toBeLessThan(6);
  expect(fromNeutral(second.mean(1640, 805, 12))).toBeLessThan(6);
});

test('woven cloth: smoothing a and b takes the false colours out and leaves L alone', async ({ page }) => {
  const source = await sharp('demo/samples/woven-cloth.jpg').raw().toBuffer({ resolveWithObject: true });
  const { width } = source.info;
  await openSample(page, 'Woven cloth');
  await addStep(page, 'Smooth');
  await setOn(page, 'LAB', ['green to magenta', 'blue to yellow']);
  await setAmount(page, 'Smooth radius in pixels', 60);
  await setAmount(page, 'Smooth tolerance', 0.16 * 256);
  await settled(page);
  const pixels = await exportedPixels(page);
  const before: number[] = [];
  const after: number[] = [];
  // Where the bands are strongest on the cloth.
  for (let y = 560; y < 780; y += 3) {
    for (let x = 1000; x < 1500; x += 3) {
      const at = (y * width + x) * 3;
      const was = labOf([0, 1, 2].map((c) => source.data[at + c] / 255) as unknown as Rgb);
      const is = labOf(pixels.at(x, y));
      before.push(Math.hypot(was.a, was.b));
      after.push(Math.hypot(is.a, is.b));
    }
  }
  expect(mean(before)).toBeGreaterThan(5);
  expect(mean(after)).toBeLessThan(0.2 * mean(before));
  // L of the export against L of the input as Kromba opened it, by its own reading of an untouched export.
  await page.getByRole('button', { name: 'Smooth on', exact: true }).click();
  await settled(page);
  const untouched = await exportedPixels(page);
  let [most, clipped, compared] = [0, 0, 0];
  for (let y = 0; y < pixels.height; y += 5) {
    for (let x = 0; x < pixels.width; x += 5) {
      const [is, was] = [pixels.at(x, y), untouched.at(x, y)];
      compared++;
      // A colour that no RGB holds at its own L is clipped in the file; those are few.
      if (Math.min(...is, ...was) <= 0 || Math.max(...is, ...was) >= 1) clipped++;
      else most = Math.max(most, Math.abs(labOf(is).l - labOf(was).l) / 100);
    }
  }
  expect(most).toBeLessThan(1e-4);
  expect(clipped / compared).toBeLessThan(0.02);
  // The ribbon keeps its red.
  const [ribbon, was] = [labOf(pixels.mean(900, 990, 5)), labOf(untouched.mean(900, 990, 5))];
  expect(Math.hypot(ribbon.a, ribbon.b)).toBeGreaterThan(0.6 * Math.hypot(was.a, was.b));
});

test('glaze tiles: a two-colour look by two mixes with held totals leaves the grey scale grey', async ({
  page
}) => {
  await openSample(page, 'Glaze tiles');
  const hold = page.locator('label').filter({ hasText: 'Keep totals' }).first();
  await hold.click();
  await setWeight(page, 'red gets green', -30);
  await setWeight(page, 'blue gets green', 110);
  await addStep(page, 'Mix');
  await hold.click();
  await setWeight(page, 'green gets blue', 70);
  await setWeight(page, 'red gets red', 150);
  for (const out of ['red', 'green', 'blue'])
    await expect(page.getByRole('region', { name: `${out} gets`, exact: true })).toContainText('total 100 %');
  await settled(page);
  const pixels = await exportedPixels(page);
  for (const [x, y] of GREYS) expect(fromNeutral(pixels.mean(x, y, 18)), `${x}, ${y}`).toBeLessThan(1);
  // Two colours: a and b of the tiles lie along one line.
  const tiles = TILES.map(([x, y]) => labOf(pixels.mean(x, y, 12)));
  const [saa, sbb, sab] = tiles.reduce(([p, q, r], { a, b }) => [p + a * a, q + b * b, r + a * b], [0, 0, 0]);
  const spread = Math.sqrt((saa - sbb) ** 2 + 4 * sab * sab);
  const [along, aside] = [(saa + sbb + spread) / 2, (saa + sbb - spread) / 2];
  expect(aside / along).toBeLessThan(0.2);
});

/** Middles of the ten grey patches, and of a tile of each hue in the middle rows. */
const GREYS = [70, 250, 442, 630, 818, 1010, 1200, 1392, 1580, 1770].map((x) => [x, 1344] as const);
const TILES = Array.from({ length: 10 }, (_, i) => [216 + 163 * i, 632] as const);

test('harbour in haze: L, a and b; R, G and B; black ink alone; as versions beside each other', async ({
  page
}) => {
  await openSample(page, 'Harbour in haze');
  const original = await exportedPixels(page);
  const spread = (pixels: typeof original): number => deviation(channelOf(pixels, (c) => labOf(c).l));
  const curve = async (channel: string, points: readonly (readonly [number, number])[]): Promise<void> => {
    await page.getByRole('radio', { name: channel, exact: true }).click();
    const box = (await page.getByRole('group', { name: 'Curve' }).boundingBox())!;
    // The graph has a margin of 7 of its 270 units across and 230 down.
    const x = (v: number): number => box.x + (box.width * (7 + 256 * v)) / 270;
    const y = (v: number): number => box.y + (box.height * (7 + 216 * (1 - v))) / 230;
    for (const [from, to] of points) {
      await page.mouse.move(x(from), y(from));
      await page.mouse.down();
      await page.mouse.move(x(from), y(to), { steps: 4 });
      await page.mouse.up();
    }
  };

  // L, a and b.
  await addStep(page, 'Curves');
  await setOn(page, 'LAB', ['lightness', 'green to magenta', 'blue to yellow']);
  await openPart(page, 'On');
  await curve('lightness', [
    [0.45, 0.3],
    [0.75, 0.88]
  ]);
  await curve('green to magenta', [
    [0.44, 0.36],
    [0.56, 0.64]
  ]);
  await curve('blue to yellow', [
    [0.44, 0.36],
    [0.56, 0.64]
  ]);
  await settled(page);
  const lab = await exportedPixels(page);
  expect(spread(lab)).toBeGreaterThan(1.3 * spread(original));

  // A version: R, G and B.
  await page.getByRole('button', { name: 'Duplicate the picture' }).click();
  await expect(
    page.getByRole('group', { name: 'Pictures' }).getByRole('button', { name: 'Harbour in haze, 2' })
  ).toHaveAttribute('aria-pressed', 'true');
  await page.getByRole('button', { name: 'What to do with Curves' }).click();
  await page.getByRole('menuitem', { name: 'Remove' }).click();
  await addStep(page, 'Curves');
  for (const channel of ['red', 'green', 'blue'])
    await curve(channel, [
      [0.45, 0.25],
      [0.75, 0.9]
    ]);
  await settled(page);
  const rgb = await exportedPixels(page);
  expect(spread(rgb)).toBeGreaterThan(1.3 * spread(original));

  // A version: black ink only.
  await page.keyboard.press('d');
  await page.getByRole('button', { name: 'What to do with Curves' }).click();
  await page.getByRole('menuitem', { name: 'Remove' }).click();
  await addStep(page, 'Levels');
  await setOn(page, 'CMYK', ['black']);
  await page.getByRole('radio', { name: 'black', exact: true }).click();
  await setAmount(page, 'cmyk.k out white in percent', 60);
  await settled(page);
  const black = await exportedPixels(page);
  const inks = ([r, g, b]: Rgb): number[] => {
    const k = 1 - Math.max(r, g, b);
    return [r, g, b].map((v) => (1 - v - k) / (1 - k)).concat(k);
  };
  for (const [x, y] of [
    [520, 1100],
    [1400, 1300],
    [2000, 500],
    [300, 700]
  ]) {
    const [was, is] = [inks(original.at(x, y)), inks(black.at(x, y))];
    is.slice(0, 3).forEach((ink, c) => expect(Math.abs(ink - was[c])).toBeLessThan(1e-3));
    expect(Math.abs(is[3] - 0.6 * was[3])).toBeLessThan(1e-3);
  }

  // Compared: each version is its own.
  const names = page.getByRole('group', { name: 'Pictures' }).locator('.picture');
  await expect(names).toHaveText(['Harbour in haze', 'Harbour in haze, 2', 'Harbour in haze, 3']);
  const spot = await onScreen(page, 1400, 1300);
  await page.mouse.move(spot.x, spot.y);
  await settled(page);
  const outs = [];
  for (let i = 2; i >= 0; i--) {
    await names.nth(i).click();
    await settled(page);
    await page.mouse.move(spot.x + 4, spot.y);
    await page.mouse.move(spot.x, spot.y);
    await page.waitForTimeout(400);
    outs.push((await reading(page, 'out'))['rgb.r']);
  }
  expect(new Set(outs).size).toBe(3);
});

test('a black-and-white with a total over 100 % shows the mark and its clipped count', async ({ page }) => {
  await openSample(page, 'Glaze tiles');
  await addStep(page, 'Black and white');
  const work = page.getByRole('region', { name: /^Work/ });
  await expect(work).toContainText('total 100 %');
  await setAmount(page, 'Grey from red in percent', 110);
  await expect(work).toContainText('total 180 %');
  await expect(work.getByLabel('Total is not 100 %')).toBeVisible();
  await settled(page);
  const white = work.getByLabel('Clipped samples').getByRole('button', { name: /white/ });
  // The share stands there, and the exact number is told once all was counted.
  await expect(white).toHaveAttribute('title', /^[\d,]+ of 3,840,000 samples\. Hold/, { timeout: 60_000 });
  await expect(white).toContainText(/white \d+\.\d %/);
  const told = Number(/^([\d,]+)/.exec((await white.getAttribute('title'))!)![1].replaceAll(',', ''));
  const pixels = await exportedPixels(page);
  let clipped = 0;
  for (let y = 0; y < pixels.height; y++)
    for (let x = 0; x < pixels.width; x++) if (pixels.at(x, y)[0] === 1) clipped++;
  expect(told).toBeGreaterThan(1000);
  // A sample within half a step of 16 bit below white is written as white too.
  expect(Math.abs(clipped - told)).toBeLessThan(0.002 * told + 20);
});
