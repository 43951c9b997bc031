import type { Pin } from '$core/document';
import type { BenchState } from '../bench/bench.svelte';
import { Follower } from '../bench/follower.svelte';
import type { Measurable } from '../bench/reader.svelte';
import type { Session } from '../bench/session.svelte';
import { pool } from '../services';

export interface PinValues {
  readonly pin: Pin;
  /** RGB before and after the selected step; null where the pin is beside the picture. */
  readonly before: readonly number[] | null;
  readonly after: readonly number[] | null;
}

/** What all pins read before and after the selected step. */
export class PinReadings {
  private readonly follower = new Follower<Measurable & { own: readonly Pin[] }, readonly PinValues[]>(
    'the pins’ readings',
    async ({ own, ...measured }) => {
      const spots = own.map(({ x, y, size }) => ({ x: x + 0.5, y: y + 0.5, size }));
      const { values } = await pool.run('read', { ...measured, spots }, { priority: 2 });
      return own.map((pin, i) => ({ pin, before: values[0][i], after: values[1][i] }));
    }
  );

  get readings(): readonly PinValues[] {
    return this.follower.value ?? [];
  }

  point({ cursor: { pins } }: Session, { measured }: BenchState): void {
    this.follower.ask({ ...measured, own: pins });
  }
}
