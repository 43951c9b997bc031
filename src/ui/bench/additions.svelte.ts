/** What is done sooner is not told. */
const TOLD_AFTER = 300;

/** Something that is coming into the document. */
export class Addition {
  private readonly stopping = new AbortController();
  what = $state('');

  /**
   * @param what what is being done, in words for a person
   * @param untell what is called once it need not be told any more
   */
  constructor(
    what: string,
    private readonly untell: () => void
  ) {
    this.what = what;
  }

  get signal(): AbortSignal {
    return this.stopping.signal;
  }

  cancel(): void {
    this.stopping.abort(new DOMException('Adding was cancelled.', 'AbortError'));
    this.untell();
  }

  /** It stands in the document, which is still to be written: it can be undone, but not cancelled any more. */
  comeIn(): void {
    this.untell();
  }
}

/** What is coming into a document; each can be cancelled by itself. */
export class Additions {
  /** Those that take a while. */
  lasting = $state.raw<readonly Addition[]>([]);
  private readonly running = new Set<Promise<unknown>>();

  /** @throws what `work` throws; AbortError where it was cancelled and says so */
  async run<T>(what: string, work: (addition: Addition) => Promise<T>): Promise<T> {
    const untell = (): void => {
      clearTimeout(timer);
      this.lasting = this.lasting.filter((other) => other !== one);
    };
    const one = new Addition(what, untell);
    const timer = setTimeout(() => (this.lasting = [...this.lasting, one]), TOLD_AFTER);
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
