import { readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import type { Truth } from '../demo/sky/expose';
import { readFits } from '../src/core/files/fits/read';
import { skyOf } from '../src/core/measure/sky';
import { exported, settled } from './bench-page';

/** Size of the frames of the sky. */
export const [WIDTH, HEIGHT] = [2400, 1600];
/** What the frames of an object were made with. */
export const truthsOf = (object: 'lantern' | 'quern'): Truth[] =>
  JSON.parse(readFileSync(`demo/frames/${object}.truth.json`, 'utf8')) as Truth[];

/** The levels of three planes in the corners of a picture, where nothing but sky is. */
export function corners(samples: ArrayLike<number>, channels = 3): number[][] {
  const side = 150;
  return [
    [20, 20],
    [WIDTH - side - 20, 20],
    [20, HEIGHT - side - 20],
    [WIDTH - side - 20, HEIGHT - side - 20]
  ].map(([left, top]) =>
    Array.from({ length: channels }, (_, c) => {
      const box = new Float32Array(side * side);
      for (let y = 0, i = 0; y < side; y++)
        for (let x = 0; x < side; x++, i++) box[i] = samples[((top + y) * WIDTH + left + x) * channels + c];
      return skyOf(box).level;
    })
  );
}

/** The picture as a file of floats. @param range what they are divided by, where that is not the file's own affair */
export async function asFits(page: Page, range?: number): Promise<Awaited<ReturnType<typeof readFits>>> {
  const path = await exported(
    page,
    async () => {
      await page.getByLabel('Format').selectOption({ label: 'FITS' });
      await page.getByLabel('Depth').selectOption({ label: '32-bit float' });
    },
    240_000
  );
  await settled(page);
  return readFits(new Uint8Array(readFileSync(path)), range === undefined ? {} : { range });
}

export const spread = (values: readonly number[]): number => Math.max(...values) - Math.min(...values);
