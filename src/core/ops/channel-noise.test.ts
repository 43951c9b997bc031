import { describe, expect, it } from 'vitest';
import { modelOf, type ModelId } from '../colour';
import { seenOf } from '../measure/seen';
import { randomStream, scattered } from '../random';
import { finished } from '../testing';
import { channelNoise } from './channel-noise';
import { givenFor, type Asked } from './op';

const SIZE = { width: 200, height: 160 };
const SIGMA = 0.01;

/** Grey of 0.5 with noise; of most of it one channel is missing. */
const random = randomStream(8);
const grey = new Float32Array(SIZE.width * SIZE.height).map(() => 0.5 + SIGMA * scattered(random));
const red = grey.map((v, i) => (i % SIZE.width > 120 ? Number.NaN : v));

function noiseOn(model: ModelId, letter: string): number {
  const asked = {
    ...givenFor(modelOf(model)),
    ...{ size: SIZE, channels: modelOf(model).channels.filter((c) => c.letter === letter) },
    region: () => seenOf(SIZE.width, SIZE.height, [red, grey, grey])
  } as unknown as Asked;
  return finished(channelNoise(asked))[0];
}

describe('the noise of the channels that a step acts on', () => {
  // The ink of a grey is 1 less the grey, its value the grey itself: both scatter as it does.
  it.each([
    ['rgb', 'r'],
    ['hsv', 'v'],
    ['cmyk', 'k']
  ] as const)('is that of the samples that are there: %s %s', (model, letter) => {
    expect(Math.abs(noiseOn(model, letter) / SIGMA - 1)).toBeLessThan(0.03);
  });
});
