import { WhenAtRest } from '../when-at-rest';
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
  /** Of what was begun and not left since. */
  private running: AbortController | null = null;
  private readonly rest: WhenAtRest;

  /** @param what is read, as a person is told where it fails */
  constructor(
    what: string,
    private readonly read: (asked: A, going: Going<T>) => Promise<T>,
    private readonly how: Following = {}
  ) {
    this.newest = new Newest(what);
    this.rest = new WhenAtRest(how.patience ?? 0);
  }

  ask(asked: A): void {
    const { patience = 0, interrupts = false } = this.how;
    if (interrupts) this.leave();
    if (patience > 0) this.rest.ask(() => this.begin(asked));
    else this.begin(asked);
  }

  /** Nothing is known any more, and what is under way counts for nothing. */
  clear(): void {
    this.rest.stop();
    this.leave();
    this.value = null;
  }

  private leave(): void {
    this.running?.abort(new DOMException('Something else was asked.', 'AbortError'));
    this.running = null;
  }

  private begin(asked: A): void {
    const { signal } = (this.running ??= new AbortController());
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
