import { allSteps, stepsTo, type SourceStep, type Step } from '$core/document';
import { opOf } from '$core/ops';
import type { PictureAt } from '$engine/jobs';
import type { LongWork } from '$engine/preparing';
import { trouble } from './bench/trouble.svelte';
import { pool } from './services';
import type { Shown } from './viewer/shown';

/** As a person is told what can’t be had. */
const WHOLE = 'a result over the whole picture';

/** What the workers do for a step that takes a while, and how often a result over a whole picture has come in. */
class LongWorkState {
  list = $state.raw<readonly LongWork[]>([]);
  round = $state(0);

  constructor() {
    pool.preparing.onWork = (list) => (this.list = list);
    pool.preparing.onWhole = () => {
      this.round++;
      performance.mark('kromba:whole');
      trouble.clear(WHOLE);
    };
    pool.preparing.onFailed = (error) => trouble.tell(WHOLE, error);
  }

  /** Asks once more for what could not be had. */
  again(): void {
    pool.preparing.again();
    this.round++;
  }

  /** The work on a step, or on one inside it. */
  on(step: Step): LongWork | undefined {
    const ids = allSteps([step]).map(({ id }) => id);
    return this.list.find((work) => ids.includes(work.step));
  }
}

export const longWork = new LongWorkState();

const known = new WeakMap<readonly SourceStep[], boolean>();

/** Whether some steps, or pictures that they take from, are shown otherwise once a result is there over the whole picture. */
function settles(steps: readonly SourceStep[]): boolean {
  // There may be very many ways to the same picture.
  let found = known.get(steps);
  if (found === undefined) known.set(steps, (found = steps.some(stepSettles)));
  return found;
}

function stepSettles({ enabled, op, params, beside }: SourceStep): boolean {
  if (!enabled) return false;
  const { settles: own, inside } = opOf(op);
  return (
    own?.(params) ||
    settles(inside?.(params) ?? []) ||
    Object.values(beside?.pictures ?? {}).some((picture) => settles(picture.steps))
  );
}

/** Which of the results over whole pictures a view is to be drawn with: it is drawn anew when one comes in. */
export const roundOf = ({ minus, ...shown }: Shown): number =>
  placeSettles(shown) || (minus && placeSettles(minus.other)) ? longWork.round : 0;

const placeSettles = ({ head, steps, at = 'end' }: PictureAt): boolean =>
  settles(stepsTo(steps, at) ?? []) || head.pictures.some((picture) => settles(picture.steps));
