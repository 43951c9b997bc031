import type { Raster } from '../core/raster/raster';

const bytesOf = (raster: Raster): number =>
  raster.width * raster.height * 4 * (raster.planes.length + (raster.alpha ? 1 : 0));

/** Rasters by key, the least recently used dropped when they take more than `most` bytes. */
export class TileCache {
  private readonly held = new Map<string, Raster>();
  private bytes = 0;

  constructor(private readonly most: number) {}

  get(key: string): Raster | undefined {
    const raster = this.held.get(key);
    if (raster) {
      this.held.delete(key);
      this.held.set(key, raster);
    }
    return raster;
  }

  set(key: string, raster: Raster): void {
    this.held.set(key, raster);
    this.bytes += bytesOf(raster);
    for (const [oldest, dropped] of this.held) {
      if (this.bytes <= this.most || oldest === key) break;
      this.held.delete(oldest);
      this.bytes -= bytesOf(dropped);
    }
  }

  clear(): void {
    this.held.clear();
    this.bytes = 0;
  }
}
