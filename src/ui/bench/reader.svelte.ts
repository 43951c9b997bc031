import type { PictureSource, Place } from '$core/document';
import { pool } from '../services';
import type { Spot } from '../viewer/spot';
import { Follower } from './follower.svelte';

/** A picture, and the places before and after the selected step. */
export type Measurable = PictureSource & { readonly places: readonly [Place, Place] };

type InAndOut = readonly [readonly number[], readonly number[]];

/** Reads the picture under the pointer before and after the selected step. */
export class Reader {
  spot = $state.raw<Spot | null>(null);
  private source: Measurable | null = null;
  private readonly follower = new Follower<Measurable & { spot: Spot }, InAndOut | null>(
    'the readings under the pointer',
    async ({ spot, ...source }) => {
      const ask = { ...source, spots: [{ ...spot.onFrame, size: 1 }] };
      const [[before], [out]] = (await pool.run('read', ask, { priority: 0 })).values;
      return before && out ? [before, out] : null;
    }
  );

  /** RGB in and out. */
  get values(): InAndOut | null {
    return this.follower.value;
  }

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
    if (spot && source) this.follower.ask({ ...source, spot });
  }
}
