import { describe, expect, it, vi } from 'vitest';
import { onPicture, onView } from './overlay';

const placement = { zoom: 0.5, x: 1000, y: 600 };
const view = { width: 800, height: 400 };

describe('what is laid over the picture', () => {
  it.each([1, 2])('stands where the picture stands, at %d device pixels a CSS pixel', (ratio) => {
    vi.stubGlobal('window', { devicePixelRatio: ratio });
    // The middle of the view is the place that the viewport looks at.
    expect(onView(placement, view, { x: 1000, y: 600 })).toEqual({ x: 400 / ratio, y: 200 / ratio });
    expect(onView(placement, view, { x: 1100, y: 560 })).toEqual({ x: 450 / ratio, y: 180 / ratio });
    for (const p of [
      { x: 12, y: 900 },
      { x: 1711, y: 3 }
    ]) {
      const back = onPicture(placement, view, onView(placement, view, p));
      expect([back.x, back.y]).toEqual([p.x, p.y].map((v) => expect.closeTo(v, 9)));
    }
    vi.unstubAllGlobals();
  });
});
