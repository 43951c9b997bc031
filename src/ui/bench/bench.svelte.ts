import type { PinRole, Step } from '$core/document';
import type { ColourAt } from '$core/measure/main-colours';
import type { PinReading } from '$core/ops';
import type { Clipping } from '$core/path/view';
import { toFrame } from '$core/raster/geometry';
import type { Pool } from '$engine/pool';
import type { Spot } from '../viewer/spot';
import { Viewport } from '../viewer/viewport.svelte';
import { BenchLayout } from './layout.svelte';
import { MaskBench } from './mask-bench.svelte';
import { Measurer } from './measurer.svelte';
import { Reader } from './reader.svelte';
import type { Removal } from './removal';
import type { Session } from './session.svelte';

/** A click on the picture that means something to a panel. */
export interface Picking {
  readonly id: string;
  /** What the click will do, as the picture's badge tells it. */
  readonly label: string;
  pick(spot: Spot): void;
  /** A drag over a part of the picture, where that means something too. */
  area?(from: Spot, to: Spot): void;
}

/** The parts of a step under its panel. */
export type Part = 'on' | 'blend' | 'limits' | 'where';

/** How a straighten step is worked on. */
export type StraightenTool = 'level' | 'corners' | 'crop';

/** So many places stand for a picture where something is to be known of all of it at once. */
const SPREAD = { across: 24, down: 16 };

/** What the bench shows and how, beside the document itself. */
export class BenchState {
  readonly viewport = new Viewport();
  readonly layout = new BenchLayout();
  readonly reader: Reader;
  readonly measurer: Measurer;
  readonly masks: MaskBench;
  inTab = $state<'wall' | 'one' | 'before' | 'mask' | 'sources'>('wall');
  /** The part of the step that is open. */
  part = $state<Part | null>(null);
  /** The entry of a stack whose grey so far is shown alone. */
  solo = $state<number | null>(null);
  /** What is about to be removed though others use it. */
  removal = $state.raw<Removal | null>(null);
  outTab = $state<'after' | 'end'>('after');
  /** The channel that In shows large, and Out where it shows greys. */
  channel = $state('rgb.g');
  /** Out shows the channel as a grey photograph instead of the colours. */
  grey = $state(false);
  original = $state(false);
  clipping = $state.raw<Clipping | null>(null);
  picking = $state.raw<Picking | null>(null);
  tool = $state<StraightenTool>('level');
  /** Width over height of a crop being dragged; 0 is free. */
  cropRatio = $state(0);
  /** A step shown in the place of the selected one, until it is taken or dismissed. */
  proposal = $state.raw<Step | null>(null);
  pin = $state<string | null>(null);

  constructor(
    readonly session: Session,
    private readonly pool: Pool
  ) {
    this.reader = new Reader(pool);
    this.measurer = new Measurer(pool);
    this.masks = new MaskBench(session, pool);
  }

  /** The active steps with the proposal in its place. */
  readonly steps = $derived.by<readonly Step[]>(() => {
    const { active } = this.session;
    const shown = this.masks.live ?? this.proposal;
    return shown ? active.map((step) => (step.id === shown.id ? shown : step)) : active;
  });

  /** Begins to pick, or ends it where that is what is going on. */
  togglePicking(picking: Picking): void {
    this.picking = this.picking?.id === picking.id ? null : picking;
  }

  /** Means of coded RGB in the picture that comes into the selected step. */
  async readInput(
    places: readonly { x: number; y: number; size: number }[]
  ): Promise<readonly (readonly number[] | null)[]> {
    const { session } = this;
    const { hash, steps, pins } = session.source(session.active);
    const ask = { frame: hash, steps, pins, places, after: [session.before] };
    return (await this.pool.run('read', ask, { priority: 0 })).values[0];
  }

  /** What the picture's pins of these roles read in what comes into the selected step; those beside it are left out. */
  async readPins(roles: readonly PinRole[]): Promise<PinReading[]> {
    const pins = this.session.pins.filter((pin) => roles.includes(pin.role));
    const values = await this.readInput(pins.map(({ x, y, size }) => ({ x: x + 0.5, y: y + 0.5, size })));
    return pins.flatMap((pin, i) => {
      const rgb = values[i];
      return rgb ? [{ ...pin, rgb: [rgb[0], rgb[1], rgb[2]] as const }] : [];
    });
  }

  /** Coded RGB of places spread evenly over what comes into the selected step, in pixels of the frame. */
  async readSpread(): Promise<ColourAt[]> {
    const places = this.spread();
    const values = await this.readInput(places);
    return places.flatMap(({ x, y }, i) => {
      const rgb = values[i];
      return rgb ? [{ x, y, rgb }] : [];
    });
  }

  private spread(): { x: number; y: number; size: number }[] {
    const { geometry } = this.session.source(this.session.active);
    return Array.from({ length: SPREAD.across * SPREAD.down }, (_, i) => {
      const x = (((i % SPREAD.across) + 0.5) * geometry.width) / SPREAD.across;
      const y = ((Math.floor(i / SPREAD.across) + 0.5) * geometry.height) / SPREAD.down;
      return { ...toFrame(geometry, { x, y }), size: 1 };
    });
  }

  /** Puts image files into the document as frames of their own. @returns why not, in words for a person, or nothing */
  async addFrames(files: readonly File[]): Promise<string> {
    try {
      const given = files.map((file) => ({ name: file.name, file }));
      const pictures = await this.session.addFrames(given);
      const [one] = given;
      this.session.notice =
        pictures.length === 1
          ? `“${one.name}” is a picture of this document now.`
          : `${pictures.length} pictures were added, the darkest first.`;
      return '';
    } catch (error) {
      return `${(error as Error).message} Nothing was added.`;
    }
  }

  /** The same, the reason told over the bench. */
  async takeFiles(files: readonly File[]): Promise<void> {
    if (files.length > 0) this.session.refusal = await this.addFrames(files);
  }

  /** What the selected step has solved from the picture; null where it is off or solves nothing. */
  async solved(): Promise<object | null> {
    const { session } = this;
    if (!session.step?.enabled) return null;
    const { hash, steps, pins } = session.source(session.active);
    const ask = { frame: hash, steps, pins, index: session.before };
    return (await this.pool.run('solved', ask, { priority: 2 })).solved;
  }
}
