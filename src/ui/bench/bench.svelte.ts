import {
  findStep,
  framesOf,
  insideOf,
  withStep,
  type KrombaDocument,
  type PinRole,
  type Place,
  type Reference,
  type Step
} from '$core/document';
import type { Recipe } from '$core/document/history';
import type { ColourAt } from '$core/measure/main-colours';
import type { SkyBox } from '$core/measure/sky-model';
import type { PinReading } from '$core/ops';
import { lut } from '$core/ops/lut';
import { paramsOf } from '$core/ops/op';
import type { Registration } from '$core/ops/register';
import { toFrame } from '$core/raster/geometry';
import type { NamedFile } from '../add-document';
import { pool } from '../services';
import type { Rings } from './stars-apart';
import { Viewport } from '../viewer/viewport.svelte';
import { addFiles, addFrames, type Added, type Ids } from './add-files';
import { Bracket } from './bracket.svelte';
import { Shelf } from '../looks/shelf.svelte';
import { Compare, type OutPlace } from './compare.svelte';
import { Hand } from './hand.svelte';
import { ViewLift } from './lift.svelte';
import { BenchLayout } from './layout.svelte';
import { MaskBench, stretchedInput } from './mask-bench.svelte';
import { Measurer } from './measurer.svelte';
import { Reader, type Measurable } from './reader.svelte';
import type { Removal } from './removal';
import { addSteps, stepOf, stepsBetween } from './steps';
import { pictureOf, type Session } from './session.svelte';
import type { Shown } from '../viewer/shown';
import { wasCancelled } from '../was-cancelled';

/** The parts of a step under its panel. */
export type Part = 'on' | 'blend' | 'limits' | 'where';

/** So many places stand for a picture where something is to be known of all of it at once. */
const SPREAD = { across: 24, down: 16 };

/** A file under its name, as it came. */
const givenAs = (file: File): NamedFile => ({ name: file.name, file });

/** What the bench shows and how, beside the document itself. */
export class BenchState {
  readonly viewport = new Viewport();
  readonly layout = new BenchLayout();
  readonly reader = new Reader();
  readonly measurer = new Measurer();
  readonly hand = new Hand();
  readonly masks: MaskBench;
  readonly compare: Compare;
  readonly bracket = new Bracket(this);
  readonly shelf = new Shelf();
  readonly lift: ViewLift;
  inTab = $state<'wall' | 'one' | 'before' | 'mask' | 'sources'>('wall');
  /** What the wall shows where a picture begins with several frames. */
  wallOf = $state<'frames' | 'channels'>('frames');
  /** The part of the step that is open. */
  part = $state<Part | null>(null);
  /** The entry of a stack whose grey so far is shown alone. */
  solo = $state<number | null>(null);
  /** What of the selected sky step is looked at instead of its picture. */
  skySeen = $state<'model' | 'spared' | null>(null);
  /** The selected step is seen in Out after so many of its rounds, while they are watched. */
  roundsSeen = $state<number | null>(null);
  /** What In shows in the place of what comes into the step: something that the step found or works on, and what it is called. */
  inSeen = $state.raw<{ readonly step: Step; readonly title: string } | null>(null);
  /** What is about to be removed though others use it. */
  removal = $state.raw<Removal | null>(null);
  outTab = $state<'after' | 'end'>('after');
  /** The channel that In shows large, and Out where it shows greys. */
  channel = $state('rgb.g');
  /** Out shows the channel as a grey photograph instead of the colours. */
  grey = $state(false);
  original = $state(false);
  /** Width over height of a crop being dragged; 0 is free. */
  cropRatio = $state(0);
  /** A step shown in the place of the selected one, until it is taken or dismissed. */
  proposal = $state.raw<Step | null>(null);
  /** Ids of the steps of the path that a table is being made of; null where none is. */
  baking = $state.raw<readonly string[] | null>(null);
  /** Boxes of sky that are shown over the picture. */
  skyBoxes = $state.raw<readonly SkyBox[] | null>(null);
  /** Stars that are shown over the picture. */
  rings = $state.raw<Rings | null>(null);
  pin = $state<string | null>(null);
  /** Where several steps are chosen, the one at the other end from the selected. */
  rangeEnd = $state<string | null>(null);
  /** Groups whose steps stand in the row. */
  private unfolded = $state.raw<ReadonlySet<string>>(new Set());

  constructor(readonly session: Session) {
    this.lift = new ViewLift(session);
    this.masks = new MaskBench(session, this.hand, this.lift);
    const worked = (): OutPlace => ({ picture: session.cursor.picture.id, at: this.workedAt });
    this.compare = new Compare(session, worked, (place) => this.goTo(place));
  }

  /** The path with the proposal in its place. */
  readonly steps = $derived.by<readonly Step[]>(() => {
    const { steps } = this.session.cursor.picture;
    const shown = this.masks.live ?? this.proposal;
    return shown ? withStep(steps, shown) : steps;
  });
  /** The place of the path that Out shows. */
  readonly outPlace = $derived.by<Place>(() => (this.outTab === 'after' ? this.session.cursor.outOf : 'end'));
  private readonly workedAt = $derived.by<OutPlace['at']>(() => {
    const { stepId, step } = this.session.cursor;
    return this.outTab === 'end' ? 'end' : step && stepId !== null ? { after: stepId } : 'head';
  });

  /** Works on another picture, or at another place of its path. Says whether it could be shown. */
  private async goTo({ picture, at }: OutPlace): Promise<boolean> {
    const { session } = this;
    const steps = session.document.pictures.find(({ id }) => id === picture)?.steps ?? [];
    const stepId = at === 'head' ? null : at === 'end' ? (steps.at(-1)?.id ?? null) : at.after;
    if (session.cursor.picture.id === picture) session.select(stepId);
    else await session.showPicture(picture, stepId);
    if (session.cursor.picture.id !== picture) return false;
    this.outTab = at === 'end' ? 'end' : 'after';
    return true;
  }

  /** Encoding before the selected step, and where Out looks. */
  readonly encodings = $derived.by(
    () =>
      [
        this.session.cursor.encoding,
        this.outTab === 'after' ? this.session.cursor.encodingOut : this.session.cursor.shape.encoding
      ] as const
  );
  /** The picture with the proposal, and the places that are measured: before the selected step, and where Out looks. */
  readonly measured = $derived.by<Measurable>(() => ({
    ...pictureOf(this.session.cursor.at('end', this.steps)),
    places: [this.session.cursor.into, this.outPlace]
  }));

  /** What a view of the picture, with the proposal, shows at a place of its path. */
  at(place: Place): Omit<Shown, 'view'> {
    return this.session.cursor.at(place, this.steps);
  }

  /** The steps that are chosen: the selected one, or several that follow each other. */
  readonly chosen = $derived.by<readonly Step[]>(() => {
    const { picture, step } = this.session.cursor;
    return step ? stepsBetween(picture.steps, step.id, this.rangeEnd) : [];
  });

  /** Whether the steps inside a step stand in the row: where they were unfolded, or one of them is selected. */
  readonly isUnfolded = (step: Step): boolean => {
    const { stepId } = this.session.cursor;
    return this.unfolded.has(step.id) || (stepId !== null && findStep(insideOf(step), stepId) !== undefined);
  };

  setUnfolded(group: Step, unfolded: boolean): void {
    const next = new Set(this.unfolded);
    if (unfolded) next.add(group.id);
    else next.delete(group.id);
    this.unfolded = next;
    const { stepId } = this.session.cursor;
    if (!unfolded && stepId !== null && findStep(insideOf(group), stepId)) this.session.select(group.id);
  }

  /** Selects a step, or with `range` all from the selected one to it. */
  choose(step: Step, range = false): void {
    if (range && this.session.cursor.stepId !== null) this.rangeEnd = step.id;
    else this.session.select(step.id);
  }

  /** Means of RGB in the picture that comes into the selected step. @param stretched as terms of masks see it that see it stretched */
  async readInput(
    spots: readonly { x: number; y: number; size: number }[],
    stretched = false
  ): Promise<readonly (readonly number[] | null)[]> {
    const { cursor } = this.session;
    const seen = stretched ? stretchedInput(cursor) : { ...cursor.source, at: cursor.into };
    const ask = { ...seen, spots, places: [seen.at] };
    return (await pool.run('read', ask, { priority: 0 })).values[0];
  }

  /** What the picture's pins of these roles read in what comes into the selected step; those beside it are left out. */
  async readPins(roles: readonly PinRole[]): Promise<PinReading[]> {
    const pins = this.session.cursor.pins.filter((pin) => roles.includes(pin.role));
    const values = await this.readInput(pins.map(({ x, y, size }) => ({ x: x + 0.5, y: y + 0.5, size })));
    return pins.flatMap((pin, i) => {
      const rgb = values[i];
      return rgb ? [{ ...pin, rgb: [rgb[0], rgb[1], rgb[2]] as const }] : [];
    });
  }

  /** RGB of places spread evenly over what comes into the selected step, in pixels of the frame. */
  async readSpread(): Promise<ColourAt[]> {
    const places = this.spread();
    const values = await this.readInput(places);
    return places.flatMap(({ x, y }, i) => {
      const rgb = values[i];
      return rgb ? [{ x, y, rgb }] : [];
    });
  }

  private spread(): { x: number; y: number; size: number }[] {
    const { geometry } = this.session.cursor.at('end');
    return Array.from({ length: SPREAD.across * SPREAD.down }, (_, i) => {
      const x = (((i % SPREAD.across) + 0.5) * geometry.width) / SPREAD.across;
      const y = ((Math.floor(i / SPREAD.across) + 0.5) * geometry.height) / SPREAD.down;
      return { ...toFrame(geometry, { x, y }), size: 1 };
    });
  }

  /** Puts image files into the document as frames of their own. @returns why not, in words for a person, or nothing */
  addFrames(files: readonly File[]): Promise<string> {
    return this.reportAdding(files, () => addFrames(this.session, files.map(givenAs)));
  }

  /** Puts a table into the document and has the step that is selected now take it. @returns why not, or nothing */
  chooseTable(file: File): Promise<string> {
    const { session } = this;
    const { picture, stepId } = session.cursor;
    const lutOf = ({ pictures }: Pick<KrombaDocument, 'pictures'>): Step | undefined => {
      const step = findStep(pictures.find(({ id }) => id === picture.id)?.steps ?? [], stepId!);
      return step?.op === lut.id ? step : undefined;
    };
    const choose = (put: Recipe, { tables: [table] }: Ids): boolean => {
      if (lutOf(session.document))
        return session.change('Choose a table', (draft) => {
          put(draft);
          paramsOf(lut, lutOf(draft as KrombaDocument)!).table = table;
        });
      session.refusal = 'The step that this table was for is not in the document any more';
      return false;
    };
    return this.reportAdding([], () => addFiles(session, { tables: [givenAs(file)] }, choose));
  }

  /** Takes files that were dropped, all or none: tables as steps behind the one that is selected now, pictures as frames. */
  async takeFiles(files: readonly File[]): Promise<void> {
    if (files.length === 0) return;
    const { session } = this;
    const isTable = ({ name }: File): boolean => /\.cube$/i.test(name);
    const tables = files.filter(isTable);
    const frames = files.filter((file) => !isTable(file));
    if (tables.length === 0) {
      session.refusal = await this.addFrames(frames);
      return;
    }
    const behind = { picture: session.cursor.picture.id, step: session.cursor.step?.id ?? null };
    const label = files.length === 1 ? 'Add a table' : `Add ${files.length} files`;
    const given = { tables: tables.map(givenAs), frames: frames.map(givenAs) };
    const make = (first: Recipe, ids: Ids): boolean => {
      const steps = ids.tables.map((table) => stepOf(lut.id, { params: { table } }));
      return addSteps(session, label, steps, { behind, first });
    };
    session.refusal = await this.reportAdding(frames, () => addFiles(session, given, make));
  }

  /** Says that frames came in, or that it was cancelled. @returns why nothing did, in words for a person, or nothing */
  private async reportAdding(frames: readonly File[], add: () => Promise<Added>): Promise<string> {
    try {
      const { pictures, byLight } = await add();
      if (pictures.length === 1)
        this.session.notice = `“${frames[0].name}” is a picture of this document now.`;
      else if (pictures.length > 1)
        this.session.notice = `${pictures.length} pictures were added${byLight ? ', the darkest first' : ''}.`;
      return '';
    } catch (error) {
      const text = `${(error as Error).message} Nothing was added.`;
      if (!wasCancelled(error)) return text;
      this.session.notice = text;
      return '';
    }
  }

  /**
   * How the selected step would bring its frame onto another picture, by the stars of both.
   * @throws Error in words for a person where too few agree, or where the other can't be opened
   */
  async onto(to: Reference, signal: AbortSignal): Promise<Registration> {
    const { cursor, pictures } = this.session;
    const { picture, stepId } = cursor;
    const trial = picture.steps.map((step) =>
      step.id === stepId ? { ...step, enabled: true, params: { to, found: null } } : step
    );
    const { head, steps, pins } = cursor.showing(trial);
    const source = { head, steps, pins };
    const ask = { ...source, step: stepId! };
    return pictures.withOpen(framesOf([source]), signal, async () => {
      const { solved } = await pool.run('solved', ask, { priority: 2, signal });
      return solved as Registration;
    });
  }

  /** What the selected step has solved from the picture; null where it is off or solves nothing. */
  async solved(): Promise<object | null> {
    const { step, source } = this.session.cursor;
    if (!step) return null;
    return (await pool.run('solved', { ...source, step: step.id }, { priority: 2 })).solved;
  }
}
