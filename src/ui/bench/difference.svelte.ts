import { bothDifferences, differenceFigures, type Differing } from '$core/path/differing';
import { planSize } from '$core/path/plan';
import { pool } from '../services';
import { contentOf, type Difference, type Shown } from '../viewer/shown';
import { Follower } from './follower.svelte';
import { partsOf } from './full-size';

interface Asked {
  readonly shown: Omit<Shown, 'view'>;
  readonly minus: Difference;
}
interface Measured {
  readonly figures: ReturnType<typeof differenceFigures>;
  /** How much of the picture has been looked at, 0…1. */
  readonly part: number;
}

const PATIENCE = 300;
const PRIORITY = 7;
/** Figures that are not those of the whole yet are told this often, in ms. */
const TOLD_EVERY = 250;

/** How much two places differ at full size, measured part by part while nothing more urgent is to be done. */
export class DifferenceMeasure {
  private key = '';
  private readonly follower = new Follower<Asked, Measured>(
    'how much two places differ',
    async ({ shown, minus }, { tell, signal }) => {
      const size = planSize(shown, 0);
      const { head, steps, at, pins } = shown;
      let all: Differing | null = null;
      let [seen, told] = [0, 0];
      const soFar = (): Measured => ({
        figures: all && differenceFigures(all),
        part: seen / (size.width * size.height)
      });
      await Promise.all(
        partsOf(size).map(async (rect) => {
          const ask = { head, steps, at, pins, rect, other: minus.other, by: minus.by };
          const { differing } = await pool.run('differ', ask, { priority: PRIORITY, signal });
          all = all ? bothDifferences(all, differing) : differing;
          seen += rect.width * rect.height;
          if (performance.now() - told <= TOLD_EVERY) return;
          tell(soFar());
          told = performance.now();
        })
      );
      return soFar();
    },
    { patience: PATIENCE, interrupts: true }
  );

  get measured(): Measured | null {
    return this.follower.value;
  }

  /** @param minus how two places are told apart; amplifying counts for nothing here */
  measure(shown: Asked['shown'], minus: Difference): void {
    const key = contentOf({ ...shown, view: 'colour', minus: { ...minus, times: 1 } });
    if (key === this.key) return;
    this.stop();
    this.key = key;
    this.follower.ask({ shown, minus });
  }

  stop(): void {
    this.follower.clear();
    this.key = '';
  }
}
