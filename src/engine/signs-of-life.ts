/** A worker that gives no sign of life for so long, in ms, hangs; looked after every so often. */
export const SILENT = 20_000;
const LOOK_AFTER = 2000;

/** What a worker was at when it was looked at last, and since when it has given no other sign. */
interface Seen {
  readonly at: object;
  readonly sign: number;
  readonly since: number;
}

/** Looks after workers while there is work: each counts on in shared memory as it goes, and one that does not hangs. */
export class SignsOfLife<W extends object> {
  /** Where the workers count. */
  readonly signs: Int32Array;
  private readonly seen: (Seen | null)[];
  private timer: ReturnType<typeof setInterval> | null = null;
  private lookedAt = 0;

  /**
   * @param workOf what the worker at a place is at; null where it is at nothing
   * @param onSilent called with the place of one that hangs
   * @param silentFor for how many ms the work may give no sign
   */
  constructor(
    size: number,
    private readonly workOf: (place: number) => W | null,
    private readonly onSilent: (place: number) => void,
    private readonly silentFor: (work: W) => number = () => SILENT
  ) {
    this.signs = new Int32Array(new SharedArrayBuffer(4 * size));
    this.seen = Array.from({ length: size }, () => null);
  }

  /** Called whenever work is given out. */
  watch(): void {
    if (this.timer) return;
    this.lookedAt = performance.now();
    this.timer = setInterval(() => this.look(), LOOK_AFTER);
    // In Node nothing shall go on for its sake.
    (this.timer as { unref?: () => void }).unref?.();
  }

  end(): void {
    if (this.timer) clearInterval(this.timer);
    this.timer = null;
  }

  private look(): void {
    const now = performance.now();
    // Where the page itself was asleep, nobody could give a sign.
    const slept = now - this.lookedAt > 3 * LOOK_AFTER;
    this.lookedAt = now;
    let working = false;
    this.seen.forEach((seen, place) => {
      const at = this.workOf(place);
      // What it was at may hold a picture's memory: it is let go with the work.
      if (at === null) return void (this.seen[place] = null);
      working = true;
      const sign = Atomics.load(this.signs, place);
      if (slept || at !== seen?.at || sign !== seen.sign) this.seen[place] = { at, sign, since: now };
      else if (now - seen.since > this.silentFor(at)) this.onSilent(place);
    });
    if (!working) this.end();
  }
}
