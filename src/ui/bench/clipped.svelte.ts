import { planSize } from '$core/path/plan';
import type { Rect } from '$core/raster/raster';
import { pool } from '../services';
import { contentOf, type Shown } from '../viewer/shown';
import { Follower } from './follower.svelte';
import { partsOf } from './full-size';

interface Counts {
  readonly of: readonly { readonly low: number; readonly high: number }[];
  /** All was counted; until then they are what the parts so far let expect. */
  readonly exact: boolean;
}
interface Asked {
  readonly source: Omit<Shown, 'view'>;
  readonly channels: readonly string[];
}

/** After the last change; until then nothing of the pool's time is taken. */
const PATIENCE = 300;
const PRIORITY = 7;
/** Numbers that are not exact yet are told this often. */
const TOLD_EVERY = 250;

/** Counts the clipped samples of a picture at full size, part by part, while nothing more urgent is to be done. */
export class Clipped {
  private key = '';
  private readonly follower = new Follower<Asked, Counts>(
    'what is clipped',
    async ({ source, channels }, { tell, signal }) => {
      const { width, height } = planSize(source, 0);
      const { head, steps, at, pins } = source;
      const sums = channels.map(() => ({ low: 0, high: 0 }));
      let [seen, told] = [0, 0];
      const soFar = (): Counts => {
        const scale = (width * height) / seen;
        const of = sums.map(({ low, high }) => ({
          low: Math.round(low * scale),
          high: Math.round(high * scale)
        }));
        return { of, exact: seen === width * height };
      };
      const count = async (rect: Rect): Promise<void> => {
        const ask = { head, steps, at, pins, rect, channels };
        const { counts } = await pool.run('clipped', ask, { priority: PRIORITY, signal });
        counts.forEach(({ low, high }, c) => {
          sums[c].low += low;
          sums[c].high += high;
        });
        seen += rect.width * rect.height;
        if (performance.now() - told <= TOLD_EVERY) return;
        tell(soFar());
        told = performance.now();
      };
      await Promise.all(partsOf({ width, height }).map(count));
      return soFar();
    },
    { patience: PATIENCE, interrupts: true }
  );

  /** Null until some of it was counted. */
  get counts(): Counts['of'] | null {
    return this.follower.value?.of ?? null;
  }
  get exact(): boolean {
    return this.follower.value?.exact ?? false;
  }

  count(source: Asked['source'], channels: readonly string[]): void {
    const key = JSON.stringify([contentOf({ ...source, view: 'colour' }), channels]);
    if (key === this.key) return;
    this.stop();
    this.key = key;
    this.follower.ask({ source, channels });
  }

  stop(): void {
    this.follower.clear();
    this.key = '';
  }
}
