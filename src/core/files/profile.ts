import { encode } from '../colour/transfer';
import { XYZ_TO_RGB } from '../colour/xyz';
import { sampleScale, sharedSamples } from '../raster/frame';
import { channelsOf, PROFILE_DAMAGED, type DecodedImage } from './image';
import {
  GREY_FLOAT,
  loadLcms,
  NO_CACHE_NO_OPTIMIZE,
  openProfile,
  RELATIVE_COLORIMETRIC,
  RGB_FLOAT,
  XYZ_FLOAT
} from './lcms';

/** Differences from sRGB below this are rounding in the profile, not another space. */
const SAME_SPACE = 0.002;
const BLOCK = 65536;

export const INKS_CONVERTED =
  'Its inks were turned into RGB by the plain formula; an ink profile is not used.';

const SAYS_LINEAR =
  'Its colour profile says that its values are proportional to light, and the picture is worked on so; Source has the choice.';

/**
 * The image in sRGB: one with an embedded RGB or grey ICC profile is converted in float, relative colorimetric,
 * by way of XYZ, so that colours outside sRGB stay outside 0…1. One that is sRGB already keeps its samples. Where the profile's
 * curves are straight, the image stays linear.
 */
export async function intoSrgb(image: DecodedImage): Promise<DecodedImage> {
  if (!image.profile) return image;
  const untouched = (notice: string): DecodedImage => ({
    ...image,
    profile: null,
    notices: [...image.notices, notice]
  });
  if (image.layout === 'cmyk') {
    return untouched(INKS_CONVERTED);
  }
  const library = await loadLcms();
  const handle = openProfile(library, image.profile);
  if (!handle) return untouched(PROFILE_DAMAGED);
  const wanted = image.layout === 'grey' ? 'GRAY' : 'RGB';
  if (library.cmsGetColorSpaceASCII(handle) !== wanted) {
    library.cmsCloseProfile(handle);
    return untouched('Its colour profile does not fit its channels; the picture was read as sRGB.');
  }
  const transform = library.cmsCreateTransform(
    handle,
    wanted === 'RGB' ? RGB_FLOAT : GREY_FLOAT,
    library.cmsCreateXYZProfile(),
    XYZ_FLOAT,
    RELATIVE_COLORIMETRIC,
    NO_CACHE_NO_OPTIMIZE
  );
  library.cmsCloseProfile(handle);
  if (!transform) return untouched('Its colour profile can’t be used; the picture was read as sRGB.');
  const toXyz = (values: Float32Array, count: number): Float32Array =>
    library.cmsDoTransform(transform, values, count);
  try {
    const colours = wanted === 'RGB' ? 3 : 1;
    const encoding = isLinear(toXyz, colours) ? 'linear' : 'coded';
    const code = encoding === 'linear' ? (v: number): number => v : encode;
    const made = isSrgb(toXyz, colours, code)
      ? { ...image, profile: null }
      : convert(image, toXyz, colours, code);
    if (encoding === 'coded') return made;
    return { ...made, encoding, notices: [...made.notices, SAYS_LINEAR] };
  } finally {
    library.cmsDeleteTransform(transform);
  }
}

type ToXyz = (values: Float32Array, count: number) => Float32Array;

/** One XYZ colour into RGB of sRGB's primaries, or into its grey, each light written by `code`. */
function codeXyz(
  xyz: Float32Array,
  from: number,
  colours: number,
  out: { [i: number]: number },
  at: number,
  code: (light: number) => number
): void {
  const x = xyz[from];
  const y = xyz[from + 1];
  const z = xyz[from + 2];
  if (colours === 1) {
    out[at] = code(y);
    return;
  }
  for (let c = 0; c < 3; c++) {
    out[at + c] = code(XYZ_TO_RGB[3 * c] * x + XYZ_TO_RGB[3 * c + 1] * y + XYZ_TO_RGB[3 * c + 2] * z);
  }
}

/** Whether the channels of a profile go through by themselves and add up, black being nothing. */
function addsUp(toXyz: ToXyz, colours: number): boolean {
  const probe = [0.7, 0.4, 0.2].slice(0, colours);
  const alone = probe.flatMap((v, c) => probe.map((_, i) => (i === c ? v : 0)));
  const zero = probe.map(() => 0);
  const xyz = toXyz(Float32Array.from([...zero, ...probe, ...alone]), 2 + colours);
  return [0, 1, 2].every((i) => {
    const parts = probe.reduce((sum, _, c) => sum + xyz[3 * (2 + c) + i], 0);
    return Math.abs(xyz[i]) < SAME_SPACE && Math.abs(xyz[3 + i] - parts) < SAME_SPACE;
  });
}

const negative = (block: Float32Array): boolean => block.some((v) => v < 0);

/**
 * Negative samples by odd symmetry, as the transfer of sRGB is extended: profiles of curves and a matrix add up, so a
 * colour's part above 0 and its part below go through by themselves. The library's own curves end at 0.
 */
function oddly(toXyz: ToXyz, block: Float32Array, count: number): Float32Array {
  const above = toXyz(
    block.map((v) => (v > 0 ? v : v === v ? 0 : v)),
    count
  );
  const below = toXyz(
    block.map((v) => (v < 0 ? -v : v === v ? 0 : v)),
    count
  );
  return above.map((v, i) => v - below[i]);
}

/** Whether the profile's curves are straight: half the value is half the light, of each channel by itself. */
function isLinear(toXyz: ToXyz, colours: number): boolean {
  const probe = [1, 0.5, 0.1].flatMap((v) =>
    Array.from({ length: colours }, (_, c) => Array.from({ length: colours }, (_, i) => (i === c ? v : 0)))
  );
  const xyz = toXyz(Float32Array.from(probe.flat()), probe.length);
  return probe.every((colour, p) => {
    const v = Math.max(...colour);
    const full = p % colours;
    return [0, 1, 2].every((i) => Math.abs(xyz[3 * p + i] - v * xyz[3 * full + i]) < SAME_SPACE);
  });
}

function isSrgb(toXyz: ToXyz, colours: number, code: (light: number) => number): boolean {
  const steps = 6;
  const count = steps ** colours;
  const probe = Float32Array.from(
    { length: count * colours },
    (_, i) => (Math.floor(Math.floor(i / colours) / steps ** (i % colours)) % steps) / (steps - 1)
  );
  const xyz = toXyz(probe, count);
  const back = new Float32Array(count * colours);
  for (let i = 0; i < count; i++) codeXyz(xyz, 3 * i, colours, back, i * colours, code);
  return probe.every((v, i) => Math.abs(v - back[i]) < SAME_SPACE);
}

function convert(
  image: DecodedImage,
  toXyz: ToXyz,
  colours: number,
  code: (light: number) => number
): DecodedImage {
  const { samples } = image;
  const channels = channelsOf(image);
  const scale = sampleScale(samples);
  const pixels = image.width * image.height;
  const out = sharedSamples('f32', samples.length);
  const additive = addsUp(toXyz, colours);
  for (let from = 0; from < pixels; from += BLOCK) {
    const count = Math.min(BLOCK, pixels - from);
    const block = new Float32Array(count * colours);
    for (let i = 0; i < count; i++) {
      for (let c = 0; c < colours; c++) block[i * colours + c] = samples[(from + i) * channels + c] * scale;
    }
    const xyz = additive && negative(block) ? oddly(toXyz, block, count) : toXyz(block, count);
    for (let i = 0; i < count; i++) {
      const at = (from + i) * channels;
      codeXyz(xyz, 3 * i, colours, out, at, code);
      if (image.alpha) out[at + colours] = samples[at + colours] * scale;
    }
  }
  return { ...image, samples: out, sampleType: 'f32', profile: null };
}
