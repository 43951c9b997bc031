import { instantiate } from 'lcms-wasm';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { channels, fillChannel, readChannels } from '../colour';
import { codingOf } from '../colour/output';
import { openFrame } from '../files/open-frame';
import { writeTiff } from '../files/tiff-write';
import { separations } from '../measure/separation';
import { fromNeutral, labOf, rgbOfLab } from '../measure/difference';
import { proposeMix } from '../measure/propose';
import { inRoom, takePlane } from '../kernels/arena';
import { resample } from '../raster/resample';
import { floatFrame, planOf, render, stepOf } from '../testing';
import { provideNodeWasm } from '../../engine/node/wasm';
import { evaluate } from './evaluate';
import { measurePicture } from './measure';
import { quantize } from './quantize';
import { screenPixels } from './view';

/** sRGB 255, 128, 0 and mid grey 128 as light (IEC 61966-2-1, by hand: ((128/255 + 0.055)/1.055)^2.4). */
const HALF = 0.2158605;
const ORANGE = [1, HALF, 0];

/** Pixel format and flags of lcms2.h. */
const RGB_FLOAT = (1 << 22) | (4 << 16) | (3 << 3) | 4;
const RELATIVE = 1;
const NO_SHORTCUTS = 0x0140;

beforeAll(provideNodeWasm);

/** A row of linear colours after some steps. */
function linear(colours: readonly (readonly number[])[], ...steps: ReturnType<typeof stepOf>[]): number[][] {
  const planes = render(floatFrame(colours.length, 1, colours.flat()), steps, [], 'linear');
  return colours.map((_, i) => planes.map((plane) => plane[i]));
}
const near = (found: readonly number[], wanted: readonly number[], digits = 5): void =>
  wanted.forEach((v, i) => expect(found[i]).toBeCloseTo(v, digits));

describe('the channels of a linear picture', () => {
  it('are those of its light: the known answers of LAB, and Y itself', () => {
    const values = readChannels(ORANGE, 'linear');
    near(
      [100 * values['lab.l'], 256 * (values['lab.a'] - 0.5), 256 * (values['lab.b'] - 0.5)],
      [67.82, 45.49, 74.84],
      1
    );
    // 0.2126 + 0.7152·0.2158605
    expect(values['lum']).toBeCloseTo(0.3669834, 6);
    // By their definitions on the values as they stand.
    near([values['hsv.v'], values['hsv.s'], 360 * values['hsv.h']], [1, 1, 60 * HALF], 4);
    near([values['cmyk.c'], values['cmyk.m'], values['cmyk.y'], values['cmyk.k']], [0, 1 - HALF, 1, 0]);
    expect(values['lch.c'] * 128).toBeCloseTo(Math.hypot(45.49, 74.84), 1);
    near(labOf([HALF, HALF, HALF], 'linear'), [53.59, 0, 0], 1);
    near(rgbOfLab([53.585, 0, 0], 'linear'), [HALF, HALF, HALF], 4);
    expect(fromNeutral([HALF, HALF, HALF], 'linear')).toBeLessThan(0.01);
  });

  it('are the same in the arena', () => {
    inRoom(() => {
      const rgb = ORANGE.map((v) => {
        const plane = takePlane(8);
        plane.fill(v);
        return plane;
      });
      const values = readChannels(ORANGE, 'linear');
      for (const { id } of channels) {
        const out = takePlane(8);
        fillChannel(id, rgb, 'linear', out, 8);
        expect(out[5], id).toBeCloseTo(values[id], 5);
      }
    }, 2 ** 20);
  });
});

describe('a step on a linear picture', () => {
  it('mono weighs Y and L*', () => {
    const [byY] = linear([ORANGE], stepOf('mono', { weights: { lum: 1 } }));
    near(byY, [0.3669834, 0.3669834, 0.3669834]);
    const [byL] = linear([ORANGE], stepOf('mono', { weights: { 'lab.l': 1 } }));
    near(byL, [0.6782, 0.6782, 0.6782], 3);
  });

  it('mix works on the values as they are, whatever its light; in LAB on those of the light', () => {
    const rows = { r: { r: 0.5, g: 0.5 }, g: { g: 1 }, b: { b: 1, constant: 0.1 } };
    for (const light of ['coded', 'linear'])
      near(linear([[0.2, 0.4, 0.1]], stepOf('mix', { rows, light }))[0], [0.3, 0.4, 0.2]);
    // Half of a* and b* of orange leaves L* as it is.
    const half = { a: { a: 0.5 }, b: { b: 0.5 } };
    const [after] = linear([ORANGE], stepOf('mix', { model: 'lab', rows: half }));
    near(labOf(after, 'linear'), [67.82, 22.75, 37.42], 1);
    // Half of the black ink of a dark grey: 1 − K is 0.25, and becomes 0.625.
    const ink = stepOf('mix', { model: 'cmyk', light: 'linear', rows: { k: { k: 0.5 } } });
    near(linear([[0.25, 0.25, 0.25]], ink)[0], [0.625, 0.625, 0.625]);
  });

  it('balance brings means and pins to their own Y', () => {
    const colours = [
      [0.1, 0.2, 0.4],
      [0.3, 0.2, 0.2]
    ];
    // Means 0.2, 0.2, 0.3: Y = 0.9278·0.2 + 0.0722·0.3 = 0.20722.
    const y = 0.20722;
    for (const light of ['coded', 'linear']) {
      const [first] = linear(colours, stepOf('balance', { method: 'grey', light }));
      near(first, [(0.1 * y) / 0.2, (0.2 * y) / 0.2, (0.4 * y) / 0.3]);
    }
    const pin = { id: 'n', name: 'n', x: 0, y: 0, size: 1, role: 'neutral' as const };
    const step = stepOf('balance', { method: 'pins' });
    const planes = render(floatFrame(2, 1, colours.flat()), [step], [pin], 'linear');
    // Y of the pin: 0.02126 + 0.14304 + 0.02888.
    near(
      planes.map((plane) => plane[0]),
      [0.19318, 0.19318, 0.19318]
    );
  });

  it('weigh, tint and colour read the light that is there', () => {
    const bright = stepOf('weigh', { target: 'brightness', weights: { r: 1 } });
    // Share of red: 0.2/0.8.
    near(linear([[0.2, 0.4, 0.2]], bright)[0], [0.25, 0.5, 0.25]);
    const stops = [
      { at: 0, rgb: [0, 0, 0] },
      { at: 1, rgb: [1, 128 / 255, 0] }
    ];
    // Y = 0.5: half way in light to the colour that is seen as sRGB 255, 128, 0.
    near(linear([[0.5, 0.5, 0.5]], stepOf('tint', { stops }))[0], [0.5, HALF / 2, 0]);
    const [grey] = linear([ORANGE], stepOf('colour', { saturation: -100 }));
    near(labOf(grey, 'linear'), [67.82, 0, 0], 1);
  });

  it('blends, limits and masks values as they are', () => {
    const double = { rows: { r: { r: 2 }, g: { g: 2 }, b: { b: 2 } } };
    const multiply = stepOf('mix', double, { blend: { mode: 'multiply' } });
    near(linear([[0.2, 0.4, 0.1]], multiply)[0], [0.08, 0.32, 0.02]);
    // Y of the grey 0.25 is half way up the slope from 0 to 0.5.
    const under = stepOf('mix', double, { blend: { under: [0, 0.5, 1, 1] } });
    near(linear([[0.25, 0.25, 0.25]], under)[0], [0.375, 0.375, 0.375]);
    const lum = { terms: [{ source: { kind: 'channel', channel: 'lum' } }] };
    near(linear([[0.25, 0.25, 0.25]], stepOf('mix', double, { where: lum }))[0], [0.3125, 0.3125, 0.3125]);
    // The mask is 1 at the colour whose light this is.
    const source = { kind: 'distance', to: [67.82, 45.49, 74.84], space: 'oklab', range: 0.2 };
    const [at] = linear([ORANGE], stepOf('invert', {}, { where: { terms: [{ source }] } }));
    near(at, [0, 1 - HALF, 1], 2);
  });

  it('merges by Y, and stacks lum as it is', () => {
    const [grey] = linear([[0.2, 0.4, 0.1]], stepOf('channel', { stack: [] }));
    near(grey, [0.33582, 0.33582, 0.33582]);
  });
});

describe('what is seen and written of a linear picture', () => {
  const raster = evaluate(planOf(floatFrame(1, 1, ORANGE), [], [], 'linear'), 0, {
    ...{ x: 0, y: 0, width: 1, height: 1 }
  });

  it('is encoded for the screen: colours, and channels that are light', () => {
    expect([...screenPixels(raster, 'colour')]).toEqual([255, 128, 0, 255]);
    expect(screenPixels(raster, { channel: 'rgb.g' })[0]).toBe(128);
    // Y is 0.3669834, which is 1.055·Y^(1/2.4) − 0.055 = 0.6398 coded.
    expect(screenPixels(raster, { channel: 'lum' })[0]).toBe(163);
    // L* is no light: 67.82 % of 255.
    expect(screenPixels(raster, { channel: 'lab.l' })[0]).toBe(173);
  });

  it('is encoded for integers, and stays as it is where the file may be linear', () => {
    const bytes = new Uint8Array(3);
    quantize(raster, bytes, 1);
    expect([...bytes]).toEqual([255, 128, 0]);
    const floats = new Float32Array(3);
    quantize(raster, floats, 1, { encoding: 'linear', keepRange: true });
    near([...floats], ORANGE);
    quantize(raster, floats, 1, { keepRange: true });
    near([...floats], [1, 128 / 255, 0]);
  });

  it('goes into a TIFF of floats with a profile that says so, as another library reads it', async () => {
    const samples = Float32Array.from({ length: 3 * 64 }, (_, i) => ORANGE[i % 3]);
    const tiff = await writeTiff({ width: 8, height: 8, alpha: false, encoding: 'linear', samples });
    const { icc } = await sharp(Buffer.from(tiff)).metadata();
    const lcms = await instantiate();
    const transform = lcms.cmsCreateTransform(
      lcms.cmsOpenProfileFromMem(new Uint8Array(icc!), icc!.length),
      RGB_FLOAT,
      lcms.cmsCreate_sRGBProfile(),
      RGB_FLOAT,
      RELATIVE,
      NO_SHORTCUTS
    );
    near([...lcms.cmsDoTransform(transform, Float32Array.from(ORANGE), 1)], [1, 128 / 255, 0], 3);
  });

  it('comes back from that TIFF as it was, and is encoded where a document says that it is coded', async () => {
    const samples = Float32Array.from({ length: 3 * 64 }, (_, i) => ORANGE[i % 3]);
    const tiff = await writeTiff({ width: 8, height: 8, alpha: false, encoding: 'linear', samples });
    const { frame, notices } = await openFrame(tiff);
    expect(frame.encoding).toBe('linear');
    expect(notices.join()).toContain('proportional to light');
    const first = (encoding: 'coded' | 'linear'): number[] =>
      render(frame, [], [], encoding).map((plane) => plane[0]);
    near(first('linear'), ORANGE);
    near(first('coded'), [1, 128 / 255, 0]);
  });

  it('is made smaller as light', () => {
    const samples = Float32Array.of(0, 0, 0, 1, 1, 1);
    const [v] = resample(samples, 2, 1, 3, 1, 1, { coding: codingOf('srgb', 'linear') });
    expect(v).toBeCloseTo(0.5, 5);
  });

  it('is measured as it is', () => {
    const plan = planOf(
      floatFrame(4, 1, [0.25, 0.25, 0.25, 0.25, 0.25, 0.25, 1, 1, 1, 1, 1, 1]),
      [],
      [],
      'linear'
    );
    const { histograms } = measurePicture(plan, ['lum']);
    expect(histograms[0].counts[64]).toBe(2);
  });
});

describe('proposals on a linear picture', () => {
  const pin = (role: 'neutral' | 'keep', rgb: [number, number, number]): never =>
    ({ id: role, name: role, role, size: 5, rgb }) as never;

  it('make a neutral pin neutral at its Y, in RGB and in LAB', () => {
    for (const within of ['coded', 'linear', 'lab'] as const) {
      const found = proposeMix([pin('neutral', [0.3, 0.2, 0.1])], false, within, 'linear')!;
      const after = found.apply([0.3, 0.2, 0.1]);
      // Y = 0.06378 + 0.14304 + 0.00722.
      near(after, [0.21404, 0.21404, 0.21404], 2);
      expect(found.residuals[0].after).toBeLessThan(0.6);
    }
  });

  it('rank sources by what they are on its light', () => {
    const set = (v: number): Float32Array[] => [0, 1, 2].map((c) => Float32Array.of(v + 0.01 * c, v, v));
    const found = separations(set(0.05), set(0.3), 'linear');
    expect(found[0].auc).toBe(1);
  });
});
