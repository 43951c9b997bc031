import { describe, expect, it } from 'vitest';
import { opOf, ops } from '.';
import { controlAt, controlsOf, putAt, valueAt } from './controls';

const all = ops.flatMap((op) => controlsOf(op).map((control) => ({ op: op.id, control })));
const takes = (op: string, key: string, value: number): boolean =>
  opOf(op).params.safeParse({ [key]: value }).success;

describe('the numbers that a panel shows', () => {
  it('are those that the schema says, in the shown unit', () => {
    // As a person sees them: label, unit, slider, what may be typed, and where it begins.
    const told = controlsOf(opOf('detail')).map(
      ({ label, unit, min, max, least, most, usual, worth, each }) => [
        ...[label, unit, min, max, least, most, usual / worth, each]
      ]
    );
    expect(told).toEqual([
      ['amount', '%', 0, 200, 0, 200, 50, true],
      ['radius', 'px', 2, 100, 2, 100, 64, false],
      ['floor', '%', 0.05, 10, 0.05, 50, 1, false]
    ]);
    expect(controlsOf(opOf('sharpen')).map(({ key }) => key)).toEqual(['radius', 'amount', 'threshold']);
    expect(controlsOf(opOf('invert'))).toEqual([]);
    // An op without a panel of its own shows something.
    const shownOnly = ['blur', 'sharpen', 'smooth', 'local', 'detail'];
    expect(shownOnly.every((id) => all.some(({ op }) => op === id))).toBe(true);
  });

  it.each(all)(
    '$op $control.key: what the slider and the field give, the step takes, and no more',
    ({ op, control }) => {
      const { key, min, max, least, most, worth, usual } = control;
      for (const v of [min, max, least, most, (min + max) / 2]) expect(takes(op, key, v * worth)).toBe(true);
      const beyond = (v: number): number => 0.01 * Math.max(1, Math.abs(v));
      expect(takes(op, key, (least - beyond(least)) * worth)).toBe(false);
      expect(takes(op, key, (most + beyond(most)) * worth)).toBe(false);
      expect(usual / worth).toBeGreaterThanOrEqual(min);
      expect(usual / worth).toBeLessThanOrEqual(max);
    }
  );

  it('are found within lists, records and what may be null, in the shown unit', () => {
    const told = (op: string, ...path: (string | number)[]): unknown[] => {
      const { label, unit, min, max, least, most, usual, worth } = controlAt(opOf(op).params, path);
      return [label, unit, min, max, least, most, usual / worth];
    };
    expect(told('balance', 'gain', 'r')).toEqual(['gain', '%', 0, 300, -100_000, 100_000, 100]);
    expect(told('levels', 'auto', 'clip')).toEqual(['clip', '%', 0, 5, 0, 20, 0]);
    expect(told('mono', 'weights', 'lab.l').slice(0, 2)).toEqual(['weight', '%']);
    expect(told('colour', 'bands', 1, 'width')).toEqual(['width', '°', 2, 360, 2, 360, 60]);
    expect(() => controlAt(opOf('mix').params, ['model'])).toThrow(RangeError);
    const params = { bands: [{ width: 3 }, { width: 5 }] };
    putAt(params, ['bands', 1, 'width'], 60);
    expect([valueAt(params, ['bands', 0, 'width']), valueAt(params, ['bands', 1, 'width'])]).toEqual([3, 60]);
  });
});
