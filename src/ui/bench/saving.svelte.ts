import { StorageError } from '$storage/library';

const SAVE_AFTER = 250;

interface Parts {
  /** Writes the document and its history, the latter from an entry on. @throws StorageError */
  write(from: number): Promise<void>;
  /** Whether this tab writes the document now. */
  mayWrite(): boolean;
  /** Called where writing failed. */
  failed(error: unknown): Promise<void>;
}

/** A document's way into the library: what is not written yet, when it is, and why that failed. */
export class Saving {
  state = $state<'saved' | 'saving' | 'failed'>('saved');
  /** Why the last save failed, in words for a person. */
  problem = $state('');
  /** It failed because there is no room. */
  full = $state(false);
  /** The first entry of the history that is not written; null where all is. */
  private from: number | null = null;
  private timer = 0;
  private running: Promise<void> = Promise.resolve();

  constructor(private readonly parts: Parts) {}

  get isDue(): boolean {
    return this.from !== null;
  }

  /** Says that the history has changed from an entry on. */
  schedule(from: number): void {
    this.from = Math.min(this.from ?? from, from);
    this.state = 'saving';
    // Set once, not put off by each further change: a long drag is saved while it goes on.
    if (!this.timer) this.timer = window.setTimeout(() => void this.flush(), SAVE_AFTER);
  }

  /** Writes what is not written yet; called at once when the page is about to go. */
  flush(): Promise<void> {
    this.stop();
    if (this.isDue && this.parts.mayWrite()) this.running = this.running.then(() => this.write());
    return this.running;
  }

  /** Gives up what is not written yet. @returns whether there was anything */
  drop(): boolean {
    const dropped = this.isDue;
    this.from = null;
    this.stop();
    return dropped;
  }

  /** Says that the library has the document as it is here. */
  settle(): void {
    this.from = null;
    this.state = 'saved';
    this.problem = '';
  }

  private stop(): void {
    clearTimeout(this.timer);
    this.timer = 0;
  }

  private async write(): Promise<void> {
    if (this.from === null || !this.parts.mayWrite()) return;
    const { from } = this;
    this.from = null;
    try {
      await this.parts.write(from);
      this.problem = '';
      this.full = false;
      if (!this.isDue) this.state = 'saved';
    } catch (error) {
      // Written again, with all that was refused, at the next change.
      this.from = Math.min(this.from ?? from, from);
      this.state = 'failed';
      this.problem = (error as Error).message;
      this.full = error instanceof StorageError && error.full;
      await this.parts.failed(error);
    }
  }
}
