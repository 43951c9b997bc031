import type { Rect } from '$core/raster/raster';

/** Small enough that a tile for the screen never waits long behind one. */
const PART = { width: 512, height: 256 } as const;

/** In an order in which the first few stand for all: steps of the golden ratio leave no region out for long. */
function scattered<T>(parts: readonly T[]): T[] {
  const golden = (Math.sqrt(5) - 1) / 2;
  return parts
    .map((part, i) => ({ part, at: (i * golden) % 1 }))
    .sort((a, b) => a.at - b.at)
    .map(({ part }) => part);
}

/** A picture of full size in parts that cover it, for work that nobody waits for; the first few stand for all. */
export function partsOf({ width, height }: { readonly width: number; readonly height: number }): Rect[] {
  const parts: Rect[] = [];
  for (let y = 0; y < height; y += PART.height)
    for (let x = 0; x < width; x += PART.width)
      parts.push({
        ...{ x, y, width: Math.min(PART.width, width - x) },
        height: Math.min(PART.height, height - y)
      });
  return scattered(parts);
}
