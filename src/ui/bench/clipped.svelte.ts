import { trouble } from './trouble.svelte';
import { planSize } from '$core/path/plan';
import type { Rect } from '$core/raster/raster';
import type { Pool } from '$engine/pool';
import { contentOf, type Shown } from '../viewer/shown';

type Counts = readonly { readonly low: number; readonly high: number }[];

/** After the last change; until then nothing of the pool's time is taken. */
const PATIENCE = 300;
const PRIORITY = 7;
/** Small enough that a tile for the screen never waits long behind one. */
const PART = { width: 512, height: 256 } as const;

/** Numbers that are not exact yet are told this often. */
const TOLD_EVERY = 250;

/** In an order in which the first few stand for all: steps of the golden ratio leave no region out for long. */
function scattered<T>(parts: readonly T[]): T[] {
  const golden = (Math.sqrt(5) - 1) / 2;
  return parts
    .map((part, i) => ({ part, at: (i * golden) % 1 }))
    .sort((a, b) => a.at - b.at)
    .map(({ part }) => part);
}

/** Counts the clipped samples of a picture at full size, part by part, while nothing more urgent is to be done. */
export class Clipped {
  /** Of the whole picture: exact once all of it was counted, until then what the parts so far let expect. */
  counts = $state.raw<Counts | null>(null);
  exact = $state(false);
  private running: AbortController | null = null;
  private key = '';
  private timer = 0;

  constructor(private readonly pool: Pool) {}

  count(source: Omit<Shown, 'view'>, channels: readonly string[]): void {
    const key = JSON.stringify([contentOf({ ...source, view: 'colour' }), channels]);
    if (key === this.key) return;
    this.stop();
    this.key = key;
    this.counts = null;
    this.exact = false;
    this.timer = window.setTimeout(() => void this.run(source, channels), PATIENCE);
  }

  stop(): void {
    clearTimeout(this.timer);
    this.running?.abort();
    this.key = '';
  }

  private async run(source: Omit<Shown, 'view'>, channels: readonly string[]): Promise<void> {
    const running = new AbortController();
    this.running = running;
    const { width, height } = planSize(source, 0);
    const { head, steps, at, pins } = source;
    const parts: Rect[] = [];
    for (let y = 0; y < height; y += PART.height)
      for (let x = 0; x < width; x += PART.width)
        parts.push({
          ...{ x, y, width: Math.min(PART.width, width - x) },
          height: Math.min(PART.height, height - y)
        });
    const sums = channels.map(() => ({ low: 0, high: 0 }));
    let [seen, told] = [0, 0];
    const tell = (): void => {
      const scale = (width * height) / seen;
      this.counts = sums.map(({ low, high }) => ({
        low: Math.round(low * scale),
        high: Math.round(high * scale)
      }));
      told = performance.now();
    };
    try {
      await Promise.all(
        scattered(parts).map(async (rect) => {
          const ask = { head, steps, at, pins, rect, channels };
          const { counts } = await this.pool.run('clipped', ask, {
            priority: PRIORITY,
            signal: running.signal
          });
          counts.forEach(({ low, high }, c) => {
            sums[c].low += low;
            sums[c].high += high;
          });
          seen += rect.width * rect.height;
          if (performance.now() - told > TOLD_EVERY) tell();
        })
      );
      tell();
      this.exact = true;
    } catch (error) {
      if (!running.signal.aborted) trouble.tell('what is clipped', error);
    }
  }
}
