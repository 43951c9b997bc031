import type { Histogram } from '$core/measure/histogram';
import { measureInParts } from '$engine/measure';
import type { Range } from '$core/path/measure';
import { pool } from '../services';
import { Follower } from './follower.svelte';
import type { Measurable } from './reader.svelte';

type Pair<T> = readonly [before: T, after: T];

const PRIORITY = 3;

interface Measured {
  readonly histograms: ReadonlyMap<string, Pair<Histogram>>;
  readonly density: Pair<Uint32Array> | null;
}
const NOTHING: Measured = { histograms: new Map(), density: null };

/**
 * Measures the picture before and after the selected step for the instruments and the graphs of the panels. Who looks at a
 * channel says so for as long as it looks.
 */
export class Measurer {
  private readonly wanted = new Map<string, number>();
  private source: Measurable | null = null;
  private readonly follower = new Follower<Measurable, Measured>('the histograms', async (source) => {
    const channels = [...this.wanted.keys()];
    const range = this.range() ?? undefined;
    const [before, out] = await measureInParts(pool, { ...source, channels, range }, PRIORITY);
    performance.mark('kromba:measured');
    return {
      histograms: new Map(channels.map((id, c) => [id, [before.histograms[c], out.histograms[c]]])),
      density: out.density.length > 0 ? [before.density, out.density] : null
    };
  });

  /** @param range the values that histograms go over, where that is not all of 0…1 */
  constructor(private readonly range: () => Range | null = () => null) {}

  /** By channel. Those of an earlier picture stay until the next are there. */
  get histograms(): Measured['histograms'] {
    return (this.follower.value ?? NOTHING).histograms;
  }
  get density(): Measured['density'] {
    return (this.follower.value ?? NOTHING).density;
  }

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
    if (this.source && this.wanted.size > 0) this.follower.ask(this.source);
  }
}
