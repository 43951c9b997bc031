import { describe, expect, it } from 'vitest';
import { randomStream } from '../random';
import { rankPlane, ranksOf, rankTable } from './ranks';

const ranked = (samples: readonly number[], asked: readonly number[]): number[] => {
  const ranks = rankTable(ranksOf(Float32Array.from(samples), samples.length)!);
  const plane = Float32Array.from(asked);
  rankPlane(ranks, plane, plane, asked.length);
  return [...plane];
};

describe('ranks', () => {
  it('are the part of the samples up to a value, less those of the lowest', () => {
    // By hand: up to 1 stands one sample, up to 2 three, up to 4 all; straight between.
    const found = ranked([4, 1, 2, 2], [0, 1, 1.5, 2, 3, 4, 9, Number.NaN]);
    expect(found.slice(0, 7)).toEqual([0, 0, 1 / 3, 2 / 3, 5 / 6, 1, 1].map((v) => expect.closeTo(v, 6)));
    expect(found[7]).toBeNaN();
  });

  it('tell tones of a faint sky apart, whatever one hot sample is', () => {
    const sky = Array.from({ length: 10_001 }, (_, i) => 0.001 + i * 1e-8);
    const found = ranked([...sky, 60_000], [0.001 + 25e-6, 0.001 + 50e-6, 0.001 + 75e-6]);
    expect(found).toEqual([0.25, 0.5, 0.75].map((v) => expect.closeTo(v, 3)));
  });

  it('agree with counting, values below zero and many alike among them', () => {
    const random = randomStream(3);
    const samples = Array.from({ length: 60_000 }, () =>
      Math.fround(random() < 0.3 ? 0.25 : (random() - 0.4) ** 3)
    );
    const lowest = Math.min(...samples);
    const [n, first] = [samples.length, samples.filter((v) => v === lowest).length];
    const asked = [...samples.filter((_, i) => i % 997 === 0), 0.25, -0, 0];
    const found = ranked(samples, asked);
    asked.forEach((v, i) => {
      const upTo = samples.filter((s) => s <= v).length;
      expect(Math.abs(found[i] - (upTo - first) / (n - first)), `of ${v}`).toBeLessThan(1e-4);
    });
  });

  it('are none where all samples are the same, or there is none', () => {
    expect(ranksOf(Float32Array.of(3, 3, 3), 3)).toBeNull();
    expect(ranksOf(new Float32Array(0), 0)).toBeNull();
  });
});
