import { trouble } from './trouble.svelte';
import { stepKey } from '$core/document';
import { planSize } from '$core/path/plan';
import type { Rect } from '$core/raster/raster';
import type { Pool } from '$engine/pool';
import type { Shown } from '../viewer/tiles';

type Counts = readonly { readonly low: number; readonly high: number }[];

/** After the last change; until then nothing of the pool's time is taken. */
const PATIENCE = 500;
const PRIORITY = 7;
/** Small enough that a tile for the screen never waits long behind one. */
const PART = { width: 512, height: 256 } as const;

/** Counts the clipped samples of a picture at full size, part by part, while nothing more urgent is to be done. */
export class Clipped {
  counts = $state.raw<Counts | null>(null);
  private running: AbortController | null = null;
  private key = '';
  private timer = 0;

  constructor(private readonly pool: Pool) {}

  count(source: Omit<Shown, 'view'>, channels: readonly string[]): void {
    const key = JSON.stringify([source.hash, source.steps.map(stepKey), source.pins, channels]);
    if (key === this.key) return;
    this.stop();
    this.key = key;
    this.counts = null;
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
    const { hash, steps, pins } = source;
    const parts: Rect[] = [];
    for (let y = 0; y < height; y += PART.height)
      for (let x = 0; x < width; x += PART.width)
        parts.push({
          ...{ x, y, width: Math.min(PART.width, width - x) },
          height: Math.min(PART.height, height - y)
        });
    try {
      const answers = await Promise.all(
        parts.map((rect) =>
          this.pool.run(
            'clipped',
            { frame: hash, steps, pins, rect, channels },
            { priority: PRIORITY, signal: running.signal }
          )
        )
      );
      this.counts = channels.map((_, c) => ({
        low: answers.reduce((sum, { counts }) => sum + counts[c].low, 0),
        high: answers.reduce((sum, { counts }) => sum + counts[c].high, 0)
      }));
    } catch (error) {
      if (!running.signal.aborted) trouble.tell('what is clipped', error);
    }
  }
}
