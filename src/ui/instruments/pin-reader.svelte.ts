import type { Pin } from '$core/document';
import type { Pool } from '$engine/pool';
import type { BenchState } from '../bench/bench.svelte';
import { Newest } from '../bench/newest';
import type { Session } from '../bench/session.svelte';

export interface PinValues {
  readonly pin: Pin;
  /** RGB before and after the selected step; null where the pin is beside the picture. */
  readonly before: readonly number[] | null;
  readonly after: readonly number[] | null;
}

/** Reads all pins before and after the selected step; one request at a time, the newest. */
export class PinReader {
  readings = $state.raw<readonly PinValues[]>([]);
  private readonly newest = new Newest('the pins’ readings');

  constructor(private readonly pool: Pool) {}

  point(session: Session, bench: BenchState): void {
    const { pins } = session;
    const { measured } = bench;
    this.newest.ask(async () => {
      const spots = pins.map(({ x, y, size }) => ({ x: x + 0.5, y: y + 0.5, size }));
      const { values } = await this.pool.run('read', { ...measured, spots }, { priority: 2 });
      this.readings = pins.map((pin, i) => ({ pin, before: values[0][i], after: values[1][i] }));
    });
  }
}
