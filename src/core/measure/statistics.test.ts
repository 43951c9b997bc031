import { expect, it } from 'vitest';
import { sharedSamples, type Frame } from '../raster/frame';
import { frameStatistics } from './statistics';

function floats(values: number[], channels: 1 | 3): Frame {
  const samples = sharedSamples('f32', values.length);
  samples.set(values);
  const levels = [{ width: values.length / channels, height: 1, samples }];
  const layout = channels === 1 ? 'grey' : 'rgb';
  return {
    width: levels[0].width,
    height: 1,
    layout,
    alpha: false,
    sampleType: 'f32',
    encoding: 'coded' as const,
    levels,
    missing: 0
  };
}

it('takes min, max, mean, median and its deviation of each plane; by hand', () => {
  const found = frameStatistics(floats([0.25, 1, 0, 0.5, 3, 0, 0.75, 2, 0.5, 0, 0, 0.25], 3));
  expect(found['r']).toMatchObject({ min: 0, max: 0.75, mean: 0.375, median: 0.375, mad: 0.25 });
  expect(found['g']).toMatchObject({ min: 0, max: 3, mean: 1.5, median: 1.5, mad: 1 });
  expect(found['b'].mean).toBe(0.1875);
});

it('leaves missing samples out', () => {
  expect(frameStatistics(floats([1, Number.NaN, 3, 2], 1))).toMatchObject({
    grey: { min: 1, max: 3, mean: 2, median: 2, mad: 1, sky: 2 }
  });
});
