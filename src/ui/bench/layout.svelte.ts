import { z } from 'zod';

/** How a person has laid out the bench; remembered in this browser. */
const layoutSchema = z.object({
  inFolded: z.boolean(),
  workFolded: z.boolean(),
  surround: z.enum(['dark', 'middle', 'light']),
  instruments: z.array(z.enum(['histogram', 'pins', 'plane'])),
  histogramOf: z.string(),
  histogramLog: z.boolean(),
  histogramSky: z.boolean(),
  pinsIn: z.enum(['rgb', 'lab', 'cmyk', 'hsv', 'lch'])
});
export type Instrument = Layout['instruments'][number];
type Layout = z.infer<typeof layoutSchema>;

const KEY = 'kromba-bench';
const usual: Layout = {
  inFolded: false,
  workFolded: false,
  surround: 'dark',
  instruments: ['histogram', 'pins'],
  histogramOf: 'rgb',
  histogramLog: false,
  histogramSky: false,
  pinsIn: 'rgb'
};

function remembered(): Layout {
  try {
    const kept = JSON.parse(localStorage.getItem(KEY) ?? '') as object;
    const result = layoutSchema.safeParse({ ...usual, ...kept });
    return result.success ? result.data : usual;
  } catch {
    return usual;
  }
}

/** Strictly neutral surrounds of the stage. */
export const surrounds = { dark: '#262626', middle: '#777777', light: '#c8c8c8' } as const;

export class BenchLayout {
  private value = $state<Layout>(remembered());

  get inFolded(): boolean {
    return this.value.inFolded;
  }
  get workFolded(): boolean {
    return this.value.workFolded;
  }
  get surround(): Layout['surround'] {
    return this.value.surround;
  }

  get histogramOf(): string {
    return this.value.histogramOf;
  }
  get histogramLog(): boolean {
    return this.value.histogramLog;
  }
  /** The histogram of a dark picture goes over its sky alone. */
  get histogramSky(): boolean {
    return this.value.histogramSky;
  }
  get pinsIn(): Layout['pinsIn'] {
    return this.value.pinsIn;
  }
  get anyInstrument(): boolean {
    return this.value.instruments.length > 0;
  }

  /** The one that was asked for last. */
  get lastInstrument(): Instrument | undefined {
    return this.value.instruments.at(-1);
  }

  shows(instrument: Instrument): boolean {
    return this.value.instruments.includes(instrument);
  }

  toggleInstrument(instrument: Instrument): void {
    const { instruments } = this.value;
    this.set({
      instruments: instruments.includes(instrument)
        ? instruments.filter((i) => i !== instrument)
        : [...instruments, instrument]
    });
  }

  set(change: Partial<Layout>): void {
    this.value = { ...this.value, ...change };
    localStorage.setItem(KEY, JSON.stringify(this.value));
  }
}
