import type { PictureSource, Place } from '$core/document';
import type { Pool } from '$engine/pool';
import { Newest } from './newest';
import type { Spot } from '../viewer/spot';

/** A picture, and the places before and after the selected step. */
export type Measurable = PictureSource & { readonly places: readonly [Place, Place] };

/** Reads the picture under the pointer before and after the selected step; one request at a time, the newest. */
export class Reader {
  spot = $state.raw<Spot | null>(null);
  /** RGB in and out. */
  values = $state.raw<readonly [readonly number[], readonly number[]] | null>(null);
  private source: Measurable | null = null;
  private readonly newest = new Newest('the readings under the pointer');

  constructor(private readonly pool: Pool) {}

  point(source: Measurable): void {
    this.source = source;
    this.read();
  }

  move(spot: Spot | null): void {
    // The last spot stays readable while the pointer is elsewhere.
    if (!spot || (spot.x === this.spot?.x && spot.y === this.spot?.y)) return;
    this.spot = spot;
    this.read();
  }

  private read(): void {
    const { spot, source } = this;
    if (!spot || !source) return;
    this.newest.ask(async () => {
      const ask = { ...source, spots: [{ ...spot.onFrame, size: 1 }] };
      const { values } = await this.pool.run('read', ask, { priority: 0 });
      const [[before], [out]] = values;
      this.values = before && out ? [before, out] : null;
    });
  }
}
