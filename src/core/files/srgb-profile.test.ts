import { instantiate } from 'lcms-wasm';
import { expect, it } from 'vitest';
import { randomStream } from '../random';
import { srgbProfile } from './srgb-profile';

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
  // The curve has 1024 points of 16 bit: half a level of 8 bit is 0.002.
  expect(Math.max(...colours.map((v, i) => Math.abs(v - back[i])))).toBeLessThan(0.001);
});
