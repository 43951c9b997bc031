import { describe, expect, it } from 'vitest';
import { ops, opOf } from '.';
import { modelOf } from '../colour';
import { refusedKey, said, signed, valueOf } from './fields';

const sentence = (id: string, params: object = {}): string => {
  const op = opOf(id);
  return op.sentence(op.params.parse(params));
};

describe('what a step says of itself', () => {
  it.each([
    ['mono', {}, 'Grey from R 30, G 59, B 11 %'],
    ['mono', { weights: { 'cmyk.k': -1 }, constant: 1 }, 'Grey from K −100, constant 100 %'],
    ['mono', { weights: {} }, 'No channel gives anything: black'],
    ['balance', { gain: { r: 0.9 } }, 'Gains 0.9 1 1'],
    ['balance', { gain: { r: 0.9 }, offset: { b: 0.1 } }, 'Gains 0.9 1 1, offset'],
    ['balance', { method: 'pins' }, 'The neutral pins are neutral'],
    ['levels', {}, 'Black and white as they are'],
    ['levels', { channels: { all: {} } }, 'Black and white set for all'],
    ['levels', { channels: { all: { mid: 1.5 } } }, 'Middle moved for all'],
    ['levels', { channels: { r: { mid: 1.5, black: 0.1 } } }, 'Black and white set on 1 channel'],
    ['levels', { channels: { r: {}, g: {} } }, 'Black and white set on 2 channels'],
    ['levels', { auto: { clip: 0.25 } }, 'Each channel from its darkest 0.25 % to its brightest'],
    ['curves', {}, 'Curves as straight lines'],
    [
      'curves',
      {
        curves: {
          all: [
            [0, 0],
            [1, 1]
          ]
        }
      },
      'One curve for all'
    ],
    [
      'curves',
      {
        curves: {
          g: [
            [0, 0],
            [1, 1]
          ]
        }
      },
      'Curves on 1 channel'
    ],
    ['colour', {}, 'Colours as they are'],
    ['colour', { hue: -12, bands: [{}, {}] }, 'Hue −12°, 2 bands of hue'],
    ['weigh', { weights: { r: 0.5 }, target: 'brightness' }, 'Brighten by red 50, green 0, blue 0 %'],
    ['tint', {}, 'Tint at 70° by 25 %'],
    ['tint', { stops: [{ at: 0, rgb: [0, 0, 0] }] }, 'Tones through 1 colours'],
    ['smooth', {}, 'Smooth within 8 px, keep edges over 10 %'],
    ['smooth', { tolerance: { r: 0.2 } }, 'Smooth within 8 px, each channel by its own'],
    ['sharpen', {}, 'Sharpen by 100 % at 1.5 px'],
    ['local', {}, 'Local contrast 50 % within 40 px'],
    ['detail', {}, 'Raise faint detail by 50 % up to 64 px'],
    ['channel', {}, 'Light from its own luminance'],
    [
      'channel',
      { stack: [{ channel: 'rgb.r' }, { channel: 'cmyk.k', mode: 'soft-light', opacity: 0.4 }] },
      'Light from red, then black (soft light 40 %)'
    ],
    ['merge', {}, 'Another exposure, not chosen yet'],
    ['merge', { from: { picture: 'p' } }, 'The lights of another exposure, without reach'],
    [
      'merge',
      { from: { picture: 'p' }, side: 'dark', reach: { grey: 0.2, b: 0.4 } },
      'The shadows of another exposure, reach grey 20, blue 40'
    ],
    ['straighten', {}, 'Level as it is'],
    ['register', {}, 'Onto another picture, not chosen yet'],
    ['register', { to: { picture: 'p' } }, 'Onto another picture, by the stars of both'],
    [
      'register',
      { to: { picture: 'p' }, found: { x: 3.256, y: -1, turn: 0.5, scale: 1.002 } },
      'Onto another picture: moved 3.26, −1 px, turned 0.5°, scaled 100.2 %'
    ],
    [
      'straighten',
      { angle: -1.25, crop: { x: 0, y: 0, width: 30, height: 20 } },
      'Turn by −1.25°, crop to 30 × 20'
    ]
  ])('%s %j: %s', (id, params, wanted) => expect(sentence(id, params)).toBe(wanted));

  it('is there for every op with nothing set, beside a title and a purpose of one line', () => {
    for (const op of ops) {
      expect(op.sentence(op.params.parse({})).length).toBeGreaterThan(3);
      expect(op.title.length).toBeGreaterThan(2);
      expect(op.purpose).toMatch(/^[A-Z][^\n]{10,90}[^.]$/);
    }
    expect(new Set(ops.map((op) => op.title)).size).toBe(ops.length);
  });
});

describe('numbers in a sentence', () => {
  it('have a true minus and no more decimals than are asked for', () => {
    expect([said(-1.25, 2), said(3), said(0.04), said(-0.001), said(12.345, 0)]).toEqual([
      '−1.25',
      '3',
      '0',
      '0',
      '12'
    ]);
    expect([signed(4), signed(-4), signed(0)]).toEqual(['+4', '−4', '0']);
  });
});

describe('one number or one for each channel', () => {
  it('is read by its letter, with what stands for absent ones', () => {
    expect([valueOf(3, 'r', 9), valueOf({ r: 4 }, 'r', 9), valueOf({ r: 4 }, 'g', 9)]).toEqual([3, 4, 9]);
  });

  it('names a letter that the model does not have', () => {
    const rgb = modelOf('rgb');
    expect(refusedKey('amount', { r: 1, q: 2 }, rgb)).toEqual({
      path: ['amount', 'q'],
      message: '“q” is no channel of RGB; use r, g, b'
    });
    expect(refusedKey('amount', { r: 1 }, rgb)).toBeNull();
    expect(refusedKey('amount', 3, rgb)).toBeNull();
    expect(refusedKey('curves', { all: [] }, rgb, ['all'])).toBeNull();
  });
});
