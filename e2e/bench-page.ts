import { expect, test as base, type Page } from '@playwright/test';

/** Every test also makes sure that the console stays empty of errors and no request leaves the page's origin. */
export const test = base.extend<{ watched: void }>({
  watched: [
    async ({ page, baseURL }, use) => {
      const errors: string[] = [];
      const strangers: string[] = [];
      page.on('console', (message) => {
        if (message.type() === 'error') errors.push(message.text());
      });
      page.on('pageerror', (error) => errors.push(error.message));
      page.on('request', (request) => {
        const url = request.url();
        if (!url.startsWith(baseURL!) && !/^(blob|data):/.test(url)) strangers.push(url);
      });
      await use();
      expect(errors).toEqual([]);
      expect(strangers).toEqual([]);
    },
    { auto: true }
  ]
});
export { expect };

/** Waits until the picture in Out stands and everything is saved. */
export async function settled(page: Page): Promise<void> {
  await expect(page.locator('footer [data-save]')).toHaveText('saved', { timeout: 30_000 });
  await page.waitForFunction(() => performance.getEntriesByName('kromba:settled').length > 0, null, {
    timeout: 30_000
  });
  await page.evaluate(
    () => new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve)))
  );
}

/** Opens a sample from the light table. */
export async function openSample(page: Page, title: string): Promise<void> {
  await page.goto('/');
  await page.getByRole('region', { name: 'Samples' }).getByRole('button', { name: title }).click();
  await page.waitForURL('**/work/**');
  await settled(page);
}

/** Where a full-size pixel of a picture of `width`×`height` that is shown whole stands on the screen. */
export async function onScreen(
  page: Page,
  x: number,
  y: number,
  width = 2400,
  height = 1600
): Promise<{ x: number; y: number }> {
  const box = (await page.getByLabel('The picture', { exact: true }).boundingBox())!;
  const zoom = Math.min(box.width / width, box.height / height);
  return {
    x: box.x + box.width / 2 + (x + 0.5 - width / 2) * zoom,
    y: box.y + box.height / 2 + (y + 0.5 - height / 2) * zoom
  };
}

/** The status line's readings on one side, as numbers by channel. */
export async function reading(page: Page, side: 'in' | 'out'): Promise<Record<string, number>> {
  const values = page.locator(`footer [data-side="${side}"] [data-channel]`);
  const pairs = await values.evaluateAll((all) =>
    all.map((e) => [(e as HTMLElement).dataset['channel'], e.textContent])
  );
  return Object.fromEntries(pairs.map(([id, text]) => [id, Number(text!.replace('−', '-'))]));
}

/** Types a weight into the mix, in %. */
export async function setWeight(page: Page, name: string, value: number): Promise<void> {
  const field = page.getByRole('textbox', { name: `${name} in percent`, exact: true });
  await field.fill(String(value));
  await field.press('Enter');
}

/** Exports through the panel and gives the file's path. */
export async function exported(page: Page, choose?: () => Promise<void>): Promise<string> {
  await page.getByRole('banner').getByRole('button', { name: 'Export' }).click();
  const dialog = page.getByRole('dialog', { name: 'Export the picture' });
  await expect(dialog.getByLabel('Name')).toBeVisible();
  await choose?.();
  const download = page.waitForEvent('download', { timeout: 40_000 });
  await dialog.getByRole('button', { name: 'Export' }).click();
  return (await download).path();
}
