/** Rounds that are seen on the way to so many: each about half as many again as those before, and all of them last. */
export function roundsUpTo(most: number): number[] {
  const seen: number[] = [];
  for (let k = 1; k < most; k = Math.max(k + 1, Math.round(1.4 * k))) seen.push(k);
  return [...seen, most];
}

/** How often it is asked whether a result stands, and how long work on it may take to begin, in ms. */
const [ASKED, BEGINS] = [100, 800];
/** How long each is seen at least, in ms. */
const SEEN = 900;

/** What comes out of a step after more and more rounds, one after another, until it is stopped or the last one stands. */
export class Watched {
  /** The rounds that are shown; null where none are. */
  seen = $state<number | null>(null);
  /** Whether they are computed. */
  stands = $state(false);
  private turn = 0;

  /**
   * @param show shows what comes out after so many rounds; null where that is over
   * @param works whether it is being computed
   */
  constructor(
    private readonly show: (rounds: number | null) => void,
    private readonly works: () => boolean
  ) {}

  async run(rounds: readonly number[]): Promise<void> {
    const turn = ++this.turn;
    const goesOn = (): boolean => turn === this.turn;
    const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));
    for (const each of rounds) {
      this.seen = each;
      this.stands = false;
      this.show(each);
      for (let waited = 0; goesOn() && waited < BEGINS && !this.works(); waited += ASKED) await pause(ASKED);
      while (goesOn() && this.works()) await pause(ASKED);
      if (!goesOn()) return;
      this.stands = true;
      await pause(SEEN);
      if (!goesOn()) return;
    }
    this.stop();
  }

  stop(): void {
    this.turn++;
    this.seen = null;
    this.show(null);
  }
}
