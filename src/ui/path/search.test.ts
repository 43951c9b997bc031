import { describe, expect, it } from 'vitest';
import { ops } from '$core/ops';
import { presets } from '../bench/steps';
import { elsewhere, ranked } from './search';

const offers = [...ops, ...presets];
const titles = (wanted: string): string[] => ranked(offers, wanted).map(({ title }) => title);

describe('the search for a step', () => {
  // What a person may type, and the step that is meant by it.
  it.each([
    ['white balance', 'Balance'],
    ['rotate', 'Straighten'],
    ['crop', 'Straighten'],
    ['brightness', 'Levels'],
    ['contrast', 'Curves'],
    ['swap', 'Mix'],
    ['infrared', 'Mix'],
    ['duotone', 'Two tones'],
    ['split', 'Two tones'],
    ['sepia', 'Tint'],
    ['exposure', 'Merge exposures'],
    ['HDR', 'Merge exposures'],
    ['noise', 'Smooth'],
    ['negative', 'Invert'],
    ['tone', 'Curves'],
    ['monochrome', 'Black and white'],
    ['saturation', 'Colour'],
    ['perspective', 'Straighten'],
    ['equalize', 'Equalise'],
    ['equaliz', 'Equalise'],
    ['gray', 'Black and white'],
    ['color', 'Colour']
  ])('finds %s', (wanted, title) => {
    expect(titles(wanted)).toContain(title);
    // Among the first three, so that it is seen without scrolling.
    expect(titles(wanted).indexOf(title)).toBeLessThan(3);
  });

  it('puts what is called so first, at any letter of the way there', () => {
    expect(titles('bal')[0]).toBe('Balance');
    expect(titles('sm')[0]).toBe('Smooth');
    expect(titles('local con')[0]).toBe('Local contrast');
    expect(titles('')).toHaveLength(offers.length);
  });

  it('says where to find what is no step', () => {
    expect(elsewhere('vignette')).toMatch(/round ramp under Where/);
    expect(elsewhere('dark edges')).toMatch(/round ramp/);
    expect(elsewhere('resize')).toMatch(/Export/);
    expect(elsewhere('clone')).toMatch(/another program/);
    expect(elsewhere('balance')).toBe('');
    expect(titles('watermark')).toEqual([]);
  });
});
