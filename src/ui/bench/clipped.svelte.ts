import { stepKey } from '$core/document';
import { planSize } from '$core/path/plan';
import type { Pool } from '$engine/pool';
import type { Shown } from '../viewer/tiles';

type Counts = readonly { readonly low: number; readonly high: number }[];

/** After the last change; until then nothing of the pool's time is taken. */
const PATIENCE = 250;
const PRIORITY = 7;
const BAND = 256;

/** Counts the clipped samples of a picture at full size, band by band, while nothing more urgent is to be done. */
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
    const bands = Array.from({ length: Math.ceil(height / BAND) }, (_, i) => ({
      ...{ x: 0, y: i * BAND, width },
      height: Math.min(BAND, height - i * BAND)
    }));
    try {
      const answers = await Promise.all(
        bands.map((rect) =>
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
      if (!running.signal.aborted) console.error(error);
    }
  }
}
