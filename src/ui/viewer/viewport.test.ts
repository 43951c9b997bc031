import { describe, expect, it, vi } from 'vitest';
import { fitZoom, Viewport } from './viewport.svelte';

vi.mock('../services', () => ({ pool: { run: vi.fn() } }));
const { levelFor } = await import('./tiles');

function viewport(): Viewport {
  const v = new Viewport();
  v.picture = { width: 2400, height: 1600 };
  v.view = { width: 600, height: 500 };
  return v;
}

/** Picture place under a view place (from the middle). */
const under = (
  { zoom, x, y }: { zoom: number; x: number; y: number },
  at: { x: number; y: number }
): number[] => [x + at.x / zoom, y + at.y / zoom];

describe('the viewport', () => {
  it('shows the whole picture to begin with', () => {
    expect(viewport().placement).toEqual({ zoom: 0.25, x: 1200, y: 800 });
    expect(fitZoom({ width: 100, height: 400 }, { width: 300, height: 200 })).toBe(0.5);
  });

  it('keeps the place under the pointer while it zooms', () => {
    const v = viewport();
    const at = { x: 130, y: -70 };
    const before = under(v.placement, at);
    for (const zoom of [0.4, 1, 3.7, 0.9]) {
      v.zoomTo(zoom, at);
      under(v.placement, at).forEach((p, i) => expect(p).toBeCloseTo(before[i], 6));
      expect(v.fit).toBe(false);
    }
  });

  it('moves with the pointer, and never loses the picture', () => {
    const v = viewport();
    v.zoomTo(2);
    v.panBy(100, -40);
    expect(v.placement).toEqual({ zoom: 2, x: 1150, y: 820 });
    v.panBy(1e6, 1e6);
    expect(v.placement).toEqual({ zoom: 2, x: 0, y: 0 });
  });

  it('goes from stop to stop and stays within its ends', () => {
    const v = viewport();
    v.stepZoom(1);
    expect(v.placement.zoom).toBeCloseTo(1 / 3, 6);
    v.zoomTo(1);
    v.stepZoom(1);
    expect(v.placement.zoom).toBe(2);
    v.zoomTo(1e9);
    expect(v.placement.zoom).toBe(32);
    v.zoomTo(0);
    expect(v.placement.zoom).toBe(1 / 64);
  });

  it('gives a twin the same zoom and a small view the same part', () => {
    const v = viewport();
    v.zoomTo(1);
    expect(v.placementFor({ width: 280, height: 500 }, false).zoom).toBe(1);
    expect(v.placementFor({ width: 60, height: 50 }, true).zoom).toBeCloseTo(0.1, 6);
    v.showWhole();
    expect(v.placementFor({ width: 60, height: 50 }, true).zoom).toBeCloseTo(0.025, 6);
  });
});

describe('the pyramid level', () => {
  it('has about one to two of its pixels for each of the screen’s', () => {
    for (const zoom of [0.95, 0.9, 0.51, 0.49, 0.26, 0.13, 0.06, 0.03]) {
      const ratio = 1 / zoom / 2 ** levelFor(zoom, 9);
      expect(ratio).toBeGreaterThan(1 / 1.071);
      expect(ratio).toBeLessThan(1.87);
    }
  });

  it('is the full size from 1:1 on, and never past the smallest', () => {
    expect([1, 7, 0.96, 0.5, 0.503].map((zoom) => levelFor(zoom, 9))).toEqual([0, 0, 0, 1, 1]);
    expect(levelFor(0.001, 4)).toBe(3);
  });
});
