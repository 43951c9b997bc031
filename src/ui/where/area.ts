import type { Spot } from '../viewer/spot';

const ACROSS = 9;

/** Places, with their squares, that read a part of the picture dragged from one spot to another. */
export function areaPlaces(from: Spot, to: Spot): { x: number; y: number; size: number }[] {
  const [a, b] = [from.onFrame, to.onFrame];
  const [width, height] = [Math.abs(b.x - a.x), Math.abs(b.y - a.y)];
  const size = Math.max(1, Math.floor(Math.max(width, height) / ACROSS));
  return Array.from({ length: ACROSS * ACROSS }, (_, i) => ({
    x: Math.min(a.x, b.x) + (((i % ACROSS) + 0.5) * width) / ACROSS,
    y: Math.min(a.y, b.y) + ((Math.floor(i / ACROSS) + 0.5) * height) / ACROSS,
    size
  }));
}

/** The mean of readings; null where none lies in the picture. */
export function meanOfReadings(readings: readonly (readonly number[] | null)[]): number[] | null {
  const found = readings.filter((r) => r !== null);
  if (found.length === 0) return null;
  return [0, 1, 2].map((c) => found.reduce((sum, r) => sum + r[c], 0) / found.length);
}
