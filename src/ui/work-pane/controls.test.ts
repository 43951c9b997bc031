import { describe, expect, it } from 'vitest';
import { opOf } from '$core/ops';
import { controls, remarks } from './controls';

const cases = Object.entries(controls).flatMap(([op, list]) => list.map((control) => ({ op, control })));
const takes = (op: string, key: string, value: number): boolean =>
  opOf(op).params.safeParse({ [key]: value }).success;

describe('the numbers of a panel', () => {
  it.each(cases)(
    '$op $control.key: what the slider and the field give, the step takes',
    ({ op, control }) => {
      const { key, min, max, least = min, most = max, worth = 1 } = control;
      for (const v of [min, max, least, most, (min + max) / 2]) {
        expect(takes(op, key, v * worth), `${v} ${control.unit}`).toBe(true);
      }
    }
  );

  it.each(cases)('$op $control.key: what may be typed goes as far as the step does', ({ op, control }) => {
    const { key, min, max, least = min, most = max, worth = 1 } = control;
    expect(takes(op, key, (least - 0.01 * Math.max(1, Math.abs(least))) * worth)).toBe(false);
    expect(takes(op, key, (most + 0.01 * Math.max(1, Math.abs(most))) * worth)).toBe(false);
  });

  it('have a default on their slider', () => {
    for (const { op, control } of cases) {
      const { key, min, max, worth = 1 } = control;
      const usual = (opOf(op).params.parse({}) as Record<string, number>)[key] / worth;
      expect(usual).toBeGreaterThanOrEqual(min);
      expect(usual).toBeLessThanOrEqual(max);
    }
  });

  it('belong to steps that there are, and so do the remarks', () => {
    for (const id of [...Object.keys(controls), ...Object.keys(remarks)]) expect(opOf(id).id).toBe(id);
  });
});
