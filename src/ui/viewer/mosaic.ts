import { hold, letGo } from './bitmaps';
import type { Placement, Size } from './viewport.svelte';

/** Where a tile lies: which of those of `side` samples of a pyramid level. */
export interface Tile {
  readonly level: number;
  readonly side: number;
  readonly column: number;
  readonly row: number;
}

export const place = ({ level, side, column, row }: Tile): string => `${level}/${side}/${column},${row}`;

/** Coarser tiles than those wanted that are remembered. */
const MOST_COARSE = 64;

interface Laid extends Tile {
  readonly bitmap: ImageBitmap;
  /** Which of the contents it is of, counted. */
  readonly turn: number;
}

/** What is to be seen of a mosaic, and where. */
export interface Scene {
  /** How large the picture is, in full-size pixels. */
  readonly picture: Size;
  readonly placement: Placement;
  /** The view's size in device pixels. */
  readonly size: Size;
  /** The tiles that the view wants, all of `level`. */
  readonly wanted: readonly Tile[];
  readonly level: number;
  /** Whether all those are there. */
  readonly sharp: boolean;
  /** The content of which tiles cover the whole view, where there is one: nothing older is seen. */
  readonly covering: number | null;
}

/** The newest bitmap at each place of a view, of whatever content: newer ones lie over older ones. */
export class Mosaic {
  private readonly laid = new Map<string, Laid>();

  get isEmpty(): boolean {
    return this.laid.size === 0;
  }

  /** Says whether anything is new by it. */
  lay(tile: Tile, bitmap: ImageBitmap, turn: number): boolean {
    const key = place(tile);
    const before = this.laid.get(key);
    if (before?.bitmap !== bitmap) {
      hold(bitmap);
      this.remove(key);
    }
    this.laid.set(key, { ...tile, bitmap, turn });
    return before?.bitmap !== bitmap || before.turn !== turn;
  }

  clear(): void {
    for (const key of [...this.laid.keys()]) this.remove(key);
  }

  private remove(key: string): void {
    const laid = this.laid.get(key);
    if (!laid) return;
    this.laid.delete(key);
    letGo(laid.bitmap);
  }

  /** Draws into a cleared context of the view's size; what will not be needed again is removed. */
  draw(context: CanvasRenderingContext2D, scene: Scene): void {
    const { picture, placement, size, wanted, level: sharpLevel, sharp, covering } = scene;
    const { zoom } = placement;
    context.imageSmoothingEnabled = zoom < 2;
    // Bilinear is enough: a level is never shrunk to less than half.
    context.imageSmoothingQuality = 'low';
    const wantedPlaces = new Set(wanted.map(place));
    const layers = [...this.laid.entries()].sort(
      ([, a], [, b]) =>
        a.turn - b.turn ||
        Number(a.level === sharpLevel) - Number(b.level === sharpLevel) ||
        b.level - a.level
    );
    // Whole device pixels, so that neighbours meet without a seam.
    const across = (x: number): number => Math.round(size.width / 2 + (x - placement.x) * zoom);
    const down = (y: number): number => Math.round(size.height / 2 + (y - placement.y) * zoom);
    context.save();
    context.beginPath();
    // Tiles of a coarse level reach beyond the picture's edge by less than one of their pixels.
    context.rect(across(0), down(0), across(picture.width) - across(0), down(picture.height) - down(0));
    context.clip();
    // Coarser tiles stay, to be seen where the picture is moved to until the sharp ones are there.
    let spare = layers.filter(([, { level }]) => level > sharpLevel).length - MOST_COARSE;
    for (const [key, { bitmap, turn, level, side, column, row }] of layers) {
      const isCoarse = level > sharpLevel;
      const shrink = 2 ** level;
      const left = across(column * side * shrink);
      const top = down(row * side * shrink);
      const right = across((column * side + bitmap.width) * shrink);
      const bottom = down((row * side + bitmap.height) * shrink);
      const isOut = right < 0 || bottom < 0 || left > size.width || top > size.height;
      const isOver = isCoarse ? spare-- > 0 : level < sharpLevel ? sharp : isOut && !wantedPlaces.has(key);
      const isCovered = (covering !== null && turn < covering) || (sharp && isCoarse);
      if (isOver) this.remove(key);
      else if (!isOut && !isCovered) context.drawImage(bitmap, left, top, right - left, bottom - top);
    }
    context.restore();
  }
}
