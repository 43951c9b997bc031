import type { Step } from '$core/document';
import type { Pool } from '$engine/pool';
import type { Spot } from '../viewer/spot';

/** Reads the picture under the pointer before and after the selected step; one request at a time, the newest. */
export class Reader {
  spot = $state.raw<Spot | null>(null);
  /** Coded RGB in and out. */
  values = $state.raw<readonly [number[], number[]] | null>(null);
  private source: { hash: string; steps: readonly Step[]; after: [number, number] } | null = null;
  private busy = false;
  private again = false;

  constructor(private readonly pool: Pool) {}

  point(hash: string, steps: readonly Step[], before: number, after: number): void {
    this.source = { hash, steps, after: [before, after] };
    void this.read();
  }

  move(spot: Spot | null): void {
    // The last spot stays readable while the pointer is elsewhere.
    if (!spot || (spot.x === this.spot?.x && spot.y === this.spot.y)) return;
    this.spot = spot;
    void this.read();
  }

  private async read(): Promise<void> {
    const { spot, source } = this;
    if (!spot || !source) return;
    if (this.busy) {
      this.again = true;
      return;
    }
    this.busy = true;
    try {
      const ask = { frame: source.hash, steps: source.steps, x: spot.x, y: spot.y, after: source.after };
      const [before, after] = await this.pool.run('read', ask, { priority: 0 });
      this.values = [before, after];
    } finally {
      this.busy = false;
    }
    if (this.again) {
      this.again = false;
      await this.read();
    }
  }
}
