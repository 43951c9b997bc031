import { readFile } from 'node:fs/promises';
import { decode } from 'fast-png';
import sharp from 'sharp';
import {
  addStep,
  addTerm,
  dragOver,
  dropPin,
  expect,
  exportedPixels,
  fromNeutral,
  mean,
  openPart,
  openSample,
  pixelsOf,
  onScreen,
  setAmount,
  setPercent,
  setWeight,
  settled,
  visiting as test,
  type Pixels
} from './bench-page';
import type { Page } from '@playwright/test';

/** Light built out of channels, exposures joined through tones, masks pulled from colours: the jobs, to the exported file. */

/** A sample as sharp reads it: coded RGB 0…1. */
async function sample(file: string): Promise<Pixels> {
  const { data, info } = await sharp(`demo/samples/${file}`)
    .removeAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true });
  return pixelsOf(data, info.width, info.height, 3, 255);
}

/** Every n-th place of a picture. */
function* places(width: number, height: number, every: number): Generator<readonly [number, number]> {
  for (let y = every >> 1; y < height; y += every)
    for (let x = every >> 1; x < width; x += every) yield [x, y];
}

const lightFrom = (page: Page, channel: string): Promise<void> =>
  page
    .getByRole('group', { name: 'Channels as light' })
    .getByRole('button', { name: `Add ${channel}`, exact: true })
    .click();
const layOn = async (page: Page, mode: string): Promise<void> => {
  await page.getByLabel('Laid on by').selectOption({ label: mode });
};

test('harbour in haze: the light of the best channels, one limited, one painted into the foreground', async ({
  page
}) => {
  const source = await sample('harbour-in-haze.jpg');
  await openSample(page, 'Harbour in haze');
  await addStep(page, 'Channel light');
  await expect(page.getByRole('region', { name: /^Work/ })).toContainText('blended by luminosity');
  await lightFrom(page, 'red');
  await lightFrom(page, 'green');
  await layOn(page, 'Darken');
  await setPercent(page, 'Opacity of the channel', 60);
  // The greys by themselves, to be checked sample by sample.
  await openPart(page, 'Blend');
  await page.getByRole('region', { name: 'Blend' }).getByLabel('Mode').selectOption({ label: 'Normal' });
  await settled(page);
  const two = await exportedPixels(page);
  let worst = 0;
  for (const [x, y] of places(source.width, source.height, 11)) {
    const [r, g] = source.at(x, y);
    worst = Math.max(worst, Math.abs(two.at(x, y)[0] - (r + 0.6 * (Math.min(r, g) - r))));
  }
  // sharp's JPEG decoder and ours may round one step of 8 bits apart.
  expect(worst).toBeLessThan(2.1 / 255);

  await lightFrom(page, 'green');
  await layOn(page, 'Overlay');
  // The first handle takes the second along: nothing below the middle, all above it.
  const handles = page.getByRole('group', { name: 'Of the grey so far' }).getByRole('slider');
  await handles.first().focus();
  for (let k = 0; k < 5; k++) await page.keyboard.press('Shift+ArrowRight');
  for (const i of [0, 1]) await expect(handles.nth(i)).toHaveAttribute('aria-valuenow', '50');
  await settled(page);
  const three = await exportedPixels(page);
  let [darker, lighter] = [0, 0];
  for (let y = 0; y < two.height; y++) {
    for (let x = 0; x < two.width; x++) {
      const before = two.value(x, y, 0);
      const after = three.value(x, y, 0);
      if (before < 0.5 && after < before) darker++;
      if (before > 0.5 && after > before) lighter++;
    }
  }
  expect(darker).toBe(0);
  expect(lighter).toBeGreaterThan(100_000);

  // Blue by color dodge at 40 %, painted into the foreground only.
  await lightFrom(page, 'blue');
  await layOn(page, 'Color dodge');
  await setPercent(page, 'Opacity of the channel', 40);
  await page.getByRole('button', { name: 'Hold it to a mask …' }).click();
  await addTerm(page, 'Paint');
  await page.getByRole('textbox', { name: 'Size of the brush in pixels' }).fill('400');
  await page.keyboard.press('Enter');
  await dragOver(page, [
    [500, 1400],
    [1200, 1380],
    [1900, 1400]
  ]);
  await expect(page.getByRole('list', { name: 'Terms of the mask' })).toContainText('paint, 1 stroke');

  // Under the colours again: their hue stays, their light is the stack's.
  await openPart(page, 'Blend');
  await page.getByRole('region', { name: 'Blend' }).getByLabel('Mode').selectOption({ label: 'Luminosity' });
  await settled(page);
  const colours = await exportedPixels(page);
  const light = ([r, g, b]: readonly number[]): number => 0.3 * r + 0.59 * g + 0.11 * b;
  const rise = (x: number, y: number): number => light(colours.mean(x, y)) - three.mean(x, y)[0];
  for (const x of [600, 1200, 1800]) expect(rise(x, 1400)).toBeGreaterThan(0.05);
  for (const x of [400, 1200, 2000]) expect(Math.abs(rise(x, 500))).toBeLessThan(1e-3);
  const [r, , b] = colours.mean(1040, 1320);
  expect(r - b).toBeGreaterThan(0.1);
});

test('workshop window: three exposures joined by reach, the window and the shadows, one of them moved back', async ({
  page
}) => {
  const [middle, bright] = await Promise.all(
    ['', '-bright'].map((end) => sample(`workshop-window${end}.jpg`))
  );
  await openSample(page, 'Workshop window');
  const pictures = page.getByRole('group', { name: 'Pictures' });
  await expect(pictures.getByRole('button', { name: /^workshop/ })).toHaveText([
    'workshop-window-dark',
    'workshop-window',
    'workshop-window-bright'
  ]);
  const chosen = pictures.getByRole('button', { name: 'workshop-window', exact: true });
  await chosen.click();
  await expect(chosen).toHaveAttribute('aria-pressed', 'true');
  await settled(page);
  await addStep(page, 'Merge exposures');
  await page.getByLabel('Other exposure').selectOption({ label: 'workshop-window-dark' });
  await expect(page.getByText('Without reach nothing is taken yet.')).toBeVisible();
  const sky = { x: 610, y: 260 };
  const wall = { x: 2000, y: 1250 };

  // What stands on the screen, by its reach.
  const seen = async (): Promise<Uint8ClampedArray> => {
    await settled(page);
    return Uint8ClampedArray.from(
      await page.getByLabel('The picture', { exact: true }).evaluate((canvas: HTMLCanvasElement) => {
        const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
        return Array.from(data.filter((_, i) => i % 28 === 0));
      })
    );
  };
  const apart = (a: Uint8ClampedArray, b: Uint8ClampedArray): number =>
    mean([...a].map((v, i) => Math.abs(v - b[i])));
  const plain = await seen();
  const found: Record<string, Uint8ClampedArray> = {};
  const single = ['grey', 'red', 'green', 'blue'];
  for (const key of single) {
    await setPercent(page, `Reach of ${key}`, 25);
    found[key] = await seen();
    await setPercent(page, `Reach of ${key}`, 0);
  }
  for (const key of single) await setPercent(page, `Reach of ${key}`, 25);
  found['all four'] = await seen();
  const taken = Object.entries(found).map(([key, data]) => [key, apart(plain, data)] as const);
  const pairs = single.flatMap((a, i) => single.slice(i + 1).map((b) => apart(found[a], found[b])));
  test
    .info()
    .annotations.push({ type: 'reach, levels of 255', description: JSON.stringify({ taken, pairs }) });
  for (const [, by] of taken) expect(by).toBeGreaterThan(0.5);
  for (const by of pairs) expect(by).toBeGreaterThan(0.15);
  // Four together are narrower than each.
  for (const [, by] of taken.slice(0, 4)) expect(taken[4][1]).toBeLessThan(0.85 * by);
  for (const key of single.slice(1)) await setPercent(page, `Reach of ${key}`, 0);

  // The shadows from the brightest, which has moved by 5.5 px to the right and 3.25 px up.
  await addStep(page, 'Merge exposures');
  await page.getByLabel('Other exposure').selectOption({ label: 'workshop-window-bright' });
  await page.getByRole('radio', { name: 'Into the shadows' }).click();
  await setPercent(page, 'Reach of grey', 40);
  await page.getByRole('button', { name: 'Measure the shift' }).click();
  // What is measured is applied, and one switch rounds it.
  await expect(page.getByText(/down of this one; that is corrected\./)).toBeVisible();
  const shift = async (): Promise<number[]> => {
    const fields = ['Shift to the right', 'Shift down'].map((name) =>
      page.getByRole('textbox', { name, exact: true }).inputValue()
    );
    return (await Promise.all(fields)).map((v) => Number(v.replace('−', '-')));
  };
  const [dx, dy] = await shift();
  expect(Math.abs(dx - 5.5)).toBeLessThan(0.2);
  expect(Math.abs(dy + 3.25)).toBeLessThan(0.2);
  const whole = page.locator('label').filter({ hasText: 'Whole pixels' }).first();
  await whole.click();
  expect(await shift()).toEqual([Math.round(dx), -3]);
  await whole.click();
  expect(await shift()).toEqual([dx, dy]);
  // One that is left out is told before the picture is written, and put right there.
  await setAmount(page, 'Shift to the right', 0);
  await page.keyboard.press('Escape');
  await page.keyboard.press('e');
  const dialog = page.getByRole('dialog', { name: 'Export the picture' });
  const left = dialog.getByRole('alert');
  await expect(left).toContainText(
    /“Merge exposures” takes from a picture that lies \+5\.\d px to the right/
  );
  await left.getByRole('button', { name: 'Correct it' }).click();
  await expect(left).toBeHidden();
  await dialog.getByRole('button', { name: 'Cancel' }).click();
  expect((await shift())[0]).toBeCloseTo(dx, 1);
  await settled(page);
  const out = await exportedPixels(page);
  expect(out.mean(wall.x, wall.y, 20)[0]).toBeGreaterThan(1.4 * middle.at(wall.x, wall.y)[0]);
  expect(bright.at(wall.x, wall.y)[0]).toBeGreaterThan(1.4 * middle.at(wall.x, wall.y)[0]);
  const [, , blue] = out.mean(sky.x, sky.y);
  expect(blue).toBeLessThan(0.97);
});

/** Middles of tiles beside the teal one, of wood and of the hand. */
const TEAL = [1009, 630] as const;
const OTHERS = [
  [1010, 495],
  [1010, 775],
  [870, 630],
  [1145, 630],
  [1145, 495],
  [875, 495],
  [640, 1240],
  [2050, 1100]
] as const;

async function teal(page: Page): Promise<void> {
  await openSample(page, 'Glaze tiles');
  await addStep(page, 'Colour');
  for (const [x, y] of [TEAL, [985, 610], [1040, 650]] as const) await dropPin(page, x, y, 'want');
  for (const [x, y] of OTHERS) await dropPin(page, x, y, 'avoid');
  await openPart(page, 'Where');
  await page.getByRole('button', { name: 'Find' }).click();
}

/** The parts of the teal tile and of all else that a mask has right. */
function judge(mask: Pixels): { inside: number; outside: number } {
  let [tile, high, others, low] = [0, 0, 0, 0];
  for (const [x, y] of places(mask.width, mask.height, 3)) {
    const [dx, dy] = [Math.abs(x - TEAL[0]), Math.abs(y - TEAL[1])];
    const v = mask.value(x, y, 0);
    if (dx < 42 && dy < 42) {
      tile++;
      if (v > 0.8) high++;
    } else if (dx > 72 || dy > 76) {
      others++;
      if (v < 0.1) low++;
    }
  }
  return { inside: high / tile, outside: low / others };
}

/** Saves the mask that is open, and reads the file. */
async function savedMask(page: Page): Promise<Pixels> {
  const download = page.waitForEvent('download', { timeout: 90_000 });
  await page
    .getByRole('region', { name: 'Where' })
    .getByRole('button', { name: 'What to do with this mask' })
    .click();
  await page.getByRole('menuitem', { name: 'Save as PNG' }).click();
  const path = await (await download).path();
  const { data, width, height, channels, depth } = decode(await readFile(path));
  expect([channels, depth]).toEqual([1, 16]);
  return pixelsOf(data, width, height, 1, 65535);
}

test('glaze tiles: the teal tile by the best channel and by distance, and more colour only there', async ({
  page
}) => {
  await teal(page);
  const sources = page.getByRole('list', { name: 'Sources for the mask' }).getByRole('listitem');
  await expect(sources.first()).toContainText(/\d{2,3}/);
  // The best single channel of all that are ranked.
  await sources.getByRole('button', { name: 'green to magenta', exact: true }).click();
  await settled(page);
  const byChannel = judge(await savedMask(page));
  await sources.getByRole('button', { name: 'near in LAB', exact: true }).click();
  await expect(page.getByRole('list', { name: 'Terms of the mask' }).getByRole('listitem')).toHaveCount(1);
  await settled(page);
  const byDistance = judge(await savedMask(page));
  test.info().annotations.push({ type: 'teal', description: JSON.stringify({ byChannel, byDistance }) });
  for (const { inside, outside } of [byChannel, byDistance]) {
    expect(inside).toBeGreaterThan(0.95);
    expect(outside).toBeGreaterThan(0.95);
  }

  await openPart(page, 'On');
  await setPercent(page, 'Saturation', 60);
  await settled(page);
  const out = await exportedPixels(page);
  const source = await sample('glaze-tiles.jpg');
  const chroma = (pixels: Pixels, x: number, y: number): number =>
    Math.max(...pixels.mean(x, y)) - Math.min(...pixels.mean(x, y));
  expect(chroma(out, ...TEAL)).toBeGreaterThan(1.2 * chroma(source, ...TEAL));
  for (const [x, y] of OTHERS) {
    source.at(x, y).forEach((v, c) => expect(Math.abs(out.at(x, y)[c] - v)).toBeLessThan(2.1 / 255));
  }
});

/** Places on the clay hand. */
const HAND = [
  [2000, 900],
  [2100, 1100],
  [2180, 1350],
  [2200, 800],
  [2080, 700]
] as const;

test('glaze tiles: everything but the clay hand, and a mix through it', async ({ page }) => {
  await openSample(page, 'Glaze tiles');
  for (const [x, y] of HAND) await dropPin(page, x, y, 'want');
  for (const [x, y] of [
    [640, 1240],
    [1010, 495],
    [1200, 100],
    [1700, 1500],
    [1800, 300],
    [870, 630],
    [560, 780],
    [400, 600],
    [1500, 1330],
    [720, 630]
  ] as const)
    await dropPin(page, x, y, 'avoid');
  await setWeight(page, 'red gets red', 0);
  await setWeight(page, 'red gets blue', 100);
  await setWeight(page, 'blue gets blue', 0);
  await setWeight(page, 'blue gets red', 100);
  await openPart(page, 'Where');
  await page.getByRole('button', { name: 'Find' }).click();
  await page
    .getByRole('list', { name: 'Sources for the mask' })
    .getByRole('button', { name: 'near in a and b', exact: true })
    .click();
  await page.getByRole('textbox', { name: 'Blur the mask in pixels' }).fill('4');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Invert the mask' }).click();
  await settled(page);
  const mask = await savedMask(page);
  const shares = { hand: 0, rest: 0 };
  let [hand, rest] = [0, 0];
  for (const [x, y] of places(mask.width, mask.height, 5)) {
    const v = mask.value(x, y, 0);
    if (x > 1990 && x < 2170 && y > 860 && y < 1140) {
      hand++;
      if (v < 0.1) shares.hand++;
    } else if (x < 1780) {
      rest++;
      if (v > 0.8) shares.rest++;
    }
  }
  expect(shares.hand / hand).toBeGreaterThan(0.95);
  expect(shares.rest / rest).toBeGreaterThan(0.95);
  const source = await sample('glaze-tiles.jpg');
  const out = await exportedPixels(page);
  const [r, g, b] = source.at(870, 630);
  [b, g, r].forEach((v, c) => expect(Math.abs(out.at(870, 630)[c] - v)).toBeLessThan(0.02));
  for (const [x, y] of HAND.slice(0, 3))
    out.mean(x, y, 3).forEach((v, c) => expect(Math.abs(v - source.at(x, y)[c])).toBeLessThan(0.06));
});

test('glaze tiles: two tones through one equalised luminance, without a hard edge', async ({ page }) => {
  await openSample(page, 'Glaze tiles');
  await addStep(page, 'Tint');
  await openPart(page, 'Where');
  await addTerm(page, 'Channel');
  await page
    .getByRole('region', { name: 'Where' })
    .getByLabel('Channel', { exact: true })
    .selectOption({ label: 'lum · luminance' });
  await page.getByRole('button', { name: 'Equalise' }).click();
  await page.getByRole('textbox', { name: 'Blur the mask in pixels' }).fill('8');
  await page.keyboard.press('Enter');
  // Kept under a name, so that both tints use the one mask.
  await page.getByRole('button', { name: 'What to do with this mask' }).click();
  await page.getByRole('menuitem', { name: 'Keep under a name' }).click();
  await page.getByLabel('Name of the mask').fill('Lights');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('list', { name: 'Terms of the mask' })).toContainText('mask “Lights”');
  await expect(page.getByLabel('Coverage')).toHaveText(/^(4[5-9]|5[0-5])\.\d %$/);
  await settled(page);
  const mask = await savedMask(page);
  // Along lines across the hand: the largest step from pixel to pixel.
  let step = 0;
  for (const y of [800, 1000, 1200, 1400])
    for (let x = 1750; x < 2380; x++)
      step = Math.max(step, Math.abs(mask.value(x + 1, y, 0) - mask.value(x, y, 0)));
  test.info().annotations.push({ type: 'largest step', description: step.toFixed(4) });
  expect(step).toBeLessThan(0.05);

  await addStep(page, 'Tint');
  await setAmount(page, 'Tint hue in degrees', 250);
  await openPart(page, 'Where');
  await addTerm(page, 'Named mask');
  await page.getByRole('button', { name: 'Invert the mask' }).click();
  await settled(page);
  const out = await exportedPixels(page);
  const b = ([r, , blue]: readonly [number, number, number]): number => r - blue;
  // Red over blue in the lights, blue over red in the darks of the grey scale.
  const [dark, bright] = [out.mean(380, 1350), out.mean(1760, 1350)];
  expect(b(bright)).toBeGreaterThan(0.01);
  expect(b(dark)).toBeLessThan(-0.01);
});

test('clay figure: soft light of blue, then of red, and opacity tried', async ({ page }) => {
  const source = await sample('clay-figure.jpg');
  await openSample(page, 'Clay figure');
  for (const channel of ['blue', 'red']) {
    await addStep(page, 'Channel light');
    await lightFrom(page, channel);
    await openPart(page, 'Blend');
    const part = page.getByRole('region', { name: 'Blend' });
    await part.getByLabel('Mode').selectOption({ label: 'Soft light' });
    await settled(page);
  }
  const both = await exportedPixels(page);
  const soft = (b: number, s: number): number =>
    s <= 0.5
      ? b - (1 - 2 * s) * b * (1 - b)
      : b + (2 * s - 1) * ((b <= 0.25 ? ((16 * b - 12) * b + 4) * b : Math.sqrt(b)) - b);
  const wanted = (x: number, y: number, opacity: number): number[] => {
    const start = source.at(x, y);
    const once = start.map((v) => soft(v, start[2]));
    return once.map((v) => v + opacity * (soft(v, once[0]) - v));
  };
  const check = (pixels: Pixels, opacity: number): void => {
    for (const [x, y] of [
      [1300, 500],
      [1250, 900],
      [1650, 700],
      [300, 1400]
    ])
      wanted(x, y, opacity).forEach((v, c) => expect(Math.abs(pixels.at(x, y)[c] - v)).toBeLessThan(0.015));
  };
  check(both, 1);
  const lit = mean(source.at(1300, 500));
  const shade = mean(source.at(1650, 900));
  expect(mean(both.at(1650, 900)) / mean(both.at(1300, 500))).toBeLessThan(shade / lit);
  await setPercent(page, 'Opacity', 35);
  await settled(page);
  check(await exportedPixels(page), 0.35);
});

test('jug under lamps: the mix that cleans the lamp’s side, held to that side', async ({ page }) => {
  const LAMP = { x: 860, y: 980 };
  const DAY = { x: 1340, y: 900 };
  const source = await sample('jug-under-lamps.png');
  await openSample(page, 'Jug under lamps');
  const [r, g, b] = source.mean(LAMP.x, LAMP.y);
  await setWeight(page, 'green gets red', (100 * (r - g)) / r);
  await setWeight(page, 'blue gets red', (100 * (r - b)) / r);
  await openPart(page, 'Where');
  await addTerm(page, 'Distance to a colour');
  await dragOver(page, [
    [LAMP.x - 15, LAMP.y - 15],
    [LAMP.x + 15, LAMP.y + 15]
  ]);
  await page.keyboard.press('Escape');
  await setAmount(page, 'Range of the distance', 30);
  await settled(page);
  const spot = await onScreen(page, DAY.x, DAY.y);
  await page.mouse.move(spot.x, spot.y);
  const out = await exportedPixels(page);
  const [lamp, day] = [fromNeutral(out.mean(LAMP.x, LAMP.y)), fromNeutral(out.mean(DAY.x, DAY.y))];
  test.info().annotations.push({
    type: 'jug',
    description: `lamp ΔE ${lamp.toFixed(2)}, daylight ΔE ${day.toFixed(2)}`
  });
  expect(lamp).toBeLessThan(3);
  expect(day).toBeLessThan(3);
});
