import { readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import type { Truth } from '../demo/sky/expose';
import { taken } from '../demo/sky/taken';
import { readFits } from '../src/core/files/fits/read';
import { skyOf } from '../src/core/measure/sky';
import { exported, settled } from './bench-page';

export interface Size {
  readonly width: number;
  readonly height: number;
}
/** Half as wide as the samples, with stars as large: what is done on it takes less. */
export const SIZE: Size = { width: 1200, height: 800 };

/** Opens the frames of an object, made at this size, as files. @returns what they were made with */
export async function openFrames(page: Page, object: 'lantern' | 'quern'): Promise<Truth[]> {
  const frames = taken(object, SIZE.width, SIZE.height);
  await page.goto('/');
  await page.getByLabel('Pictures or Kromba documents').setInputFiles(
    frames.map(({ file, truth }) => ({
      ...{ name: `${object}-${truth.filter.toLowerCase()}.fits`, mimeType: 'image/fits' },
      buffer: Buffer.from(file)
    }))
  );
  await page.waitForURL('**/work/**');
  await settled(page);
  return frames.map(({ truth }) => truth);
}

/** The levels of three planes in the corners of a picture, where nothing but sky is. */
export function corners(samples: ArrayLike<number>, channels = 3): number[][] {
  const { width, height } = SIZE;
  const side = Math.round(width / 16);
  return [
    [20, 20],
    [width - side - 20, 20],
    [20, height - side - 20],
    [width - side - 20, height - side - 20]
  ].map(([left, top]) =>
    Array.from({ length: channels }, (_, c) => {
      const box = new Float32Array(side * side);
      for (let y = 0, i = 0; y < side; y++)
        for (let x = 0; x < side; x++, i++) box[i] = samples[((top + y) * width + left + x) * channels + c];
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
