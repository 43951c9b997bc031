import { describe, expect, it } from 'vitest';
import { stepSchema, type Step } from './step';
import { whatDiffers } from './what-differs';

const step = (id: string, op: string, params: object = {}, more: object = {}): Step =>
  stepSchema.parse({ id, op, params, ...more });

const blur = step('a', 'blur', { radius: 4 });
const mix = step('b', 'mix', { rows: { g: { g: 1, r: -0.3 } } });
const told = (one: readonly Step[], other: readonly Step[]): string[] =>
  whatDiffers(one, other).flatMap(({ title, in: side, values }) =>
    side === 'both'
      ? values.map(({ what, one: a, other: b }) => `${title}: ${what}: ${a} | ${b}`)
      : [`${title}: only in ${side}`]
  );

describe('what two paths differ in', () => {
  it('is nothing where they are the same, whatever their steps’ ids', () => {
    expect(told([blur, mix], [blur, mix])).toEqual([]);
    expect(told([blur], [{ ...blur, id: 'z' }])).toEqual([]);
    expect(told([], [])).toEqual([]);
  });

  it('are the steps that only one has', () => {
    expect(told([blur, mix], [mix])).toEqual(['Blur: only in one']);
    expect(told([mix], [blur, mix])).toEqual(['Blur: only in other']);
    expect(whatDiffers([blur], [])[0].sentence).toMatch(/4 px/);
  });

  it('are their numbers, in the units of the screen', () => {
    expect(told([blur], [step('a', 'blur', { radius: 12.5 })])).toEqual(['Blur: radius: 4 px | 12.5 px']);
    expect(told([mix], [step('b', 'mix', { rows: { g: { g: 1, r: 0.2 } } })])).toEqual([
      'Mix: weight of green, red: −30 % | 20 %'
    ]);
    const on = { model: 'lab', channels: ['l'] };
    const smooth = (tolerance: unknown): Step => step('c', 'smooth', { radius: 8, tolerance }, { on });
    expect(told([smooth({ l: 0.1 })], [smooth({ l: 0.2 })])[0]).toMatch(/tolerance of .*: 10 % \| 20 %/);
    const levels = (black: number): Step => step('d', 'levels', { channels: { r: { black } } });
    expect(told([levels(0)], [levels(0.2)])).toEqual(['Levels: black of red: 0 | 0.2']);
  });

  it('are name, switch, On, blend, limits and mask', () => {
    const where = { terms: [{ source: { kind: 'channel', channel: 'lab.l' } }] };
    const other = step(
      'a',
      'blur',
      { radius: 4 },
      {
        ...{ name: 'soft', enabled: false, on: { model: 'lab', channels: ['a', 'b'] } },
        ...{ blend: { mode: 'multiply', opacity: 0.4, under: [0, 0.1, 1, 1] }, where }
      }
    );
    expect(told([blur], [other])).toEqual([
      'Blur: name: none | soft',
      'Blur: switched: on | off',
      'Blur: on: all of RGB | a, b of LAB',
      'Blur: blend: normal | multiply',
      'Blur: opacity: 100 % | 40 %',
      'Blur: limits of what comes in: 0 · 0 · 100 · 100 % | 0 · 10 · 100 · 100 %',
      'Blur: mask: none | there is one'
    ]);
  });

  it('is the order of their steps', () => {
    const other = step('c', 'invert');
    expect(told([blur, mix, other], [other, blur, mix])).toEqual([
      'Steps: order: Blur, Mix, Invert | Invert, Blur, Mix'
    ]);
  });

  it('goes into groups', () => {
    const group = (radius: number): Step =>
      step('g', 'group', { steps: [{ id: 'i', op: 'blur', params: { radius } }] }, { name: 'Soft' });
    expect(told([group(2)], [group(3)])).toEqual(['Soft › Blur: radius: 2 px | 3 px']);
  });
});
