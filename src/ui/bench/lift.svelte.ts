import { getContext, setContext } from 'svelte';
import { z } from 'zod';
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

const liftingSchema = z.object({
  /** What was chosen; while nothing is, dark pictures are lifted. */
  mode: z.enum(['off', 'lifted', 'more']).nullable(),
  /** Each channel by its own sky. */
  alone: z.boolean(),
  /** The numbers that stay though the picture changes, so that pictures can be compared. */
  held: z
    .array(z.object({ level: z.number(), sigma: z.number() }))
    .length(3)
    .nullable()
});
type Lifting = z.infer<typeof liftingSchema>;

/** How linear pictures are lifted for the eye, the same in all views. */
export class ViewLift {
  private lifting = $state.raw<Lifting>({ mode: null, alone: false, held: null });
  private readonly skies = new Follower<null, readonly Sky[] | null>(
    'how dark the picture is',
    (_, { signal }) => this.read(signal),
    { patience: PATIENCE, interrupts: true }
  );

  constructor(private readonly session: Session) {
    const kept = liftingSchema.safeParse(session.looking.lift);
    if (kept.success) this.lifting = kept.data;
  }

  private set(change: Partial<Lifting>): void {
    this.lifting = { ...this.lifting, ...change };
    this.session.look('lift', this.lifting);
  }

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
    if (this.held) return;
    if (this.place === null) this.skies.clear();
    else this.skies.ask(null);
  }

  private async read(signal: AbortSignal): Promise<readonly Sky[] | null> {
    const { place } = this;
    if (place === null) return null;
    const { cursor } = this.session;
    const ask = { ...cursor.source, at: place };
    return (await pool.run('skies', ask, { priority: PRIORITY, signal })).skies;
  }

  /** The sky of each channel of what is seen; null where there is none to speak of, or before it is known. */
  readonly seen = $derived.by<readonly Sky[] | null>(() => this.lifting.held ?? this.skies.value);
  get alone(): boolean {
    return this.lifting.alone;
  }
  get held(): boolean {
    return this.lifting.held !== null;
  }

  readonly mode = $derived.by<LiftBy | 'off'>(() => {
    if (this.lifting.mode) return this.lifting.mode;
    return this.seen && isDark(this.seen) ? 'lifted' : 'off';
  });

  choose(mode: LiftBy | 'off'): void {
    this.set({ mode });
  }

  /** The next of off, lifted and lifted more. */
  next(): void {
    this.choose(this.mode === 'off' ? 'lifted' : this.mode === 'lifted' ? 'more' : 'off');
  }

  /** Lifts each channel by its own sky, or all together again. */
  turnAlone(): void {
    this.set({ alone: !this.alone });
  }

  /** Keeps the numbers for other pictures and steps, or lets them follow again. */
  turnHeld(): void {
    this.set({ held: this.held || !this.seen ? null : [...this.seen] });
  }

  readonly now = $derived.by<Lift | null>(() =>
    this.seen && this.mode !== 'off' ? liftFor(this.seen, this.mode, !this.alone) : null
  );

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
