import { describe, expect, it } from 'vitest';
import { randomStream } from '../random';
import { hueTurn } from './hue';

describe('the direction of a and b', () => {
  it('is atan2 in turns, within 1e-6', () => {
    const random = randomStream(41);
    for (let i = 0; i < 20_000; i++) {
      const [a, b] = [200 * random() - 100, 200 * random() - 100];
      const wanted = (Math.atan2(b, a) / (2 * Math.PI) + 1) % 1;
      const off = Math.abs(hueTurn(a, b) - wanted);
      expect(Math.min(off, 1 - off)).toBeLessThan(1e-6);
    }
  });

  it('is exact on the axes and between them, and 0 without colour', () => {
    expect(hueTurn(5, 0)).toBe(0);
    expect(hueTurn(0, 5)).toBeCloseTo(0.25, 9);
    expect(hueTurn(-5, 0)).toBeCloseTo(0.5, 9);
    expect(hueTurn(0, -5)).toBeCloseTo(0.75, 9);
    expect(hueTurn(3, 3)).toBeCloseTo(0.125, 6);
    expect(hueTurn(-3, -3)).toBeCloseTo(0.625, 6);
    expect(hueTurn(0, 0)).toBe(0);
  });

  it('never reaches a whole turn', () => {
    expect(hueTurn(1, -1e-9)).toBeLessThan(1 + 1e-12);
    expect(hueTurn(1, -0.01)).toBeGreaterThan(0.99);
  });
});
