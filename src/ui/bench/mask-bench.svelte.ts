import simplify from 'simplify-js';
import {
  findStep,
  maskOf,
  maskSchema,
  stepOfHouse,
  type Mask,
  type MaskSource,
  type MaskTerm,
  type KrombaDocument,
  type NamedMask,
  type Place,
  type Step,
  type Stroke,
  type PictureSource
} from '$core/document';
import type { Recipe } from '$core/document/history';
import { measureInParts } from '$engine/measure';
import type { Histogram } from '$core/measure/histogram';
import type { Candidate } from '$core/measure/separation';
import { channel, stackOf } from '$core/ops/channel';
import { paramsOf } from '$core/ops/op';
import type { Lift } from '$core/ops/lifting';
import { automatic, stretch } from '$core/ops/stretch';
import { coverage } from '$core/mask/shape';
import { sourceKind } from '$core/mask/sources';
import { placeOfStroke, takeStroke, withStroke } from '$core/mask/with-stroke';
import type { Jobs } from '$engine/jobs';
import { pool } from '../services';
import type { Cursor } from './cursor.svelte';
import { Follower } from './follower.svelte';
import type { Hand } from './hand.svelte';
import type { ViewLift } from './lift.svelte';
import { pictureOf, type Session } from './session.svelte';

/** Whose mask is worked on: the selected step's, that of an entry of its stack, or a named one. */
export type MaskPlace =
  | { readonly kind: 'step' }
  | { readonly kind: 'entry'; readonly index: number }
  | { readonly kind: 'named'; readonly id: string };

/** The mask of a place that was worked on, to be found again. */
export interface MaskSpot {
  readonly picture: string;
  readonly step: string | null;
  readonly place: MaskPlace;
}

/** What holds the mask of a spot; nothing where that is gone. */
function holderOf(
  { pictures, masks }: Pick<KrombaDocument, 'pictures' | 'masks'>,
  { picture, step: id, place }: MaskSpot
): NamedMask | { where: Mask | null } | undefined {
  if (place.kind === 'named') return masks.find((m) => m.id === place.id);
  const { steps } = pictures.find((p) => p.id === picture) ?? { steps: [] };
  const step = id === null ? undefined : findStep(steps, id);
  return place.kind === 'entry' && step ? stackOf(step)[place.index] : step;
}

export interface Brush {
  size: number;
  hardness: number;
  flow: number;
  erase: boolean;
}

/** A step that shows a mask on the picture that comes to it. */
export const maskStep = (mask: Mask, drained = false, lift: Lift | null = null): Step =>
  stepOfHouse('(mask)', { mask, drained, lift });

/** What comes into the selected step as the automatic stretch shows it, where it is linear. */
export function stretchedInput(cursor: Cursor): PictureSource & { readonly at: Place } {
  const { stepsBefore, encoding } = cursor;
  const steps = encoding === 'linear' ? [stepOfHouse(stretch.id, automatic)] : [];
  return { ...pictureOf(cursor.showing([...stepsBefore, ...steps])), at: 'end' };
}

const noMask = (): Mask => maskSchema.parse({});
const PRIORITY = 3;

/** The mask that is worked on: where it lies, how it is looked at, what it covers, and the brush. */
export class MaskBench {
  place = $state.raw<MaskPlace>({ kind: 'step' });
  termAt = $state(0);
  view = $state<'mask' | 'term' | 'drained'>('mask');
  /** Out shows the mask as well. */
  inOut = $state(false);
  /** The next click on the picture says which colour a term that was just begun is near to. */
  picks = $state(false);
  brush = $state<Brush>({ size: 140, hardness: 0.3, flow: 1, erase: false });
  /** The selected step with the stroke that is being painted. */
  live = $state.raw<Step | null>(null);
  private readonly covering = new Follower('the mask’s coverage', (asked: Asked) => covered(asked));
  private readonly ranking = new Follower('the ranked sources', async (asked: Jobs['rank']['ask']) => {
    const { candidates } = await pool.run('rank', asked, { priority: PRIORITY });
    return candidates;
  });

  constructor(
    private readonly session: Session,
    private readonly hand: Hand,
    private readonly lift: Pick<ViewLift, 'now'>
  ) {}

  /** In %; null while it is not known. */
  get coverage(): number | null {
    return this.covering.value?.coverage ?? null;
  }
  /** Of the selected term's source, before its curve. */
  get histogram(): Histogram | null {
    return this.covering.value?.histogram ?? null;
  }
  get candidates(): readonly Candidate[] {
    return this.ranking.value ?? [];
  }

  /** Nothing is known of another step's mask. */
  forget(): void {
    this.covering.clear();
  }

  readonly mask = $derived.by<Mask | null>(() => {
    const { place, session } = this;
    if (place.kind === 'named') return session.document.masks.find((m) => m.id === place.id)?.mask ?? null;
    const step = session.cursor.step;
    if (!step) return null;
    if (place.kind === 'step') return step.where;
    return stackOf(step)[place.index]?.where ?? null;
  });
  readonly term = $derived<MaskTerm | null>(
    this.mask?.terms[Math.min(this.termAt, this.mask.terms.length - 1)] ?? null
  );
  readonly chosen = $derived(Math.min(this.termAt, (this.mask?.terms.length ?? 1) - 1));

  /** The place that is worked on, for what comes later. */
  get spot(): MaskSpot {
    const { picture, stepId } = this.session.cursor;
    return { picture: picture.id, step: stepId, place: this.place };
  }

  /**
   * The mask with one thing changed; made where there was none. Where nothing can hold it, no mask is changed.
   * @param first what is done to the document before that, in the same change
   * @returns whether it was made
   */
  change(
    label: string,
    recipe: (mask: Mask) => void,
    gesture?: string,
    { spot = this.spot, first }: { readonly spot?: MaskSpot; readonly first?: Recipe } = {}
  ): boolean {
    const owner = spot.place.kind === 'named' ? spot.place.id : `of ${spot.step}`;
    return this.session.change(
      label,
      (draft) => {
        first?.(draft);
        const holder = holderOf(draft as KrombaDocument, spot);
        if (!holder) return;
        if ('mask' in holder) recipe(holder.mask);
        else recipe((holder.where ??= noMask()));
      },
      gesture && `${gesture} ${owner}`
    );
  }

  changeTerm(label: string, recipe: (term: MaskTerm) => void, gesture?: string): void {
    const at = this.chosen;
    this.change(
      label,
      (mask) => mask.terms[at] && recipe(mask.terms[at]),
      gesture && `${gesture} term ${at}`
    );
  }

  /** A term as it is begun: a linear picture is nearly black as it stands, so that it is seen stretched there. */
  termOf(source: MaskSource, more: Partial<MaskTerm> = {}): MaskTerm {
    const stretched = this.session.cursor.encoding === 'linear' && sourceKind(source.kind).sees;
    return maskOf(source, { ...more, ...(stretched && { stretched }) }).terms[0];
  }

  /** Adds a term behind the others and selects it. */
  add(source: MaskSource, more: Partial<MaskTerm> = {}): void {
    const count = this.mask?.terms.length ?? 0;
    const term = this.termOf(source, more);
    this.change('Add a term', (mask) => void mask.terms.push(term));
    this.termAt = count;
  }

  /**
   * Adds a term that was begun for a mask which need not be worked on any more.
   * @param first what is done to the document before that, in the same change
   * @returns whether it was made; the refusal says why not
   */
  addTo(spot: MaskSpot, term: MaskTerm, first: Recipe): boolean {
    const { session } = this;
    const holder = holderOf(session.document, spot);
    if (!holder) {
      session.refusal = 'The step that this mask was for is not in the document any more';
      return false;
    }
    const count = ('mask' in holder ? holder.mask : holder.where)?.terms.length ?? 0;
    const made = this.change('Load a mask', (mask) => void mask.terms.push(term), undefined, { spot, first });
    if (made && holderOf(session.document, spot) === holderOf(session.document, this.spot))
      this.termAt = count;
    return made;
  }

  /** Acts everywhere again. */
  clear(): void {
    const { place, session } = this;
    this.hand.paint(false);
    session.changeStep('Act everywhere', (step) => {
      if (place.kind === 'step') step.where = null;
      else if (place.kind === 'entry') {
        const entry = paramsOf(channel, step).stack[place.index];
        if (entry) entry.where = null;
      }
    });
  }

  /** Steps whose picture is the mask, or what else is looked at. */
  readonly seen = $derived.by<readonly Step[]>(() => {
    const before = this.session.cursor.stepsBefore;
    const mask = this.liveMask ?? this.mask ?? noMask();
    const { term } = this;
    if (this.view === 'term' && term) {
      return [...before, maskStep({ ...noMask(), terms: [{ ...term, combine: 'intersect', amount: 1 }] })];
    }
    return this.view === 'drained'
      ? [...before, maskStep(mask, true, this.lift.now)]
      : [...before, maskStep(mask)];
  });

  private get liveMask(): Mask | null {
    const { live, place } = this;
    if (!live) return null;
    return place.kind === 'entry' ? paramsOf(channel, live).stack[place.index].where : live.where;
  }

  /** The selected step with another mask in the place that is worked on. */
  private stepWith(mask: Mask): Step | null {
    const { step } = this.session.cursor;
    if (!step || this.place.kind === 'named') return null;
    if (this.place.kind === 'step') return { ...step, where: mask };
    const { index } = this.place;
    const { stack } = paramsOf(channel, step);
    return { ...step, params: { stack: stack.map((e, i) => (i === index ? { ...e, where: mask } : e)) } };
  }

  /** Shows a stroke that is still being painted. */
  showStroke(stroke: Stroke): void {
    const mask = this.mask ?? noMask();
    this.live = this.stepWith(withStroke(mask, placeOfStroke(mask, stroke, this.chosen)));
  }

  /** Takes a stroke into the mask, its points thinned to what can be seen. */
  takeStroke(stroke: Stroke): void {
    const thin = { ...stroke, points: thinned(stroke) };
    const place = placeOfStroke(this.mask ?? noMask(), thin, this.chosen);
    this.change(stroke.erase ? 'Erase a stroke' : 'Paint a stroke', (mask) => takeStroke(mask, place));
    this.termAt = place.at;
    this.live = null;
    this.measure();
  }

  /** Measures what the mask covers and what its selected term's source holds. */
  measure(): void {
    const { session, term } = this;
    const before = session.cursor.stepsBefore;
    const seenAs = (what: Mask): PictureSource =>
      pictureOf(session.cursor.showing([...before, maskStep(what)]));
    const plain = term && {
      ...noMask(),
      terms: maskOf(term.source, { curve: STRAIGHT, stretched: term.stretched }).terms
    };
    this.covering.ask({ mask: seenAs(this.mask ?? noMask()), term: plain && seenAs(plain) });
  }

  /** Ranks the sources that may tell the pins to have from those to avoid. */
  rank(): void {
    const { session } = this;
    const { pins } = session.cursor;
    const places = (role: string): { x: number; y: number; size: number }[] =>
      pins.filter((p) => p.role === role).map(({ x, y, size }) => ({ x: x + 0.5, y: y + 0.5, size }));
    const [want, avoid] = [places('want'), places('avoid')];
    if (!want.length || !avoid.length) {
      this.ranking.clear();
      return;
    }
    this.ranking.ask({ ...stretchedInput(session.cursor), want, avoid });
  }
}

/** Pictures of a mask, and of its selected term's source alone. */
interface Asked {
  readonly mask: PictureSource;
  readonly term: PictureSource | null;
}

async function covered({ mask, term }: Asked): Promise<{ coverage: number; histogram: Histogram | null }> {
  const of = async (source: PictureSource): Promise<Histogram> => {
    const ask = { ...source, places: ['end'] as const, channels: ['rgb.r'] };
    const [measured] = await measureInParts(pool, ask, PRIORITY);
    return measured.histograms[0];
  };
  return { coverage: coverage(await of(mask)), histogram: term && (await of(term)) };
}

const STRAIGHT: [number, number][] = [
  [0, 0],
  [1, 1]
];

/** Points closer to the straight way than this part of the brush change nothing that can be seen. */
const UNSEEN = 0.012;

/** A stroke's points without those that can't be seen (Douglas & Peucker 1973), on tenths of pixels. */
export function thinned({ points, size }: Stroke): Stroke['points'] {
  const given = points.map(([x, y, p]) => ({ x, y, p }));
  const kept = simplify(given, Math.max(0.3, size * UNSEEN), true) as typeof given;
  const round = (v: number, to: number): number => Math.round(v * to) / to;
  return kept.map(({ x, y, p }) => [round(x, 10), round(y, 10), round(p, 100)]);
}
