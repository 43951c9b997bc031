import { bothTaken, NOTHING_TAKEN, takenFigures } from '$core/measure/taken-out';
import { planSize } from '$core/path/plan';
import { pool } from '../services';
import { contentOf, type Shown } from '../viewer/shown';
import { PartByPart } from './part-by-part.svelte';

interface Asked {
  readonly before: Omit<Shown, 'view'>;
  readonly after: Omit<Shown, 'view'>;
  readonly channels: readonly string[];
}
interface Figures {
  /** A channel each. */
  readonly of: readonly ReturnType<typeof takenFigures>[];
  readonly part: number;
}

/** What a step took out of channels, and how much of that is no noise, at full size. */
export class TakenOutMeasure {
  private readonly measuring = new PartByPart<Asked, Figures>(
    'what is taken out',
    ({ before, after, channels }) => {
      const { head, steps, at, pins } = after;
      const { head: h, steps: s, at: a, pins: p } = before;
      let sums = channels.map(() => NOTHING_TAKEN);
      return {
        size: planSize(after, 0),
        async add(rect, how) {
          const other = { head: h, steps: s, at: a, pins: p };
          const ask = { head, steps, at, pins, rect, channels, other };
          const { taken } = await pool.run('takenOut', ask, how);
          sums = sums.map((sum, c) => bothTaken(sum, taken[c]));
        },
        soFar: (part) => ({ of: sums.map(takenFigures), part })
      };
    }
  );

  get figures(): Figures | null {
    return this.measuring.value;
  }

  measure(asked: Asked): void {
    const { before, after, channels } = asked;
    const told = [before, after].map((shown) => contentOf({ ...shown, view: 'colour' }));
    this.measuring.ask(asked, JSON.stringify([told, channels]));
  }

  stop(): void {
    this.measuring.stop();
  }
}
