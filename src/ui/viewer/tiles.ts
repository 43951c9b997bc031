import { stepKey, type Pin, type Step } from '$core/document';
import { planSize } from '$core/path/plan';
import type { View } from '$core/path/view';
import type { Frame } from '$core/raster/frame';
import type { Geometry } from '$core/raster/geometry';
import { TILE, tileRect, tilesIn } from '$core/raster/raster';
import { pool } from '../services';
import type { Placement, Size } from './viewport.svelte';

/** What a view shows: the picture of `frame` after `steps`, of which the first `hold` stay as they are for now. */
export interface Shown {
  readonly hash: string;
  readonly frame: Frame;
  /** Enabled steps only. */
  readonly steps: readonly Step[];
  readonly hold: number;
  /** The document's pins where a step is solved from them, otherwise none. */
  readonly pins: readonly Pin[];
  /** How the picture lies on its frame. */
  readonly geometry: Geometry;
  readonly view: View;
}

const MOST_KEPT = 512;
const kept = new Map<string, ImageBitmap>();

function keep(key: string, bitmap: ImageBitmap): void {
  kept.delete(key);
  kept.set(key, bitmap);
  for (const oldest of kept.keys()) {
    if (kept.size <= MOST_KEPT) break;
    kept.delete(oldest);
  }
}

interface Tile {
  readonly column: number;
  readonly row: number;
}

/** A level may be enlarged by up to 7 %, which no eye sees, rather than one of four times the pixels be shrunk by half. */
const ENLARGED = Math.log2(1.07);

/** The pyramid level whose pixels are about one to two for each of the screen's; full size from 1:1 on. */
export const levelFor = (zoom: number, levels: number): number =>
  zoom >= 1 ? 0 : Math.max(0, Math.min(levels - 1, Math.floor(Math.log2(1 / zoom) + ENLARGED)));

/** What is shown, as a key. */
const contentOf = ({ hash, view, steps, pins }: Shown): string =>
  [hash, JSON.stringify([view, pins]), ...steps.map(stepKey)].join('|');

const sameSize = (a: Geometry, b: Geometry): boolean => a.width === b.width && a.height === b.height;

const place = (level: number, { column, row }: Tile): string => `${level}/${column},${row}`;

/** For so long, in ms, a change waits for the one before it to be computed, so that a hand that never rests sees its way. */
const ROUND = 300;

/**
 * The tiles of one view: asks for those that are missing, nearest to the middle first, takes back what is no
 * longer wanted, and draws what it has, older tiles under newer ones until those arrive. Of changes that come while
 * one is computed, the newest is computed next.
 */
export class TileView {
  private shown: Shown | null = null;
  private content = '';
  private placement: Placement = { zoom: 1, x: 0, y: 0 };
  private size: Size = { width: 0, height: 0 };
  private level = 0;
  private wanted: Tile[] = [];
  /** The newest bitmap at each place, of whatever content. */
  private readonly latest = new Map<string, { bitmap: ImageBitmap; level: number; tile: Tile }>();
  private asked = new Map<string, AbortController>();
  private since = 0;
  /** When the content that is computed was asked for, and what comes after it. */
  private begun = 0;
  private next: { shown: Shown; content: string; since: number } | null = null;
  private settled = true;
  private closed = false;
  private patience = 0;

  constructor(
    private readonly priority: number,
    private readonly onChange: () => void,
    private readonly onSettled: (milliseconds: number) => void = () => undefined,
    /** Changes that follow each other closer than this, in ms, are asked for once. */
    private readonly delay = 0
  ) {}

  show(shown: Shown, placement: Placement, size: Size): void {
    const content = contentOf(shown);
    if (
      content === (this.next?.content ?? this.content) &&
      placement === this.placement &&
      size === this.size
    ) {
      if (!this.next) this.shown = shown;
      return;
    }
    const moved = placement !== this.placement || size !== this.size;
    const other = shown.hash !== this.shown?.hash || !sameSize(shown.geometry, this.shown.geometry);
    if (other) this.latest.clear();
    const since =
      content !== this.content || placement.zoom !== this.placement.zoom ? performance.now() : this.since;
    this.placement = placement;
    this.size = size;
    const atOnce = content === this.content || other || moved || this.isKnown(content);
    if (atOnce || !this.isComputing()) this.begin(shown, content, since);
    else this.next = { shown, content, since };
  }

  /** Whether tiles are being computed that were asked for not long ago. */
  private isComputing(): boolean {
    return this.asked.size > 0 && performance.now() - this.begun < ROUND;
  }

  private isKnown(content: string): boolean {
    return this.wanted.every((tile) => kept.has(`${content}${place(this.level, tile)}`));
  }

  private begin(shown: Shown, content: string, since: number): void {
    this.next = null;
    this.begun = performance.now();
    this.since = since;
    this.shown = shown;
    this.content = content;
    this.settled = false;
    clearTimeout(this.patience);
    if (this.delay > 0 && this.latest.size > 0)
      this.patience = window.setTimeout(() => this.request(), this.delay);
    else this.request();
    this.onChange();
  }

  private goOn(): void {
    if (this.next && this.asked.size === 0 && !this.closed)
      this.begin(this.next.shown, this.next.content, this.next.since);
  }

  close(): void {
    this.closed = true;
    clearTimeout(this.patience);
    for (const asked of this.asked.values()) asked.abort();
  }

  private request(): void {
    const { shown, placement, size } = this;
    if (!shown || !(placement.zoom > 0)) return;
    this.level = levelFor(placement.zoom, shown.frame.levels.length);
    const { width, height } = planSize(shown, this.level);
    const shrink = 2 ** this.level;
    const x = (placement.x - size.width / 2 / placement.zoom) / shrink;
    const y = (placement.y - size.height / 2 / placement.zoom) / shrink;
    const rect = {
      x,
      y,
      width: size.width / placement.zoom / shrink,
      height: size.height / placement.zoom / shrink
    };
    const middle = { x: placement.x / shrink / TILE - 0.5, y: placement.y / shrink / TILE - 0.5 };
    const distance = ({ column, row }: Tile): number => Math.hypot(column - middle.x, row - middle.y);
    this.wanted = tilesIn(rect, width, height).sort((a, b) => distance(a) - distance(b));
    const keys = new Set(this.wanted.map((tile) => this.key(tile)));
    for (const [key, controller] of this.asked) {
      if (keys.has(key)) continue;
      controller.abort();
      this.asked.delete(key);
    }
    for (const tile of this.wanted) this.ask(shown, tile);
    this.checkSettled();
  }

  private key = (tile: Tile): string => `${this.content}${place(this.level, tile)}`;

  private ask(shown: Shown, tile: Tile): void {
    const key = this.key(tile);
    const known = kept.get(key);
    if (known) {
      // The newest again, so that it stays while the rest of its content comes.
      keep(key, known);
      this.latest.set(place(this.level, tile), { bitmap: known, level: this.level, tile });
      return;
    }
    if (this.asked.has(key)) return;
    const controller = new AbortController();
    this.asked.set(key, controller);
    const { level } = this;
    const { hash, steps, hold, view, pins } = shown;
    const { width, height } = planSize(shown, level);
    const rect = tileRect(tile.column, tile.row, width, height);
    pool
      .run(
        'tile',
        { frame: hash, steps, pins, hold, level, rect, view },
        { priority: this.priority, signal: controller.signal, home: tile.column + tile.row }
      )
      .then(({ pixels }) => {
        const bitmap = pixels as ImageBitmap;
        keep(key, bitmap);
        this.latest.set(place(level, tile), { bitmap, level, tile });
        this.asked.delete(key);
        this.onChange();
        this.goOn();
      })
      .catch((error: unknown) => {
        if (controller.signal.aborted) return;
        this.asked.delete(key);
        console.error(error);
        this.goOn();
      });
  }

  /** Draws into a context of the view's size in device pixels. */
  draw(context: CanvasRenderingContext2D): void {
    const { shown, placement, size } = this;
    context.clearRect(0, 0, size.width, size.height);
    if (!shown || this.closed) return;
    const { zoom } = placement;
    context.imageSmoothingEnabled = zoom < 2;
    // Bilinear is enough: a level is never shrunk to less than half.
    context.imageSmoothingQuality = 'low';
    const wantedPlaces = new Set(this.wanted.map((tile) => place(this.level, tile)));
    const layers = [...this.latest.entries()].sort(
      ([, a], [, b]) => Number(a.level === this.level) - Number(b.level === this.level) || b.level - a.level
    );
    for (const [key, { bitmap, level, tile }] of layers) {
      const scale = zoom * 2 ** level;
      // Whole device pixels, so that neighbours meet without a seam.
      const left = Math.round(size.width / 2 - placement.x * zoom + tile.column * TILE * scale);
      const top = Math.round(size.height / 2 - placement.y * zoom + tile.row * TILE * scale);
      const right = Math.round(
        size.width / 2 - placement.x * zoom + (tile.column * TILE + bitmap.width) * scale
      );
      const bottom = Math.round(
        size.height / 2 - placement.y * zoom + (tile.row * TILE + bitmap.height) * scale
      );
      if (right < 0 || bottom < 0 || left > size.width || top > size.height) {
        if (!wantedPlaces.has(key)) this.latest.delete(key);
        continue;
      }
      context.drawImage(bitmap, left, top, right - left, bottom - top);
    }
    this.checkSettled();
  }

  private checkSettled(): void {
    if (this.settled || this.wanted.some((tile) => !kept.has(this.key(tile)))) return;
    this.settled = true;
    for (const [key, { level }] of this.latest) if (level !== this.level) this.latest.delete(key);
    this.onSettled(performance.now() - this.since);
  }
}
