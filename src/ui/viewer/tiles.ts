import { planSize } from '$core/path/plan';
import { TILE, tileRect, tilesIn, type Rect } from '$core/raster/raster';
import { pool } from '../services';
import { WhenAtRest } from '../when-at-rest';
import { setAwaited } from './awaited';
import { keep, known } from './bitmaps';
import { Mosaic, place, type Tile } from './mosaic';
import { contentOf, seenOf, type Shown } from './shown';
import type { Placement, Size } from './viewport.svelte';

/** A level may be enlarged by up to 7 %, which no eye sees, rather than one of four times the pixels be shrunk by half. */
const ENLARGED = Math.log2(1.07);

/** The pyramid level whose pixels are about one to two for each of the screen's; full size from 1:1 on. */
export const levelFor = (zoom: number, levels: number): number =>
  zoom >= 1 ? 0 : Math.max(0, Math.min(levels - 1, Math.floor(Math.log2(1 / zoom) + ENLARGED)));

const areaOf = ({ width, height }: Size): number => width * height;

const rectOf = ({ level, side, column, row }: Tile, shown: Shown): Rect => {
  const { width, height } = planSize(shown, level);
  return tileRect(column, row, width, height, side);
};

const samePlace = (a: Placement, b: Placement): boolean => a.zoom === b.zoom && a.x === b.x && a.y === b.y;
const sameSize = (a: Size, b: Size): boolean => a.width === b.width && a.height === b.height;

/** For so long, in ms, a change waits for the one before it to be computed, so that a hand that never rests sees its way. */
const ROUND = 300;

/** Where the sharp tiles of a view are likely to take longer than this to stand, in ms, its next change is shown from a smaller level first. */
const SLOW = 60;

/** … and those after it too, until they take less than this part of it: shown now so and now so, a change is late each time. */
const QUICK = 3 / 4;

/** So much of that, in ms, is the page's own, which shares its cores with the workers, as long as it is not known. */
const BESIDE = 15;

/** What takes longer than this, in ms, beside the computing waited for something else, a step to be solved or to settle. */
const HELD_UP = 100;

/** That level is likely to stand in so many ms, two frames of the screen … */
const SEEN_WITHIN = 30;

/** … but for what the page alone takes longer for, of which its computing is to take no less than this. */
const COMPUTED_WITHIN = 10;

/** Of so many sharp tiles and views of them, those that came last, it is known what they took. */
const TIMED = 8;

/** What `part` of some times are quicker than; of none, undefined. */
const quicker = (times: readonly number[], part: number): number | undefined =>
  times.toSorted((a, b) => a - b)[Math.floor((times.length - 1) * part)];

function note(times: number[], time: number): void {
  times.push(time);
  if (times.length > TIMED) times.shift();
}

/** Side of the tiles of that level: a view has few, and each worker is to have an equal share of them. */
const ROUGH = 128;

/** How long, in ms, a tile waits for others to be drawn with it. */
const TOGETHER = 50;

/**
 * The tiles of one view: asks for those that are missing, nearest to the middle first, takes back what is no
 * longer wanted, and draws what it has, older tiles under newer ones until those arrive. Of changes that come while
 * one is computed, the newest is computed next. Where that takes long, a change is seen roughly before it is seen sharply.
 */
export class TileView {
  private shown: Shown | null = null;
  private content = '';
  private placement: Placement = { zoom: 1, x: 0, y: 0 };
  private size: Size = { width: 0, height: 0 };
  private level = 0;
  private wanted: Tile[] = [];
  /** Tiles of a smaller level that are shown until those come; none where there is no need. */
  private rough: Tile[] = [];
  private readonly mosaic = new Mosaic();
  private turn = 0;
  /** What the last sharp tiles took of a worker, in ms for each sample: whatever they waited for, and whatever was shown before. */
  private readonly costs: number[] = [];
  /** How much longer than the workers were busy it was until the last sharp tiles stood, in ms. */
  private readonly lags: number[] = [];
  /** Whether a change is shown roughly first. */
  private isRough = false;
  /** From how many ms on it is: fewer where, with fewer expected, a change of this view was seen later than that. */
  private slow = SLOW;
  /** What was expected of the change that is shown sharply at once, in ms; not a number where it was not chosen by that. */
  private chosenBy = Number.NaN;
  /** Since when the sharp tiles are computed, and how long they kept the workers busy, in ms; not a number where some were there or asked for before. */
  private sharpSince = 0;
  private computed = 0;
  private seen = true;
  private sharpAsked = true;
  private asked = new Map<string, AbortController>();
  private since = 0;
  /** When the content that is computed was asked for, and what comes after it. */
  private begun = 0;
  private next: { shown: Shown; content: string; since: number } | null = null;
  private settled = true;
  private closed = false;
  /** For changes that follow closely, and for tiles to be drawn together. */
  private readonly asking: WhenAtRest;
  private readonly drawing = new WhenAtRest(TOGETHER);

  constructor(
    private readonly priority: number,
    private readonly onChange: () => void,
    private readonly onSettled: (milliseconds: number) => void = () => undefined,
    /** Changes that follow each other closer than this, in ms, are asked for once. */
    private readonly delay = 0,
    /** Called when all of a change is first seen, be it roughly; only where it is given a slow change is shown so. */
    private readonly onSeen: ((milliseconds: number) => void) | null = null,
    /** Called where a tile can't be computed. */
    private readonly onFailed: (error: unknown) => void = () => undefined,
    /** Called when it begins and when it ends to be computed. */
    private readonly onBusy: (busy: boolean) => void = () => undefined
  ) {
    this.asking = new WhenAtRest(delay);
  }

  /** Asks anew for what is not there. */
  again(): void {
    if (!this.closed) this.request();
  }

  show(shown: Shown, placement: Placement, size: Size): void {
    const content = contentOf(shown);
    const moved = !samePlace(placement, this.placement) || !sameSize(size, this.size);
    if (content === (this.next?.content ?? this.content) && !moved) {
      if (!this.next) this.shown = shown;
      return;
    }
    const other = shown.head.key !== this.shown?.head.key || !sameSize(shown.geometry, this.shown.geometry);
    if (other) this.mosaic.clear();
    if (other || moved) this.slow = SLOW;
    const since =
      content !== this.content || placement.zoom !== this.placement.zoom ? performance.now() : this.since;
    this.placement = placement;
    this.size = size;
    const atOnce = content === this.content || other || moved || this.isKnown(content);
    if (moved || other) this.onChange();
    if (atOnce || !this.isComputing()) this.begin(shown, content, since);
    else this.next = { shown, content, since };
  }

  /** Whether what is to be seen of a change first is being computed, and was asked for not long ago. */
  private isComputing(): boolean {
    const { rough, asked } = this;
    const coming = rough.length > 0 ? rough.some((tile) => asked.has(this.key(tile))) : asked.size > 0;
    return coming && performance.now() - this.begun < ROUND;
  }

  private isKnown(content: string): boolean {
    return this.wanted.every((tile) => known(`${content}${place(tile)}`) !== undefined);
  }

  private begin(shown: Shown, content: string, since: number): void {
    this.next = null;
    this.begun = performance.now();
    if (content !== this.content) {
      this.turn++;
      this.seen = false;
      if (this.onSeen) setAwaited(this, true);
    }
    this.since = since;
    this.shown = shown;
    this.content = content;
    this.settled = false;
    this.onBusy(true);
    this.asking.stop();
    if (this.delay > 0 && !this.mosaic.isEmpty) this.asking.ask(() => this.request());
    else this.request();
  }

  private goOn(): void {
    if (this.next && !this.isComputing() && !this.closed)
      this.begin(this.next.shown, this.next.content, this.next.since);
  }

  close(): void {
    this.closed = true;
    setAwaited(this, false);
    this.asking.stop();
    this.drawing.stop();
    for (const asked of this.asked.values()) asked.abort();
    this.mosaic.clear();
  }

  private request(): void {
    const { shown, placement } = this;
    if (!shown || !(placement.zoom > 0)) return;
    const { levels } = shown;
    this.level = levelFor(placement.zoom, levels);
    this.wanted = this.tilesAt(shown, this.level);
    this.chooseWay();
    const rough = Math.min(levels - 1, this.level + this.roughBy());
    this.rough = rough > this.level ? this.tilesAt(shown, rough, ROUGH) : [];
    this.sharpAsked = false;
    const keys = new Set([...this.rough, ...this.wanted].map(this.key));
    pool.together(() => {
      for (const [key, controller] of this.asked) {
        if (keys.has(key)) continue;
        controller.abort();
        this.asked.delete(key);
      }
      if (this.rough.length > 0) this.askAll(this.rough);
      else this.askSharp();
    });
    this.checkSettled();
  }

  /** The sharp tiles wait until the rough ones are drawn: the page would have to share its core with their computing. */
  private askSharp(): void {
    if (this.sharpAsked || this.closed) return;
    this.sharpAsked = true;
    this.sharpSince = performance.now();
    this.computed = 0;
    pool.together(() => this.askAll(this.wanted));
  }

  /** Where a rough tile could not be computed, nothing is drawn that the sharp ones would wait for. */
  private makeUpForLost(): void {
    const { rough, asked } = this;
    if (!this.stands(rough) && !rough.some((tile) => asked.has(this.key(tile)))) this.askSharp();
  }

  private askAll(tiles: readonly Tile[]): void {
    const { shown } = this;
    if (!shown) return;
    // Where nothing of it is there yet, the page need not draw the old once more.
    const fresh = tiles.filter((tile) => this.ask(shown, tile));
    if (fresh.length > 0) this.onChange();
  }

  /** Whether what is asked for is a change that somebody waits to see. */
  private get isChange(): boolean {
    return this.onSeen !== null && !this.seen && !this.isKnown(this.content);
  }

  /** How long after the workers the page has sharp tiles on the screen, in ms. */
  private get beside(): number {
    return quicker(this.lags, 1 / 2) ?? BESIDE;
  }

  private chooseWay(): void {
    this.chosenBy = Number.NaN;
    if (!this.isChange) return;
    const expected = this.expected() + this.beside;
    this.isRough = expected >= this.slow * (this.isRough ? QUICK : 1);
    if (!this.isRough && this.costs.length > 0) this.chosenBy = expected;
  }

  /** By how many levels what is seen first is smaller than what is wanted: each has a quarter of the samples. */
  private roughBy(): number {
    if (!this.isChange || !this.isRough) return 0;
    const within = Math.max(SEEN_WITHIN - this.beside, COMPUTED_WITHIN);
    return Math.max(0, Math.ceil(Math.log2(this.expected() / within) / 2));
  }

  /** How long the sharp tiles will keep the workers busy, in ms, by the quicker of those that came last: the others were held up. */
  private expected(): number {
    const { wanted, shown } = this;
    const cost = quicker(this.costs, 1 / 4);
    if (cost === undefined || !shown) return 0;
    const samples = wanted.reduce((sum, tile) => sum + areaOf(rectOf(tile, shown)), 0);
    return (cost * samples) / pool.size;
  }

  /** The tiles in sight of a level, the nearest to the middle first. */
  private tilesAt(shown: Shown, level: number, side = TILE): Tile[] {
    const { placement, size } = this;
    const { width, height } = planSize(shown, level);
    const shrink = 2 ** level;
    const rect = {
      x: (placement.x - size.width / 2 / placement.zoom) / shrink,
      y: (placement.y - size.height / 2 / placement.zoom) / shrink,
      width: size.width / placement.zoom / shrink,
      height: size.height / placement.zoom / shrink
    };
    const middle = { x: placement.x / shrink / side - 0.5, y: placement.y / shrink / side - 0.5 };
    const distance = ({ column, row }: Tile): number => Math.hypot(column - middle.x, row - middle.y);
    return tilesIn(rect, width, height, side)
      .map((tile) => ({ ...tile, level, side }))
      .sort((a, b) => distance(a) - distance(b));
  }

  private key = (tile: Tile): string => `${this.content}${place(tile)}`;

  /** Lays a tile that is known, or asks for it. Says whether there is something new to draw. */
  private ask(shown: Shown, tile: Tile): boolean {
    const key = this.key(tile);
    const { level } = tile;
    const { turn } = this;
    const bitmap = known(key);
    if (bitmap) {
      // The newest again, so that it stays while the rest of its content comes.
      keep(key, bitmap);
      this.computed = Number.NaN;
      return this.mosaic.lay(tile, bitmap, turn);
    }
    if (this.asked.has(key)) {
      this.computed = Number.NaN;
      return false;
    }
    const controller = new AbortController();
    this.asked.set(key, controller);
    const { head, steps, at, hold, pins } = shown;
    const rect = rectOf(tile, shown);
    pool
      .run(
        'tile',
        { head, steps, at, pins, hold, level, rect, ...seenOf(shown) },
        { priority: this.priority, signal: controller.signal, home: tile.column + tile.row }
      )
      .then(({ pixels, took }) => {
        const bitmap = pixels as ImageBitmap;
        if (level === this.level) note(this.costs, took / areaOf(rect));
        if (turn === this.turn && level === this.level) this.computed += took / pool.size;
        if (this.closed) return bitmap.close();
        keep(key, bitmap);
        this.mosaic.lay(tile, bitmap, turn);
        this.asked.delete(key);
        this.arrived();
        this.goOn();
        this.makeUpForLost();
      })
      .catch((error: unknown) => {
        if (controller.signal.aborted) return;
        this.asked.delete(key);
        this.onFailed(error);
        this.goOn();
        this.makeUpForLost();
      });
    return false;
  }

  /** Tiles that arrive are drawn together: when all are there that are waited for, or after a while. */
  private arrived(): void {
    if (this.stands(this.seen || this.rough.length === 0 ? this.wanted : this.rough)) {
      this.drawing.stop();
      this.onChange();
    } else if (!this.drawing.isPending) this.drawing.ask(() => this.onChange());
  }

  /** Draws into a context of the view's size in device pixels. */
  draw(context: CanvasRenderingContext2D): void {
    const { shown, placement, size } = this;
    context.clearRect(0, 0, size.width, size.height);
    if (!shown || this.closed) return;
    const sharp = this.stands(this.wanted);
    const covering = sharp || (this.rough.length > 0 && this.stands(this.rough)) ? this.turn : null;
    const { wanted, level } = this;
    this.mosaic.draw(context, { picture: shown.geometry, placement, size, wanted, level, sharp, covering });
    this.checkSettled();
  }

  private stands(tiles: readonly Tile[]): boolean {
    return tiles.every((tile) => known(this.key(tile)) !== undefined);
  }

  private checkSettled(): void {
    if (this.settled) return;
    const sharp = this.stands(this.wanted);
    const now = performance.now();
    const lag = now - this.sharpSince - this.computed;
    if (!this.seen && (sharp || (this.rough.length > 0 && this.stands(this.rough)))) {
      this.seen = true;
      setAwaited(this, false);
      const took = now - this.since;
      if (took > SLOW && lag < HELD_UP && this.chosenBy < this.slow) this.slow = this.chosenBy;
      this.onSeen?.(took);
    }
    if (this.seen) this.askSharp();
    if (!sharp) return;
    this.settled = true;
    if (lag < HELD_UP) note(this.lags, Math.max(0, lag));
    this.onBusy(false);
    this.onSettled(now - this.since);
  }
}
