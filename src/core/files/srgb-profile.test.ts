import { instantiate } from 'lcms-wasm';
import { expect, it } from 'vitest';
import { spaces, spaceOf } from '../colour/output';
import { quantize } from '../path/quantize';
import { randomStream } from '../random';
import type { Raster } from '../raster/raster';
import { spaceProfile, srgbProfile } from './srgb-profile';

/** Pixel format and flags of lcms2.h. */
const RGB_FLOAT = (1 << 22) | (4 << 16) | (3 << 3) | 4;
const RELATIVE = 1;
const NO_SHORTCUTS = 0x0140;

it('is taken by lcms for the sRGB that lcms itself makes', async () => {
  const lcms = await instantiate();
  const bytes = srgbProfile();
  const ours = lcms.cmsOpenProfileFromMem(bytes, bytes.length);
  expect(ours).not.toBe(0);
  expect(lcms.cmsGetColorSpaceASCII(ours)).toBe('RGB');
  const transform = lcms.cmsCreateTransform(
    ours,
    RGB_FLOAT,
    lcms.cmsCreate_sRGBProfile(),
    RGB_FLOAT,
    RELATIVE,
    NO_SHORTCUTS
  );
  const random = randomStream(12);
  const colours = Float32Array.from({ length: 3000 }, () => random());
  const back = lcms.cmsDoTransform(transform, colours, 1000);
  // From a space to the same lcms goes by a table of its own: half a level of 8 bit is 0.002.
  expect(Math.max(...colours.map((v, i) => Math.abs(v - back[i])))).toBeLessThan(0.001);
});

const GREY_FLOAT = (1 << 22) | (3 << 16) | (1 << 3) | 4;

it.each(spaces.slice(1).map(({ id }) => id))('lcms comes to what is written in %s', async (id) => {
  const lcms = await instantiate();
  const random = randomStream(13);
  const count = 1000;
  const planes = [0, 1, 2].map(() => Float32Array.from({ length: count }, () => random()));
  const raster: Raster = {
    ...{ x: 0, y: 0, width: count, height: 1, encoding: 'coded', alpha: null },
    planes: planes as unknown as Raster['planes']
  };
  const colours = Float32Array.from({ length: 3 * count }, (_, i) => planes[i % 3][Math.floor(i / 3)]);
  for (const grey of [false, true]) {
    const bytes = spaceProfile(spaceOf(id), 'coded', grey);
    const profile = lcms.cmsOpenProfileFromMem(bytes, bytes.length);
    expect(lcms.cmsGetColorSpaceASCII(profile)).toBe(grey ? 'GRAY' : 'RGB');
    const into = lcms.cmsCreateTransform(
      lcms.cmsCreate_sRGBProfile(),
      RGB_FLOAT,
      profile,
      grey ? GREY_FLOAT : RGB_FLOAT,
      RELATIVE,
      NO_SHORTCUTS
    );
    const source = grey ? colours.map((_, i) => planes[0][Math.floor(i / 3)]) : colours;
    const theirs = lcms.cmsDoTransform(into, source, count);
    const samples = new Uint16Array((grey ? 1 : 3) * count);
    quantize(raster, samples, count, { space: id, grey });
    const most = Math.max(...Array.from(samples, (v, i) => Math.abs(v - theirs[i] * 65535)));
    // A step of 16 bits, and half of one for rounding.
    expect(most).toBeLessThan(1.5);
  }
});
