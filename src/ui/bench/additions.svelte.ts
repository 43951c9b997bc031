/** What is done sooner is not told. */
const TOLD_AFTER = 300;

/** Something that is coming into the document. */
export class Addition {
  private readonly stopping = new AbortController();
  what = $state('');

  /** @param what what is being done, in words for a person */
  constructor(what: string) {
    this.what = what;
  }

  get signal(): AbortSignal {
    return this.stopping.signal;
  }

  cancel(): void {
    this.stopping.abort(new DOMException('Adding was cancelled.', 'AbortError'));
  }
}

/** What is coming into a document; each can be cancelled by itself. */
export class Additions {
  /** Those that take a while. */
  told = $state.raw<readonly Addition[]>([]);
  private readonly running = new Set<Promise<unknown>>();

  /** @throws what `work` throws; AbortError where it was cancelled and says so */
  async run<T>(what: string, work: (addition: Addition) => Promise<T>): Promise<T> {
    const one = new Addition(what);
    const timer = setTimeout(() => (this.told = [...this.told, one]), TOLD_AFTER);
    const untell = (): void => {
      clearTimeout(timer);
      this.told = this.told.filter((other) => other !== one);
    };
    one.signal.addEventListener('abort', untell);
    const result = work(one).finally(untell);
    this.running.add(result);
    try {
      return await result;
    } finally {
      this.running.delete(result);
    }
  }

  get isIdle(): boolean {
    return this.running.size === 0;
  }

  /** Done when all that was begun is in the document, or is not going to be. */
  async whenIdle(): Promise<void> {
    while (!this.isIdle) await Promise.allSettled(this.running);
  }
}
