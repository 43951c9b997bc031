import { getContext, setContext } from 'svelte';
import { stepsTo, type Place } from '$core/document';
import type { SourceHead } from '$core/heads';
import type { Sky } from '$core/measure/sky';
import { opOf } from '$core/ops';
import { isDark, liftFor, type Lift, type LiftBy } from '$core/path/lift';
import { encodingAfter } from '$core/path/shape';
import { pool } from '../services';
import type { Shown } from '../viewer/shown';
import { Follower } from './follower.svelte';
import type { Session } from './session.svelte';

const PRIORITY = 2;
/** While the picture is being changed the lift stays as it is, in ms. */
const PATIENCE = 250;

/** The encoding of a head, by what it is made of. */
function encodingOf(head: SourceHead): 'coded' | 'linear' {
  const [frame] = head.frames;
  if (frame) return frame.encoding;
  const [picture] = head.pictures;
  return picture ? encodingAfter(picture.steps, encodingOf(picture.head)) : 'coded';
}

/** How linear pictures are lifted for the eye, the same in all views. */
export class ViewLift {
  /** What was chosen; while nothing is, dark pictures are lifted. */
  private chosen = $state.raw<LiftBy | 'off' | null>(null);
  /** Each channel by its own sky. */
  alone = $state(false);
  /** The numbers stay though the picture changes, so that pictures can be compared. */
  held = $state(false);
  private readonly skies = new Follower<null, readonly Sky[] | null>(
    'how dark the picture is',
    () => this.read(),
    { patience: PATIENCE }
  );

  constructor(private readonly session: Session) {}

  /** The last place at or before what is worked on at which the picture is linear; null where it is coded from its head on. */
  private readonly place = $derived.by<Place | null>(() => {
    const { cursor } = this.session;
    if (cursor.head.encoding === 'coded') return null;
    const upTo = cursor.stepId === null ? 'head' : cursor.outOf;
    const coding = (stepsTo(cursor.picture.steps, upTo) ?? []).find(
      ({ op, params, enabled }) => enabled && opOf(op).encodingAfter?.(params) === 'coded'
    );
    return coding ? { before: coding.id } : upTo;
  });
  /** Whether there is anything to be lifted. */
  readonly can = $derived(this.place !== null);

  /** Keeps the numbers up to date; to be called within an effect. */
  follow(): void {
    const { cursor } = this.session;
    void [cursor.active, cursor.source, this.place];
    if (this.held && this.skies.value) return;
    if (this.place === null) this.skies.clear();
    else this.skies.ask(null);
  }

  private async read(): Promise<readonly Sky[] | null> {
    const { place } = this;
    if (place === null) return null;
    const { cursor } = this.session;
    return (await pool.run('skies', { ...cursor.source, at: place }, { priority: PRIORITY })).skies;
  }

  readonly mode = $derived.by<LiftBy | 'off'>(() => {
    if (this.chosen) return this.chosen;
    const skies = this.skies.value;
    return skies && isDark(skies) ? 'lifted' : 'off';
  });

  choose(mode: LiftBy | 'off'): void {
    this.chosen = mode;
  }

  /** The next of off, lifted and lifted more. */
  next(): void {
    this.chosen = this.mode === 'off' ? 'lifted' : this.mode === 'lifted' ? 'more' : 'off';
  }

  readonly now = $derived.by<Lift | null>(() => {
    const skies = this.skies.value;
    return skies && this.mode !== 'off' ? liftFor(skies, this.mode, !this.alone) : null;
  });

  /** The lift of what a view shows: none where that is coded. */
  of({ head, steps, at }: Pick<Shown, 'head' | 'steps' | 'at'>): Lift | null {
    if (!this.now) return null;
    return encodingAfter(stepsTo(steps, at) ?? [], encodingOf(head)) === 'linear' ? this.now : null;
  }
}

const KEY = Symbol('lift');
export const provideLift = (lift: ViewLift): ViewLift => setContext(KEY, lift);
/** How pictures are lifted here; undefined where there is no bench around. */
export const liftHere = (): ViewLift | undefined => getContext<ViewLift | undefined>(KEY);
