/** A step that nobody waits for is worked at for so long, in ms: who has moved on often asks for the same again. */
const ON = 50;

/** A request that may have to wait. */
export interface Waiting {
  reject(error: unknown): void;
}

interface Running<R> {
  requests: R[];
  readonly stop: AbortController;
}

/** What a request may need before it can be done, each made once for all workers while those that need it wait. */
export class Prerequisites<A extends { readonly key: string }, V, R extends Waiting> {
  private readonly running = new Map<string, Running<R>>();

  /**
   * @param known what is there already
   * @param make has workers make it
   * @param made makes it known to all workers, and sends out again what has waited for it
   */
  constructor(
    private readonly known: (key: string) => V | undefined,
    private readonly make: (ask: A, signal: AbortSignal) => Promise<V>,
    private readonly made: (ask: A, value: V, waited: readonly R[]) => void
  ) {}

  /** `request` can't be done before what it asks for is there. */
  await(request: R, ask: A): void {
    const known = this.known(ask.key);
    if (known !== undefined) return this.made(ask, known, [request]);
    const running = this.running.get(ask.key);
    if (running) return void running.requests.push(request);
    this.stopOrphans();
    void this.run(request, ask);
  }

  /** Whether something is being made. */
  isAt(key: string): boolean {
    return this.running.has(key);
  }

  private async run(request: R, ask: A): Promise<void> {
    const running: Running<R> = { requests: [request], stop: new AbortController() };
    this.running.set(ask.key, running);
    const end = (): void => {
      if (this.running.get(ask.key) === running) this.running.delete(ask.key);
    };
    try {
      const value = await this.make(ask, running.stop.signal);
      end();
      this.made(ask, value, running.requests);
    } catch (error) {
      end();
      for (const request of running.requests) request.reject(error);
    }
  }

  /** Requests that were taken back wait no longer, and what nobody waits for is left. */
  drop(requests: readonly R[]): void {
    let some = false;
    for (const running of this.running.values()) {
      const left = running.requests.filter((request) => !requests.includes(request));
      some ||= left.length === 0 && running.requests.length > 0;
      running.requests = left;
    }
    if (some) setTimeout(() => this.stopOrphans(), ON);
  }

  private stopOrphans(): void {
    for (const [key, { requests, stop }] of this.running) {
      if (requests.length > 0) continue;
      this.running.delete(key);
      stop.abort(new DOMException('Nobody waits for it any more.', 'AbortError'));
    }
  }
}
