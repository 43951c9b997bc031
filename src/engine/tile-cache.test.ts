import { expect, it } from 'vitest';
import type { Raster } from '../core/raster/raster';
import { TileCache } from './tile-cache';

/** 10×10 with three planes: 1200 bytes. */
const raster = (): Raster => ({
  x: 0,
  y: 0,
  width: 10,
  height: 10,
  alpha: null,
  planes: [0, 1, 2].map(() => new Float32Array(100))
});

it('drops what was used least recently when there is no more room', () => {
  const cache = new TileCache(3000);
  const [a, b, c] = [raster(), raster(), raster()];
  cache.set('a', a);
  cache.set('b', b);
  expect(cache.get('a')).toBe(a);
  cache.set('c', c);
  expect([cache.get('a'), cache.get('b'), cache.get('c')]).toEqual([a, undefined, c]);
});

it('keeps the newest even where it is too large alone, and nothing once cleared', () => {
  const cache = new TileCache(100);
  const only = raster();
  cache.set('a', only);
  expect(cache.get('a')).toBe(only);
  cache.set('b', raster());
  expect(cache.get('a')).toBeUndefined();
  cache.clear();
  expect(cache.get('b')).toBeUndefined();
});
