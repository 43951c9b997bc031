import { sharedSamples, type Samples } from '../raster/frame';
import { channelsOf, type DecodedImage } from './image';
import { partOf } from './wasm';

const reader = partOf('reads how a picture was held', () => import('exifr'));

/** EXIF orientation of an image file or a bare EXIF block, 1 where there is none. @throws FileError where its reader can't be loaded */
export async function exifOrientation(bytes: Uint8Array): Promise<number> {
  const { default: exifr } = await reader();
  const orientation = await exifr.orientation(bytes).catch(() => undefined);
  return orientation && orientation >= 1 && orientation <= 8 ? orientation : 1;
}

/**
 * Where the pixel that is to stand at (x, y) is stored, for an image of stored size w×h
 * (EXIF 2.32, tag 274: side of row 0 and column 0).
 */
const STORED_AT: Record<number, (x: number, y: number, w: number, h: number) => [number, number]> = {
  2: (x, y, w) => [w - 1 - x, y],
  3: (x, y, w, h) => [w - 1 - x, h - 1 - y],
  4: (x, y, _, h) => [x, h - 1 - y],
  5: (x, y) => [y, x],
  6: (x, y, _, h) => [y, h - 1 - x],
  7: (x, y, w, h) => [w - 1 - y, h - 1 - x],
  8: (x, y, w) => [w - 1 - y, x]
};

/** The image with its orientation applied to the samples. */
export function upright(image: DecodedImage): DecodedImage {
  const storedAt = STORED_AT[image.orientation];
  if (!storedAt) return image;
  const turned = image.orientation >= 5;
  const width = turned ? image.height : image.width;
  const height = turned ? image.width : image.height;
  const channels = channelsOf(image);
  const samples: Samples = sharedSamples(image.sampleType, image.samples.length);
  let at = 0;
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const [sx, sy] = storedAt(x, y, image.width, image.height);
      const from = (sy * image.width + sx) * channels;
      for (let c = 0; c < channels; c++) samples[at++] = image.samples[from + c];
    }
  }
  return { ...image, width, height, samples, orientation: 1 };
}
