import type { Clipping } from '$core/path/view';
import type { Spot } from '../viewer/spot';

/** A click on the picture that means something to a panel. */
export interface Picking {
  readonly id: string;
  /** What the click will do, as the picture's badge tells it. */
  readonly label: string;
  pick(spot: Spot): void;
  /** A drag over a part of the picture, where that means something too. */
  area?(from: Spot, to: Spot): void;
}

/** How a straighten step is worked on. */
export type StraightenTool = 'level' | 'corners' | 'crop';

type Tool =
  | { readonly kind: 'pick'; readonly picking: Picking }
  | { readonly kind: 'paint' }
  /** Clipped samples are looked at, for as long as something is held; then what was in hand before is again. */
  | { readonly kind: 'look'; readonly clipping: Clipping; readonly then: Tool | null };

/** What the pointer does on the picture: one thing at a time. Where nothing is in hand it moves the picture. */
export class Hand {
  private tool = $state.raw<Tool | null>(null);
  /** What a straighten step that is selected is worked on by, where nothing else is in hand. */
  straighten = $state<StraightenTool>('level');

  get picking(): Picking | null {
    return this.tool?.kind === 'pick' ? this.tool.picking : null;
  }
  get painting(): boolean {
    const tool = this.tool?.kind === 'look' ? this.tool.then : this.tool;
    return tool?.kind === 'paint';
  }
  get clipping(): Clipping | null {
    return this.tool?.kind === 'look' ? this.tool.clipping : null;
  }

  /** Takes up a pick, or lays it down where it is in hand. */
  pick(picking: Picking): void {
    this.tool = this.picking?.id === picking.id ? null : { kind: 'pick', picking };
  }

  paint(on: boolean): void {
    if (on) this.tool = { kind: 'paint' };
    else if (this.painting) this.tool = null;
  }

  look(clipping: Clipping | null): void {
    const then = this.tool?.kind === 'look' ? this.tool.then : this.tool;
    this.tool = clipping ? { kind: 'look', clipping, then } : then;
  }

  straightenBy(tool: StraightenTool): void {
    this.straighten = tool;
    this.drop();
  }

  /** Lays down what is in hand. @param picks only a pick whose name begins so */
  drop(picks?: string): void {
    if (picks === undefined || this.picking?.id.startsWith(picks)) this.tool = null;
  }
}
