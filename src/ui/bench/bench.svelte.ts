import type { Step } from '$core/document';
import type { Clipping } from '$core/path/view';
import type { Pool } from '$engine/pool';
import type { Spot } from '../viewer/spot';
import { Viewport } from '../viewer/viewport.svelte';
import { BenchLayout } from './layout.svelte';
import { Measurer } from './measurer.svelte';
import { Reader } from './reader.svelte';
import type { Session } from './session.svelte';

/** A click on the picture that means something to a panel. */
export interface Picking {
  readonly id: string;
  /** What the click will do, as the picture's badge tells it. */
  readonly label: string;
  pick(spot: Spot): void;
}

/** How a straighten step is worked on. */
export type StraightenTool = 'level' | 'corners' | 'crop';

/** What the bench shows and how, beside the document itself. */
export class BenchState {
  readonly viewport = new Viewport();
  readonly layout = new BenchLayout();
  readonly reader: Reader;
  readonly measurer: Measurer;
  inTab = $state<'wall' | 'one' | 'before'>('wall');
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
  }

  /** The active steps with the proposal in its place. */
  readonly steps = $derived.by<readonly Step[]>(() => {
    const { active } = this.session;
    const { proposal } = this;
    return proposal ? active.map((step) => (step.id === proposal.id ? proposal : step)) : active;
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
    const { hash, pins } = session.source(session.active);
    const ask = { frame: hash, steps: session.active, pins, places, after: [session.before] };
    return (await this.pool.run('read', ask, { priority: 0 })).values[0];
  }

  /** What the selected step has solved from the picture; null where it is off or solves nothing. */
  async solved(): Promise<object | null> {
    const { session } = this;
    if (!session.step?.enabled) return null;
    const { hash, pins } = session.source(session.active);
    const ask = { frame: hash, steps: session.active, pins, index: session.before };
    return (await this.pool.run('solved', ask, { priority: 2 })).solved;
  }
}
