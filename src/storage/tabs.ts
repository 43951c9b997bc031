import { LostDocumentError, StorageError, type Library } from './library';

/**
 * The tabs of one browser share the library. A document is written by the one tab that holds its lock (Web Locks): by
 * itself, or because another asked it to over a channel. Everybody hears what has changed.
 */

/** What a tab asks of the one that holds a document. */
export type Request =
  | { readonly what: 'rename'; readonly name: string }
  | { readonly what: 'remove' | 'restore' | 'end' | 'flush' | 'hand over' };

interface Problem {
  readonly kind: 'storage' | 'lost' | 'other';
  readonly message: string;
  readonly full?: boolean;
  readonly reason?: LostDocumentError['reason'];
}

type Message =
  | { readonly kind: 'changed'; readonly id: string }
  | { readonly kind: 'ask'; readonly id: string; readonly number: string; readonly request: Request }
  | { readonly kind: 'answer'; readonly number: string; readonly problem: Problem | null };

const CHANNEL = 'kromba-library';
/** How long a tab may take to answer: it may have to write first. */
const ANSWER_WITHIN = 5000;

const documentLock = (id: string): string => `kromba-document-${id}`;
/** Shared by those who add files, had alone by who takes unused ones away. */
const FILES_LOCK = 'kromba-files';

const problemOf = (error: unknown): Problem => {
  const { message } = error as Error;
  if (error instanceof StorageError) return { kind: 'storage', message, full: error.full };
  return error instanceof LostDocumentError
    ? { kind: 'lost', message, reason: error.reason }
    : { kind: 'other', message };
};

const errorOf = ({ kind, message, full, reason }: Problem): Error =>
  kind === 'storage'
    ? new StorageError(message, full)
    : kind === 'lost'
      ? new LostDocumentError(reason ?? 'gone')
      : new Error(message);

/** Its documents and files, as this tab deals with them beside the others. */
export class Tabs {
  private readonly channel = new BroadcastChannel(CHANNEL);
  private readonly listeners = new Set<(id: string) => void>();
  private readonly holders = new Map<string, (request: Request) => Promise<void>>();
  private readonly asked = new Map<string, (problem: Problem | null) => void>();

  constructor() {
    this.channel.onmessage = ({ data }: MessageEvent<Message>) => void this.take(data);
  }

  close(): void {
    this.channel.close();
  }

  /** Calls `listener` with the id of each document that any tab has changed. @returns ends it */
  onChange(listener: (id: string) => void): () => void {
    this.listeners.add(listener);
    return () => void this.listeners.delete(listener);
  }

  /** Tells everybody, this tab too, that a document was changed, added, deleted or ended. */
  tell(id: string): void {
    this.channel.postMessage({ kind: 'changed', id } satisfies Message);
    this.listeners.forEach((listener) => listener(id));
  }

  private async take(message: Message): Promise<void> {
    if (message.kind === 'changed') this.listeners.forEach((listener) => listener(message.id));
    else if (message.kind === 'answer') this.asked.get(message.number)?.(message.problem);
    else {
      const answer = this.holders.get(message.id);
      if (!answer) return;
      const problem = await answer(message.request).then(() => null, problemOf);
      this.channel.postMessage({ kind: 'answer', number: message.number, problem } satisfies Message);
    }
  }

  /** Asks the tab that holds a document. @throws what that one said; StorageError where nobody answers */
  ask(id: string, request: Request): Promise<void> {
    const number = crypto.randomUUID();
    return new Promise<void>((resolve, reject) => {
      const late = setTimeout(
        () =>
          answered({
            kind: 'storage',
            message: 'Another tab has this document open and does not answer. Close that tab and try again.'
          }),
        ANSWER_WITHIN
      );
      const answered = (problem: Problem | null): void => {
        clearTimeout(late);
        this.asked.delete(number);
        if (problem) reject(errorOf(problem));
        else resolve();
      };
      this.asked.set(number, answered);
      this.channel.postMessage({ kind: 'ask', id, number, request } satisfies Message);
    });
  }

  /**
   * Waits for a document's lock and holds it until `signal` says so; while it does, requests of other tabs come to `answer`.
   * @param onHeld called once it is held @param onStolen called where another tab has taken it away
   */
  async hold(
    id: string,
    signal: AbortSignal,
    answer: (request: Request) => Promise<void>,
    onHeld: () => void,
    onStolen: () => void
  ): Promise<void> {
    let held = false;
    try {
      await navigator.locks.request(documentLock(id), { signal }, () => {
        held = true;
        this.holders.set(id, answer);
        onHeld();
        return new Promise<void>((release) => signal.addEventListener('abort', () => release()));
      });
    } catch {
      if (held && !signal.aborted) onStolen();
    } finally {
      if (held) this.holders.delete(id);
    }
  }

  /** Waits until nobody holds a document. @returns at once where `signal` says so */
  async untilFree(id: string, signal: AbortSignal): Promise<void> {
    await navigator.locks
      .request(documentLock(id), { mode: 'shared', signal }, () => undefined)
      .catch(() => undefined);
  }

  /** Takes a document's lock away from a tab that does not answer, and lets it go for who waits for it. */
  async release(id: string): Promise<void> {
    await navigator.locks.request(documentLock(id), { steal: true }, () => undefined);
  }

  /** Whether nobody holds the document; said at once. */
  async isFree(id: string): Promise<boolean> {
    const { held = [] } = await navigator.locks.query();
    return !held.some((lock) => lock.name === documentLock(id) && lock.mode === 'exclusive');
  }

  /** Does `request` to a document: by `work` under its lock where nobody holds it, else by whoever does. */
  async through(id: string, request: Request, work: () => Promise<void>): Promise<void> {
    const done = await navigator.locks.request(documentLock(id), { ifAvailable: true }, async (lock) => {
      if (!lock) return false;
      await work();
      return true;
    });
    if (!done) await this.askHolder(id, request, work);
    this.tell(id);
  }

  /** Lets who holds a document do `request`: this tab itself, where it is just leaving it, or another; where that one lets it go instead, `work` is done. */
  private askHolder(id: string, request: Request, work: () => Promise<void>): Promise<void> {
    const own = this.holders.get(id);
    if (own) return own(request);
    const waiting = new AbortController();
    let isFree = false;
    const answered = this.ask(id, request).finally(() => waiting.abort());
    answered.catch(() => undefined);
    return navigator.locks
      .request(documentLock(id), { signal: waiting.signal }, () => {
        isFree = true;
        return work();
      })
      .catch((error: unknown) => {
        if (isFree) throw error;
        return answered;
      });
  }

  /**
   * While files are added that no document names yet, nobody takes them away as unused.
   * @param signal takes it back while it has not begun
   */
  adding<T>(work: () => Promise<T>, signal?: AbortSignal): Promise<T> {
    return navigator.locks.request(FILES_LOCK, { mode: 'shared', signal }, work) as Promise<T>;
  }

  /** Ends what was deleted before `before` and no tab has open, and lets go of files that nobody uses or is adding. */
  async tidy(library: Library, before: number): Promise<void> {
    for (const { id, deletedAt } of await library.deleted()) {
      if (deletedAt! >= before) continue;
      await navigator.locks.request(documentLock(id), { ifAvailable: true }, async (lock) => {
        if (lock) await library.end([id], before);
      });
    }
    await this.sweep(library);
  }

  /** Lets go of files that no document uses, unless somebody is adding some. */
  async sweep(library: Library): Promise<void> {
    await navigator.locks.request(FILES_LOCK, { ifAvailable: true }, async (lock) => {
      if (lock) await library.sweep();
    });
  }
}
