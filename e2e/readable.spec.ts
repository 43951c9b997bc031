import { readFile } from 'node:fs/promises';
import { AxeBuilder } from '@axe-core/playwright';
import type { Page } from '@playwright/test';
import { zipSync } from 'fflate';
import sharp from 'sharp';
import { addStep, addTerm, dropPin, expect, openPart, settled, test } from './bench-page';

/**
 * What can't be read of what stands on the screen: words that are cut without being told in full elsewhere, and words that lie
 * outside the window or under the edge of the box that holds them.
 */
const unreadable = (page: Page): Promise<string[]> =>
  page.evaluate(() => {
    const found: string[] = [];
    const edges = new Map<HTMLElement, DOMRect | null>();
    /** Where a box cuts what it holds off; null where it does not. */
    const edgeOf = (holder: HTMLElement): DOMRect | null => {
      const known = edges.get(holder);
      if (known !== undefined) return known;
      const { overflowX } = getComputedStyle(holder);
      // What scrolls upright is reached; what would have to be scrolled sideways is not.
      const reached = ['auto', 'scroll'].includes(overflowX) && holder.scrollWidth <= holder.clientWidth + 1;
      const edge = overflowX === 'visible' || reached ? null : holder.getBoundingClientRect();
      edges.set(holder, edge);
      return edge;
    };
    const told = (element: Element): boolean => element.closest('[title]') !== null;
    for (const element of document.querySelectorAll<HTMLElement>('body *')) {
      const own = [...element.childNodes].filter((n) => n.nodeType === Node.TEXT_NODE);
      const text = own
        .map((n) => n.textContent!.trim())
        .join(' ')
        .trim();
      if (!text || !element.checkVisibility({ opacityProperty: true, visibilityProperty: true })) continue;
      if (
        element.closest(
          '#svelte-announcer, .visually-hidden, .bx--visually-hidden, .bx--assistive-text, option, svg, canvas'
        )
      )
        continue;
      const range = document.createRange();
      range.selectNodeContents(element);
      const box = range.getBoundingClientRect();
      if (box.width === 0 || box.height === 0) continue;
      const where = `“${text.slice(0, 50)}” <${element.tagName.toLowerCase()} ${element.className}>`;
      let [right, left, cut] = [window.innerWidth, 0, ''];
      for (let holder: HTMLElement | null = element; holder; holder = holder.parentElement) {
        const edge = edgeOf(holder);
        if (!edge) continue;
        if (edge.right < right) [right, cut] = [edge.right, holder.className || holder.tagName];
        left = Math.max(left, edge.left);
      }
      if ((box.right > right + 1.5 || box.left < left - 1.5) && !told(element))
        found.push(`${where} ends at ${Math.round(box.right)} of ${Math.round(right)} ${cut}`);
    }
    for (const select of document.querySelectorAll<HTMLSelectElement>('select')) {
      if (!select.checkVisibility()) continue;
      const style = getComputedStyle(select);
      const context = document.createElement('canvas').getContext('2d')!;
      context.font = style.font;
      const wanted = context.measureText(select.selectedOptions[0]?.text ?? '').width;
      const room = select.clientWidth - parseFloat(style.paddingLeft) - parseFloat(style.paddingRight);
      if (wanted > room + 1 && !told(select))
        found.push(
          `select “${select.selectedOptions[0].text}” needs ${Math.round(wanted)} of ${Math.round(room)}`
        );
    }
    return found;
  });

/** @param part the part of the page that is another than before; all of it where none is named */
const serious = async (page: Page, part?: string): Promise<string[]> => {
  // There are no frames of another origin, for which it would open a page of its own each time.
  const axe = new AxeBuilder({ page }).setLegacyMode().options({ resultTypes: ['violations'] });
  const { violations } = await (part ? axe.include(part) : axe).analyze();
  return violations
    .filter(({ impact }) => impact === 'serious' || impact === 'critical')
    .map(({ id, nodes }) => `${id}: ${nodes.map((n) => n.target.join(' ')).join(', ')}`);
};

/** What follows a change of size is drawn. */
const laidOut = (page: Page): Promise<unknown> =>
  page.evaluate(
    () =>
      new Promise((resolve) =>
        requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(resolve, 60)))
      )
  );

const SIZE = { width: 600, height: 400 };

/** The three exposures of the workshop’s window, small: it is what stands around the picture that is looked at. */
async function openExposures(page: Page): Promise<void> {
  const names = ['workshop-window-dark', 'workshop-window', 'workshop-window-bright'];
  const document = {
    ...{ kromba: 1, kind: 'document', name: 'Workshop window' },
    frames: names.map((name, i) => ({ id: `f${i}`, name, file: `${name}.jpg` })),
    pictures: names.map((name, i) => ({ id: `p${i}`, name, head: { kind: 'frame', frame: `f${i}` } }))
  };
  const files: Record<string, Uint8Array> = {
    'document.kromba.json': new TextEncoder().encode(JSON.stringify(document))
  };
  for (const name of names)
    files[`${name}.jpg`] = await sharp(`demo/samples/${name}.jpg`).resize(SIZE).jpeg().toBuffer();
  const buffer = Buffer.from(zipSync(files, { level: 0 }));
  await page.goto('/');
  await page
    .getByLabel('Pictures or Kromba documents')
    .setInputFiles({ name: 'window.kromba', mimeType: 'application/octet-stream', buffer });
  await page.waitForURL('**/work/**');
  await settled(page);
}

const WORK = 'section[aria-label^="Work"]';

interface Size {
  readonly width: number;
  readonly height: number;
}
const SMALLEST: Size = { width: 1024, height: 700 };
/** What is so wide is laid out as what is less wide, with more room: whole pages are looked at in it, and not each panel. */
const WIDEST: Size = { width: 2560, height: 1440 };
const OTHERS: readonly Size[] = [WIDEST, { width: 1920, height: 1080 }, { width: 1280, height: 800 }];

for (const [sizes, named] of [
  [[SMALLEST], 'in the smallest window, and axe finds nothing'],
  [OTHERS, 'in larger ones']
] as const)
  test(`everything is readable ${named}`, async ({ page }) => {
    test.setTimeout(600_000);
    await page.setViewportSize(sizes.at(-1)!);
    const problems: string[] = [];
    // What axe finds does not hang on the size of the window; and only there is every panel gone through.
    const all = sizes.includes(SMALLEST);
    const look = async (what: string, part?: string): Promise<void> => {
      for (const size of sizes) {
        if (part && size === WIDEST) continue;
        await page.setViewportSize(size);
        await laidOut(page);
        problems.push(...(await unreadable(page)).map((p) => `${what}, ${size.width} px: ${p}`));
      }
      if (all) problems.push(...(await serious(page, part)).map((p) => `${what}: ${p}`));
    };
    await page.goto('/');
    await expect(page.getByRole('region', { name: 'Samples' })).toBeVisible();
    await look('documents');
    await page.getByRole('link', { name: 'Many files' }).click();
    await look('many files');
    const long = `${'a very long name of a picture '.repeat(4)}.jpg`;
    const file = await readFile('demo/samples/old-print.small.jpg');
    const given = (name: string, buffer: Buffer): { name: string; mimeType: string; buffer: Buffer } => ({
      ...{ name, buffer },
      mimeType: 'image/jpeg'
    });
    await page
      .getByLabel('Pictures to work on')
      .setInputFiles([
        given(long, file),
        given('old print.jpg', file),
        given('cut.jpg', file.subarray(0, 900))
      ]);
    await page.getByLabel('Format').selectOption('jpeg');
    await page.getByLabel('Colour space').selectOption('adobe-rgb');
    await page.locator('label').filter({ hasText: 'a folder' }).click();
    await look('many files, chosen');
    await page.locator('label').filter({ hasText: 'one zip' }).click();
    await page.getByRole('button', { name: 'Make 3 files' }).click();
    await expect(page.getByRole('status')).toContainText('2 of 3 made, 1 failed.', { timeout: 60_000 });
    await look('many files, made');
    await openExposures(page);
    await look('source');
    await page.keyboard.press('a');
    await look('adding a step');
    await page.keyboard.press('Escape');
    const few = ['Mix', 'Levels', 'Curves'];
    const more = [
      'Balance',
      'Colour',
      'Black and white',
      'Channel light',
      'Merge exposures',
      'Tint',
      'Smooth'
    ];
    for (const title of all ? [...few, ...more] : few) {
      await addStep(page, title);
      await look(title, WORK);
    }
    await dropPin(page, 300, 200, 'want', SIZE);
    await dropPin(page, 150, 100, 'avoid', SIZE);
    for (const part of ['On', 'Blend', 'Limits'] as const) {
      await openPart(page, part);
      await look(part, WORK);
    }
    await openPart(page, 'Where');
    for (const term of ['Distance to a colour', 'Channel', 'Paint', 'Ramp']) {
      await addTerm(page, term);
      await page.keyboard.press('Escape');
      await look(term, WORK);
    }
    await page.getByRole('button', { name: 'Find' }).click();
    await settled(page);
    await look('found sources');
    await page.keyboard.press('e');
    await expect(page.getByRole('dialog', { name: 'Export the picture' })).toBeVisible();
    await look('export');
    await page.getByRole('dialog').getByRole('button', { name: 'Cancel' }).click();
    await page.keyboard.press('?');
    await look('keys');
    await page.keyboard.press('Escape');
    await expect(page.getByRole('dialog', { name: 'Keys' })).toBeHidden();

    for (const title of ['LUT', 'Lay over', 'Stretch', 'Match', 'Even sky', 'Level lines', 'Rein in']) {
      await addStep(page, title);
      await look(title, WORK);
    }
    await page.getByRole('button', { name: 'What to do with Rein in' }).click();
    await look('a step’s menu');
    await page.getByRole('menuitem', { name: 'Make a LUT of it …' }).click();
    await page.getByRole('button', { name: 'Make the table' }).click();
    await expect(page.getByText('What it carries')).toBeVisible({ timeout: 150_000 });
    await look('a LUT');
    await page.getByRole('button', { name: 'Close', exact: true }).click();
    await page.keyboard.press('l');
    await look('looks');
    await page.getByRole('button', { name: 'Keep a look …' }).click();
    await look('keeping a look');
    await page.getByRole('dialog').getByRole('button', { name: 'Cancel' }).click();
    await page.keyboard.press('l');
    await page.getByRole('group', { name: 'Rein in amount', exact: true }).locator('.label').click();
    await expect(page.getByRole('group', { name: 'Values tried' })).toBeVisible();
    await look('a bracket');
    await page.getByRole('button', { name: 'End', exact: true }).click();
    for (let places = 2; places <= 4; places++) {
      await page.keyboard.press('b');
      await look(`${places} places`);
    }
    await page.getByRole('button', { name: 'What differs' }).click();
    for (const way of ['Divider', 'Flip', 'Difference']) {
      await page.getByRole('radio', { name: way }).click();
      await look(way);
    }
    expect(problems).toEqual([]);
  });
