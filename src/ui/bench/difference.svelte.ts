import { bothDifferences, differenceFigures, type Differing } from '$core/path/differing';
import { planSize } from '$core/path/plan';
import { pool } from '../services';
import { contentOf, type Difference, type Shown } from '../viewer/shown';
import { PartByPart } from './part-by-part.svelte';

interface Asked {
  readonly shown: Omit<Shown, 'view'>;
  readonly minus: Difference;
}
interface Measured {
  readonly figures: ReturnType<typeof differenceFigures>;
  /** How much of the picture has been looked at, 0…1. */
  readonly part: number;
}

/** How much two places differ at full size. */
export class DifferenceMeasure {
  private readonly measuring = new PartByPart<Asked, Measured>(
    'how much two places differ',
    ({ shown, minus: { other, by } }) => {
      const { head, steps, at, pins } = shown;
      let all: Differing | null = null;
      return {
        size: planSize(shown, 0),
        async add(rect, how) {
          const { differing } = await pool.run('differ', { head, steps, at, pins, rect, other, by }, how);
          all = all ? bothDifferences(all, differing) : differing;
        },
        soFar: (part) => ({ figures: all && differenceFigures(all), part })
      };
    }
  );

  get measured(): Measured | null {
    return this.measuring.value;
  }

  /** @param minus how two places are told apart; amplifying counts for nothing here */
  measure(shown: Asked['shown'], minus: Difference): void {
    this.measuring.ask(
      { shown, minus },
      contentOf({ ...shown, view: 'colour', minus: { ...minus, times: 1 } })
    );
  }

  stop(): void {
    this.measuring.stop();
  }
}
