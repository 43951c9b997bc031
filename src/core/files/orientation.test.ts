import { describe, expect, it } from 'vitest';
import { sharedSamples } from '../raster/frame';
import type { DecodedImage } from './image';
import { upright } from './orientation';

/** 1 2 3 over 4 5 6, as stored. */
function stored(orientation: number): DecodedImage {
  const samples = sharedSamples('u8', 6);
  samples.set([1, 2, 3, 4, 5, 6]);
  return {
    width: 3,
    height: 2,
    layout: 'grey',
    alpha: false,
    sampleType: 'u8',
    samples,
    profile: null,
    orientation,
    notices: []
  };
}

describe('EXIF orientation, worked by hand from where row 0 and column 0 stand', () => {
  it.each([
    [1, 3, [1, 2, 3, 4, 5, 6]],
    [2, 3, [3, 2, 1, 6, 5, 4]],
    [3, 3, [6, 5, 4, 3, 2, 1]],
    [4, 3, [4, 5, 6, 1, 2, 3]],
    [5, 2, [1, 4, 2, 5, 3, 6]],
    [6, 2, [4, 1, 5, 2, 6, 3]],
    [7, 2, [6, 3, 5, 2, 4, 1]],
    [8, 2, [3, 6, 2, 5, 1, 4]]
  ])('%d', (orientation, width, wanted) => {
    const found = upright(stored(orientation));
    expect([found.width, found.height]).toEqual([width, 6 / width]);
    expect(Array.from(found.samples)).toEqual(wanted);
    expect(found.orientation).toBe(1);
  });
});
