import { Newest } from './newest';

interface Going<T> {
  /** Shows what is known so far. */
  tell(value: T): void;
  readonly signal: AbortSignal;
}

interface Following {
  /** Nothing is asked before so long, in ms, has passed since the last change. */
  readonly patience?: number;
  /** A change ends what is under way, instead of waiting for it. */
  readonly interrupts?: boolean;
}

/**
 * Numbers that follow the picture: the last stay until the next are there. One question is under way at a time; of what is asked
 * meanwhile, the newest is next. What fails is told.
 */
export class Follower<A, T> {
  value = $state.raw<T | null>(null);
  private readonly newest: Newest;
  private running = new AbortController();
  private timer = 0;

  /** @param what is read, as a person is told where it fails */
  constructor(
    what: string,
    private readonly read: (asked: A, going: Going<T>) => Promise<T>,
    private readonly how: Following = {}
  ) {
    this.newest = new Newest(what);
  }

  ask(asked: A): void {
    const { patience = 0, interrupts = false } = this.how;
    clearTimeout(this.timer);
    if (interrupts) this.leave();
    if (patience > 0) this.timer = window.setTimeout(() => this.begin(asked), patience);
    else this.begin(asked);
  }

  /** Nothing is known any more, and what is under way counts for nothing. */
  clear(): void {
    clearTimeout(this.timer);
    this.leave();
    this.value = null;
  }

  private leave(): void {
    this.running.abort(new DOMException('Something else was asked.', 'AbortError'));
    this.running = new AbortController();
  }

  private begin(asked: A): void {
    const { signal } = this.running;
    this.newest.ask(async () => {
      if (signal.aborted) return;
      const tell = (value: T): void => {
        if (!signal.aborted) this.value = value;
      };
      try {
        tell(await this.read(asked, { tell, signal }));
      } catch (error) {
        if (!signal.aborted) throw error;
      }
    });
  }
}
