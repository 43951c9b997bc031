import { planSize } from '$core/path/plan';
import { pool } from '../services';
import { contentOf, type Shown } from '../viewer/shown';
import { PartByPart } from './part-by-part.svelte';

interface Counts {
  readonly of: readonly { readonly low: number; readonly high: number }[];
  /** All was counted; until then they are what the parts so far let expect. */
  readonly exact: boolean;
}
interface Asked {
  readonly source: Omit<Shown, 'view'>;
  readonly channels: readonly string[];
}

/** Counts the clipped samples of a picture at full size. */
export class Clipped {
  private readonly measure = new PartByPart<Asked, Counts>('what is clipped', ({ source, channels }) => {
    const { head, steps, at, pins } = source;
    const sums = channels.map(() => ({ low: 0, high: 0 }));
    return {
      size: planSize(source, 0),
      async add(rect, how) {
        const { counts } = await pool.run('clipped', { head, steps, at, pins, rect, channels }, how);
        counts.forEach(({ low, high }, c) => {
          sums[c].low += low;
          sums[c].high += high;
        });
      },
      soFar: (part) => ({
        of: sums.map(({ low, high }) => ({ low: Math.round(low / part), high: Math.round(high / part) })),
        exact: part === 1
      })
    };
  });

  /** Null until some of it was counted. */
  get counts(): Counts['of'] | null {
    return this.measure.value?.of ?? null;
  }
  get exact(): boolean {
    return this.measure.value?.exact ?? false;
  }

  count(source: Asked['source'], channels: readonly string[]): void {
    this.measure.ask(
      { source, channels },
      JSON.stringify([contentOf({ ...source, view: 'colour' }), channels])
    );
  }

  stop(): void {
    this.measure.stop();
  }
}
