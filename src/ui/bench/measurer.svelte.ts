import type { Histogram } from '$core/measure/histogram';
import { measureInParts } from '$engine/measure';
import type { Pool } from '$engine/pool';
import { Newest } from './newest';
import type { Measurable } from './reader.svelte';

type Pair<T> = readonly [before: T, after: T];

const PRIORITY = 3;

/**
 * Measures the picture before and after the selected step for the instruments and the graphs of the panels: one request
 * at a time, the newest. Who looks at a channel says so for as long as it looks.
 */
export class Measurer {
  /** By channel. Those of an earlier picture stay until the next are there. */
  histograms = $state.raw<ReadonlyMap<string, Pair<Histogram>>>(new Map());
  density = $state.raw<Pair<Uint32Array> | null>(null);
  private readonly wanted = new Map<string, number>();
  private source: Measurable | null = null;
  private readonly newest = new Newest('the histograms');

  constructor(private readonly pool: Pool) {}

  point(source: Measurable): void {
    this.source = source;
    this.measure();
  }

  /** Looks at channels until the function that comes back is called. */
  watch(channels: readonly string[]): () => void {
    for (const id of channels) this.wanted.set(id, (this.wanted.get(id) ?? 0) + 1);
    if (channels.some((id) => !this.histograms.has(id))) this.measure();
    return () => {
      for (const id of channels) {
        const left = (this.wanted.get(id) ?? 1) - 1;
        if (left > 0) this.wanted.set(id, left);
        else this.wanted.delete(id);
      }
    };
  }

  private measure(): void {
    const { source } = this;
    if (!source || this.wanted.size === 0) return;
    this.newest.ask(async () => {
      const channels = [...this.wanted.keys()];
      const [before, out] = await measureInParts(this.pool, { ...source, channels }, PRIORITY);
      this.histograms = new Map(channels.map((id, c) => [id, [before.histograms[c], out.histograms[c]]]));
      this.density = out.density.length > 0 ? [before.density, out.density] : null;
      performance.mark('kromba:measured');
    });
  }
}
