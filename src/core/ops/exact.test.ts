import { interpolate } from 'culori';
import { describe, expect, it } from 'vitest';
import { curveSchema } from '../document/curve';
import { noiseFrame, render, stepOf, stepped } from '../testing';
import { pictureGeometry } from '../path/plan';

describe('a step that does nothing', () => {
  const frame = noiseFrame(60, 40, false, 'f32');
  const given = render(frame, []);
  const half = { blend: { opacity: 0.4 } };

  it.each([
    ['colour', {}, {}],
    ['colour', { bands: [{ centre: 40, width: 60, hue: 0, saturation: 0, lightness: 0 }] }, half],
    ['weigh', {}, {}],
    ['weigh', { weights: { r: 0.2, g: 0.2, b: 0.2 }, normalize: true }, {}],
    ['mix', { model: 'lab' }, {}],
    ['mix', { model: 'cmyk' }, half],
    ['mix', { light: 'linear', rows: { r: { r: 1 } } }, {}],
    ['mix', { model: 'lab' }, { on: { model: 'lab', channels: ['l'] } }],
    ['balance', { light: 'linear' }, {}]
  ])('%s %j %j returns its input to the bit', (op, params, more) => {
    render(frame, [stepOf(op, params, more)]).forEach((plane, c) => expect(plane).toEqual(given[c]));
  });
});

describe('tint by stops', () => {
  it('is straight between them to the last bit of a float, close to a stop too', () => {
    const stops = [
      { at: 0.2, rgb: [0, 0.1, 0.9] },
      { at: 0.50003, rgb: [1, 0, 0.1] },
      { at: 0.7, rgb: [0.1, 1, 0.4] }
    ];
    const tones = [0.19, 0.2, 0.3, 0.49995, 0.50003, 0.5001, 0.6, 0.7, 0.9];
    const found = stepped(
      tones.map((t) => [t, t, t]),
      'tint',
      { stops }
    );
    const between = interpolate(
      stops.map(({ at, rgb: [r, g, b] }) => [{ mode: 'rgb', r, g, b }, at] as never),
      'rgb'
    );
    tones.forEach((t, i) => {
      const { r, g, b } = between(Math.min(0.7, Math.max(0.2, t))) as { r: number; g: number; b: number };
      // A tone's luminance comes back within 3e-7 of it, and a colour changes by 3.4 a tone at most.
      [r, g, b].forEach((v, c) => expect(Math.abs(found[i][c] - v)).toBeLessThan(3e-6));
    });
  });
});

describe('a stack of channels', () => {
  it.each(['hue', 'saturation', 'color'])('is left as it is by %s, values outside 0…1 too', (mode) => {
    const colours = [
      [1.4, 1.4, 1.4],
      [-0.2, -0.2, -0.2],
      [0.3, 0.3, 0.3]
    ];
    const found = stepped(colours, 'channel', { stack: [{ channel: 'rgb.g', mode }] });
    colours.forEach((colour, i) => expect(found[i][0]).toBeCloseTo(colour[0], 5));
  });
});

describe('straighten', () => {
  it.each([
    [45, 300, 200],
    [-45, 300, 200],
    [46, 200, 300],
    [-46, 200, 300],
    [134, 200, 300],
    [-134, 200, 300],
    [135, 300, 200],
    [-135, 300, 200],
    [180, 300, 200]
  ])('by %d° stands on a canvas of %d×%d to both sides', (angle, width, height) => {
    const crop = { x: 0, y: 0, width: 1, height: 1 };
    const { toFrame } = pictureGeometry({ width: 300, height: 200 }, [stepOf('straighten', { angle, crop })]);
    // The canvas's upper left, half its size away from the middle, turned back about the frame's middle.
    const turn = (-angle * Math.PI) / 180;
    const x = 150 + (-width / 2) * Math.cos(turn) - (-height / 2) * Math.sin(turn);
    const y = 100 + (-width / 2) * Math.sin(turn) + (-height / 2) * Math.cos(turn);
    expect(toFrame[2]).toBeCloseTo(x, 6);
    expect(toFrame[5]).toBeCloseTo(y, 6);
  });
});

it('takes points of a curve that stand a ten-thousandth apart, as decimals say it', () => {
  for (const x of [0.1, 0.2999, 0.3, 0.7, 0.8999]) {
    const close = [
      [x, 0],
      [Number((x + 0.0001).toFixed(4)), 1]
    ];
    expect(curveSchema.safeParse(close).success, `at ${x}`).toBe(true);
  }
  expect(
    curveSchema.safeParse([
      [0.3, 0],
      [0.30005, 1]
    ]).success
  ).toBe(false);
});
