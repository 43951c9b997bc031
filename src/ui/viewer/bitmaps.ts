import { LRUCache } from 'lru-cache';

const MOST_KEPT = 512;

/** How often each is held, by this list or by a view. */
const holders = new Map<ImageBitmap, number>();

/** Says that a bitmap is drawn from for some time; it is not closed until it is let go of as often. */
export function hold(bitmap: ImageBitmap): void {
  holders.set(bitmap, (holders.get(bitmap) ?? 0) + 1);
}

/** Closes a bitmap that nobody holds any more: its memory is free at once, not when the page next tidies up. */
export function letGo(bitmap: ImageBitmap): void {
  const left = (holders.get(bitmap) ?? 1) - 1;
  if (left > 0) return void holders.set(bitmap, left);
  holders.delete(bitmap);
  bitmap.close();
}

const kept = new LRUCache<string, ImageBitmap>({ max: MOST_KEPT, dispose: letGo });

/** The newest bitmaps of all views, by what they show. */
export const known = (key: string): ImageBitmap | undefined => kept.peek(key);

/** Keeps a bitmap as the newest; the oldest are let go of. */
export function keep(key: string, bitmap: ImageBitmap): void {
  // Asked for, it is the newest again.
  if (kept.get(key) === bitmap) return;
  hold(bitmap);
  kept.set(key, bitmap);
}

/** Lets go of the newest, as a document is left: only what a view still draws from stays, until that closes. */
export const letGoOfKept = (): void => kept.clear();
