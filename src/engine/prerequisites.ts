/** A step that nobody waits for is worked at for so long, in ms: who has moved on often asks for the same again. */
const ON = 50;

/** A request that may have to wait. */
export interface Waiting {
  /** Smaller goes first. */
  readonly priority?: number;
  reject(error: unknown): void;
}

interface Running<R> {
  requests: R[];
  /** That of the most urgent request that has waited for it. */
  readonly priority: number;
  readonly stop: AbortController;
}

/** What a request may need before it can be done, each made once for all workers while those that need it wait. */
export class Prerequisites<A extends { readonly key: string }, V, R extends Waiting> {
  private readonly running = new Map<string, Running<R>>();

  /**
   * @param known what is there already
   * @param make has workers make it, as urgently as the most urgent request that waits for it
   * @param made makes it known to all workers, and sends out again what has waited for it
   */
  constructor(
    private readonly known: (key: string) => V | undefined,
    private readonly make: (ask: A, signal: AbortSignal, priority: number) => Promise<V>,
    private readonly made: (ask: A, value: V, waited: readonly R[]) => void,
    /** It is begun anew where somebody is in more haste for it than who it was begun for. */
    private readonly hastens: boolean
  ) {}

  /** `request` can't be done before what it asks for is there. */
  await(request: R, ask: A): void {
    const known = this.known(ask.key);
    if (known !== undefined) return this.made(ask, known, [request]);
    const running = this.running.get(ask.key);
    const { priority = 0 } = request;
    if (running && !(this.hastens && priority < running.priority)) return void running.requests.push(request);
    const waiting = running?.requests.splice(0) ?? [];
    this.stopOrphans();
    void this.run([...waiting, request], ask, priority);
  }

  private async run(requests: R[], ask: A, priority: number): Promise<void> {
    const running: Running<R> = { requests, priority, stop: new AbortController() };
    this.running.set(ask.key, running);
    const end = (): void => {
      if (this.running.get(ask.key) === running) this.running.delete(ask.key);
    };
    try {
      const value = await this.make(ask, running.stop.signal, priority);
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
