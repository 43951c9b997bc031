import { describe, expect, it } from 'vitest';
import { coverageTold, parseDocument, type MaskSource } from '$core/document';
import { areaPlaces, meanOfReadings } from './area';
import { referenceTold, sourceTold } from './terms';

const names = parseDocument({
  ...{ kromba: 1, kind: 'document', name: 'x', frames: [{ id: 'f', name: 'f', file: 'f.png' }] },
  pictures: [
    {
      ...{ id: 'p', name: 'Warm', head: { kind: 'frame', frame: 'f' } },
      steps: [{ id: 's', op: 'invert', params: {}, name: 'over' }]
    }
  ],
  masks: [{ id: 'm', name: 'Glaze', mask: {} }]
});

describe('a source in words', () => {
  it.each<[MaskSource, string]>([
    [{ kind: 'channel', channel: 'cmyk.m' }, 'magenta ink'],
    [{ kind: 'channel', channel: 'lum', of: { picture: 'p' } }, 'luminance of Warm'],
    [{ kind: 'mix', weights: { 'rgb.r': 2, 'rgb.b': -0.5 }, constant: 0 }, '200 % red −50 % blue'],
    [{ kind: 'distance', to: [52.6, -30.2, 4], space: 'lab', range: 20 }, 'near L 53 a −30 b 4'],
    [{ kind: 'toward', hue: 40, across: true }, 'across hue 40°'],
    [{ kind: 'scale', channel: 'lum', layer: 3 }, '8 px of luminance'],
    [{ kind: 'stars', threshold: 6, largest: 30, grow: 2, of: { picture: 'p' } }, 'stars over 6 σ of Warm'],
    [{ kind: 'paint', strokes: [] }, 'paint, 0 strokes'],
    [{ kind: 'ramp', shape: 'round', from: [0, 0], to: [1, 1] }, 'round ramp'],
    [{ kind: 'mask', id: 'm' }, 'mask “Glaze”'],
    [{ kind: 'mask', id: 'z' }, 'mask “missing”']
  ])('%j', (source, told) => expect(sourceTold(source, names)).toBe(told));

  it('names the place of a picture', () => {
    expect(referenceTold({ picture: 'p', after: 'head' }, names)).toBe('Warm as it came');
    expect(referenceTold({ picture: 'p', after: 's' }, names)).toBe('Warm after over');
    expect(referenceTold({ picture: 'z' }, names)).toBe('a missing picture');
  });
});

it('says of a step where it acts', () => {
  const mask = { terms: [], grow: 0, blur: 0, invert: false };
  expect(coverageTold(mask)).toBe('everywhere');
  expect(coverageTold({ ...mask, invert: true })).toBe('nowhere');
});

it('reads a dragged part by squares that cover it', () => {
  const spot = (x: number, y: number): { x: number; y: number; onFrame: { x: number; y: number } } => ({
    x,
    y,
    onFrame: { x, y }
  });
  const places = areaPlaces(spot(90, 20), spot(0, 110));
  expect(places).toHaveLength(81);
  expect(places[0]).toEqual({ x: 5, y: 25, size: 10 });
  expect(places[80]).toEqual({ x: 85, y: 105, size: 10 });
  expect(meanOfReadings([[0, 1, 0], null, [1, 0, 0.5]])).toEqual([0.5, 0.5, 0.25]);
  expect(meanOfReadings([null])).toBeNull();
});
