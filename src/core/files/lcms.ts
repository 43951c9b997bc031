import type { Lcms } from 'lcms-wasm';
import { once, partOf, wasmModule } from './wasm';

/** Pixel formats and flags of lcms2.h. */
const format = (space: number, channels: number): number => (1 << 22) | (space << 16) | (channels << 3) | 4;
export const GREY_FLOAT = format(3, 1);
export const RGB_FLOAT = format(4, 3);
export const XYZ_FLOAT = format(9, 3);
export const [PERCEPTUAL, RELATIVE_COLORIMETRIC] = [0, 1];
export const NO_CACHE_NO_OPTIMIZE = 0x0140;
export const BLACK_POINT_COMPENSATION = 0x2000;

/** It is handed over on a stack of 15 MB. */
export const MOST_PROFILE_BYTES = 8 * 2 ** 20;

const glue = partOf('converts colour profiles', () => import('lcms-wasm'));
/** The library that converts by ICC profiles. @throws FileError where it can't be had */
export const loadLcms = once(async (): Promise<Lcms> => {
  const [module, { instantiate }] = await Promise.all([wasmModule('lcms'), glue()]);
  return instantiate({
    instantiateWasm: (imports, done) => {
      void WebAssembly.instantiate(module, imports).then((instance) => done(instance));
      return {};
    }
  });
});

/** To be closed; 0 where it is none. */
export const openProfile = (library: Lcms, bytes: Uint8Array): number =>
  bytes.length > MOST_PROFILE_BYTES ? 0 : library.cmsOpenProfileFromMem(bytes, bytes.length);
