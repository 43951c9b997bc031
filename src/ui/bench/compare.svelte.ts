import { z } from 'zod';
import { findStep, stepsTo, titleOf, type Picture } from '$core/document';
import type { Encoding } from '$core/colour';
import { differentSizes } from '$core/path/differing';
import { encodingAfter } from '$core/path/shape';
import { toFrame } from '$core/raster/geometry';
import type { PictureAt } from '$engine/jobs';
import { pool } from '../services';
import type { Difference, Shown } from '../viewer/shown';
import type { Spot } from '../viewer/spot';
import { Follower } from './follower.svelte';
import type { Session } from './session.svelte';
import { shownAt, type NotShown } from './shown-at';

/** The ways in which places are looked at. */
export const ways = [
  { id: 'together', title: 'Together', says: 'All places beside each other' },
  { id: 'divider', title: 'Divider', says: 'Two places under one line that is dragged' },
  { id: 'flip', title: 'Flip', says: 'One place at a time, at the same spot' },
  { id: 'difference', title: 'Difference', says: 'How far two places are from each other' }
] as const;
export type Way = (typeof ways)[number]['id'];

export const MOST_PLACES = 4;
export const TIMES = [1, 2, 4, 8, 16, 32] as const;
/** Flips a second. */
export const RATES = [0.5, 1, 2, 4] as const;

const placeSchema = z.object({
  picture: z.string(),
  at: z.union([z.enum(['head', 'end']), z.object({ after: z.string() })])
});
/** A picture of the document at its head, its end, or after one of its steps. */
export type OutPlace = z.infer<typeof placeSchema>;

const lookingSchema = z.object({
  /** In the selected one's stead stands what is worked on. */
  places: z.array(placeSchema).min(1).max(MOST_PLACES),
  selected: z.int().min(0),
  /** The place that the selected one is set against where two are looked at. */
  other: z.int().min(0),
  way: z.enum(['together', 'divider', 'flip', 'difference']),
  /** The divider stands upright, at this part of the width (or of the height). */
  upright: z.boolean(),
  split: z.number().min(0).max(1),
  by: z.enum(['samples', 'colours']),
  times: z.number(),
  /** Flips a second where they come by themselves. */
  rate: z.number()
});
type Looking = z.infer<typeof lookingSchema>;

type Seen = Omit<Shown, 'view'>;

/** The places in Out, and how they are looked at. One of them is worked on: it goes with the picture and the step that are selected. */
export class Compare {
  private looking = $state.raw<Looking>({
    ...{ places: [{ picture: '', at: 'end' }], selected: 0, other: 0, way: 'together' },
    ...{ upright: true, split: 0.5, by: 'samples', times: 4, rate: 1 }
  });
  /** The place that is seen where they are flipped through. */
  flipped = $state(0);
  /** They are flipped by a timer. */
  running = $state(false);
  /** The pointer is over a picture, here. */
  pointer = $state.raw<Spot | null>(null);
  /** What two places differ in is told. */
  telling = $state(false);
  /** What a person looked at before something was shown for a while; a reload brings it back. */
  private before = $state.raw<{ readonly looking: Looking; readonly andBack: () => void } | null>(null);
  private readonly readings = new Follower<Spot, readonly (readonly number[] | null)[]>(
    'the readings of the places',
    (spot) => Promise.all(this.places.map((_, i) => (i === this.selected ? null : this.read(i, spot))))
  );

  /**
   * @param worked what is worked on, as a place
   * @param go makes a place the one that is worked on; says whether it could be shown
   */
  constructor(
    private readonly session: Session,
    private readonly worked: () => OutPlace,
    private readonly go: (place: OutPlace) => Promise<boolean>
  ) {
    const kept = lookingSchema.safeParse(session.looking.places);
    if (!kept.success) return;
    const { places, selected, other } = kept.data;
    if (selected >= places.length || other >= places.length) return;
    this.looking = kept.data;
    this.flipped = selected;
    this.see();
  }

  readonly places = $derived.by<readonly OutPlace[]>(() =>
    this.looking.places.map((place, i) => (i === this.looking.selected ? this.worked() : place))
  );
  get selected(): number {
    return this.looking.selected;
  }
  get way(): Way {
    return this.looking.way;
  }
  get upright(): boolean {
    return this.looking.upright;
  }
  get split(): number {
    return this.looking.split;
  }
  get by(): Looking['by'] {
    return this.looking.by;
  }
  get times(): number {
    return this.looking.times;
  }
  get rate(): number {
    return this.looking.rate;
  }
  readonly several = $derived.by(() => this.looking.places.length > 1);
  /** The two places that are looked at where there are two: the first of them left or above. */
  readonly pair = $derived.by<readonly [number, number]>(() => {
    const { places, selected, other } = this.looking;
    const against = other !== selected ? other : (selected + 1) % places.length;
    return [Math.min(selected, against), Math.max(selected, against)];
  });
  /** The one of the two that is not worked on. */
  readonly against = $derived.by(() => this.pair.find((i) => i !== this.selected) ?? this.selected);

  set(change: Partial<Omit<Looking, 'places' | 'selected'>>): void {
    this.looking = { ...this.looking, ...change };
    if (!this.before) this.session.look('places', this.looking);
  }

  /** Something is shown for a while. */
  readonly forAWhile = $derived.by(() => this.before !== null);

  /**
   * Shows for a while how what is worked on differs from another place.
   * @param andBack run when what was looked at before is brought back
   */
  showDifference(other: OutPlace, how: Pick<Looking, 'by' | 'times'>, andBack: () => void): void {
    this.before ??= { looking: this.looking, andBack };
    const places = [this.worked(), other];
    this.looking = { ...this.looking, ...{ places, selected: 0, other: 1, way: 'difference' }, ...how };
    this.see();
  }

  /** Brings back what a person looked at before. */
  bringBack(): void {
    if (!this.before) return;
    const { looking, andBack } = this.before;
    this.before = null;
    this.looking = looking;
    this.flipped = Math.min(this.flipped, looking.places.length - 1);
    this.see();
    andBack();
  }

  private put(places: readonly OutPlace[], selected: number, other: number): void {
    this.before = null;
    this.looking = { ...this.looking, places: [...places], selected, other };
    this.flipped = Math.min(this.flipped, places.length - 1);
    this.see();
    this.session.look('places', this.looking);
  }

  private see(): void {
    this.session.see(this.looking.places.map(({ picture }) => picture));
  }

  /** Has a place of its own for a picture beside what is worked on; for what is worked on itself where none is named. */
  add(place: OutPlace = this.worked()): void {
    const { places, selected } = this;
    if (places.length === MOST_PLACES) {
      this.session.refusal = `Out has ${MOST_PLACES} places at most: close one first`;
      return;
    }
    this.put([...places, place], selected, places.length);
    this.flipped = places.length;
  }

  /** Puts another picture into a place. */
  replace(at: number, place: OutPlace): void {
    if (at === this.selected) void this.go(place);
    else this.put(this.places.with(at, place), this.selected, at);
  }

  async close(at: number): Promise<void> {
    if (!this.several) return;
    if (at === this.selected) await this.select(this.against);
    if (at === this.selected) return;
    const left = (i: number): number => (i > at ? i - 1 : i);
    const places = this.places.filter((_, i) => i !== at);
    const other = this.against === at ? left(this.selected) : left(this.against);
    this.put(places, left(this.selected), other);
  }

  /** What is worked on alone again, or what was looked at before something was shown for a while. */
  closeOthers(): void {
    if (this.before) return this.bringBack();
    this.running = false;
    this.telling = false;
    this.put([this.worked()], 0, 0);
  }

  /** Goes on to work on another place. */
  async select(at: number): Promise<void> {
    const { places, selected } = this;
    if (at === selected || !places[at]) return;
    if (typeof this.shown(at) === 'string') return;
    const before = this.looking;
    const going = this.go(places[at]);
    this.put(places, at, selected);
    if (!(await going)) this.looking = before;
  }

  /** To the next place: seen where they are flipped through, else worked on. */
  next(): void {
    const { length } = this.places;
    if (this.way === 'flip') this.flipped = (this.flipped + 1) % length;
    else void this.select((this.selected + 1) % length);
  }

  nextWay(): void {
    const at = ways.findIndex(({ id }) => id === this.way);
    this.set({ way: ways[(at + 1) % ways.length].id });
  }

  picture(at: number): Picture | undefined {
    return this.session.document.pictures.find(({ id }) => id === this.places[at].picture);
  }

  /** What a place shows. */
  shown(at: number): Seen | NotShown {
    return shownAt(this.session, this.picture(at), this.places[at].at);
  }

  /** Encoding of what a place shows. */
  encoding(at: number): Encoding {
    const picture = this.picture(at);
    const shape = picture && this.session.pictures.shapeOfHead(this.session.resolver.whole(picture).head);
    const way = (picture && stepsTo(picture.steps, this.places[at].at)) ?? [];
    return encodingAfter(way, shape?.encoding ?? 'coded');
  }

  /** How the place that is worked on differs from the other of the two; null where that can't be seen. */
  readonly minus = $derived.by<Difference | null>(() => {
    const shown = this.several && this.way === 'difference' ? this.shown(this.against) : 'gone';
    if (typeof shown === 'string') return null;
    const own = this.session.cursor.at(this.worked().at).geometry;
    if (differentSizes(own, shown.geometry)) return null;
    return { by: this.by, times: this.times, other: this.otherOf(shown) };
  });
  private lastOther: PictureAt | null = null;

  /** The very same object while it stays the same. */
  private otherOf({ head, steps, at, pins }: Seen): PictureAt {
    const other = { head, steps, at, pins };
    const last = this.lastOther;
    const same =
      last?.head === head &&
      last.steps === steps &&
      JSON.stringify([last.at, last.pins]) === JSON.stringify([at, pins]);
    return same ? last : (this.lastOther = other);
  }

  /** What a place is called: its picture, and the step that it is seen after. */
  title(at: number): string {
    const picture = this.picture(at);
    const { at: place } = this.places[at];
    if (!picture) return 'Removed picture';
    const last = picture.steps.at(-1);
    if (place === 'end' || (place !== 'head' && place.after === last?.id)) return picture.name;
    const step = place === 'head' ? null : findStep(picture.steps, place.after);
    const after = place === 'head' ? 'Source' : step ? `after ${titleOf(step)}` : 'a step that was removed';
    return `${picture.name} · ${after}`;
  }

  private async read(at: number, { x, y }: Spot): Promise<readonly number[] | null> {
    const shown = this.shown(at);
    if (typeof shown === 'string') return null;
    const { head, steps, pins, geometry, at: place } = shown;
    if (x >= geometry.width || y >= geometry.height) return null;
    const spots = [{ ...toFrame(geometry, { x: x + 0.5, y: y + 0.5 }), size: 1 }];
    const ask = { head, steps, pins, spots, places: [place] };
    return (await pool.run('read', ask, { priority: 0 })).values[0][0];
  }

  /** Reads all places but the one that is worked on. */
  point(spot: Spot | null): void {
    if (spot && this.several) this.readings.ask(spot);
  }

  /** RGB of a place under the pointer; null where there is none. */
  reading(at: number): readonly number[] | null {
    return this.readings.value?.[at] ?? null;
  }
}
