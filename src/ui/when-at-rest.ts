/**
 * Does something once nothing has asked for it for a while. Asking again only moves the time: a timer that is taken back and set
 * anew costs the page a tenth of a millisecond, and a hand on a slider asks with each of its moves.
 */
export class WhenAtRest {
  private work: (() => void) | null = null;
  private due = 0;
  private waiting = false;

  /** @param patience in ms */
  constructor(private readonly patience: number) {}

  /** Something is going to be done. */
  get isPending(): boolean {
    return this.work !== null;
  }

  /** Does this when the patience has passed from now on, and not what was asked for before. */
  ask(work: () => void): void {
    this.work = work;
    this.due = performance.now() + this.patience;
    if (!this.waiting) this.wait(this.patience);
  }

  stop(): void {
    this.work = null;
  }

  private wait(ms: number): void {
    this.waiting = true;
    setTimeout(() => {
      this.waiting = false;
      const { work } = this;
      if (!work) return;
      const left = this.due - performance.now();
      if (left > 0) return this.wait(left);
      this.work = null;
      work();
    }, ms);
  }
}
