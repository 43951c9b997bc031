/** So long a deleted document can be put back. */
export const KEPT_DAYS = 30;
const DAY = 24 * 60 * 60 * 1000;

/** Documents deleted before this are ended. */
export const keptSince = (now: number): number => now - KEPT_DAYS * DAY;

/** Whole days until a deleted document is ended, at least 0. */
export const daysLeft = (deletedAt: number, now: number): number =>
  Math.max(0, Math.ceil((deletedAt - keptSince(now)) / DAY));
