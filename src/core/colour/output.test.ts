import { converter } from 'culori';
import { describe, expect, it } from 'vitest';
import { quantize } from '../path/quantize';
import { randomStream } from '../random';
import type { Raster } from '../raster/raster';
import { matrixInto, spaces, spaceOf, type SpaceId } from './output';

const COUNT = 1000;
const random = randomStream(70);
const planes = [0, 1, 2].map(() => Float32Array.from({ length: COUNT }, () => random()));
const raster: Raster = {
  ...{ x: 0, y: 0, width: COUNT, height: 1, encoding: 'coded', alpha: null },
  planes: planes as unknown as Raster['planes']
};
const written = (space: SpaceId, of: Raster = raster): Float32Array => {
  const samples = new Float32Array(3 * of.width);
  quantize(of, samples, of.width, { space, keepRange: true });
  return samples;
};

/** What culori calls them. */
const THEIRS = { 'display-p3': 'p3', 'adobe-rgb': 'a98', rec2020: 'rec2020', prophoto: 'prophoto' } as const;

/** About the light of a coded value: what differs little in it differs much in dark coded ones. */
const light = (v: number): number => Math.max(0, v) ** 2.2;

describe('spaces that files are written in', () => {
  it.each(Object.keys(THEIRS) as (keyof typeof THEIRS)[])('%s is what culori has it', (id) => {
    const into = converter(THEIRS[id]);
    const found = written(id);
    let most = 0;
    for (let i = 0; i < COUNT; i++) {
      const [r, g, b] = planes.map((plane) => plane[i]);
      const theirs = into({ mode: 'rgb', r, g, b });
      (['r', 'g', 'b'] as const).forEach(
        (c, k) => (most = Math.max(most, Math.abs(light(theirs[c]) - light(found[3 * i + k]))))
      );
    }
    // Ours goes by the numbers of the profile, which are whole 65536ths of light.
    expect(most * 65536).toBeLessThan(3);
  });

  it('keep greys grey and white white, to the last step of 16 bits', () => {
    const greys = Float32Array.from({ length: 256 }, (_, i) => i / 255);
    for (const { id } of spaces) {
      const samples = new Uint16Array(3 * 256);
      quantize({ ...raster, width: 256, planes: [greys, greys, greys] }, samples, 256, { space: id });
      for (let i = 0; i < 256; i++) {
        const [r, g, b] = samples.subarray(3 * i, 3 * i + 3);
        expect(Math.max(r, g, b) - Math.min(r, g, b)).toBeLessThanOrEqual(1);
      }
      expect([...samples.subarray(0, 3)]).toEqual([0, 0, 0]);
      expect([...samples.subarray(-3)]).toEqual([65535, 65535, 65535]);
      const one = new Uint16Array(256);
      quantize({ ...raster, width: 256, planes: [greys, greys, greys] }, one, 256, { space: id, grey: true });
      one.forEach((v, i) => expect(Math.abs(v - samples[3 * i])).toBeLessThanOrEqual(1));
    }
  });

  it('take light as it is where it stays light, and colours beyond sRGB', () => {
    const matrix = matrixInto(spaceOf('rec2020'));
    // What sRGB can’t hold is inside Rec. 2020: its own green.
    const green = [-0.5876, 1.1329, -0.1006];
    const light = { ...raster, width: 1, encoding: 'linear' as const };
    const of = { ...light, planes: green.map((v) => Float32Array.of(v)) as unknown as Raster['planes'] };
    const samples = new Float32Array(3);
    quantize(of, samples, 1, { space: 'rec2020', encoding: 'linear', keepRange: true });
    [0, 1, 2].forEach((row) =>
      expect(samples[row]).toBeCloseTo(
        green.reduce((sum, v, c) => sum + v * matrix[3 * row + c], 0),
        6
      )
    );
    [0, 1, 0].forEach((v, c) => expect(samples[c]).toBeCloseTo(v, 3));
    // Missing stays missing.
    const none = { ...light, planes: planes.map(() => Float32Array.of(NaN)) as unknown as Raster['planes'] };
    quantize(none, samples, 1, { space: 'prophoto', keepMissing: true, keepRange: true });
    expect([...samples]).toEqual([NaN, NaN, NaN]);
  });
});
