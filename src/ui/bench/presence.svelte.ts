import { LostDocumentError, StorageError, type Library } from '$storage/library';
import type { Request } from '$storage/tabs';
import { tabs } from '../services';
import type { Session } from './session.svelte';

/**
 * What this tab is to the document: the one that writes it; one that follows another; or one that has it on the screen
 * alone, because it was deleted or is not in the storage any more.
 */
export type PresenceState = 'editing' | 'following' | 'deleted' | 'gone';

/** How long a tab that was handed the document waits for its lock before it asks again. */
const HANDED_WITHIN = 1000;
const MOST_TRIES = 5;
/** A tab that is reloaded gets its document back: those that follow it wait so long before they take it. */
const RELOADED_WITHIN = 1500;

export const NOT_HERE: Readonly<Record<Exclude<PresenceState, 'editing'>, string>> = {
  following: 'This document is edited in another tab. “Edit here” takes it over.',
  deleted: 'This document was deleted. “Put it back” brings it back as it is here.',
  gone: 'This document is not in the browser’s storage any more. “Put it back” writes it anew.'
};

/** A document's tab beside the other tabs: who writes, who follows, and what becomes of a document that is taken away. */
export class Presence {
  state = $state<PresenceState>('following');
  /** Something is being asked of another tab. */
  busy = $state(false);
  /** Why what was asked for was not done, in words for a person. */
  problem = $state('');
  private waiting = new AbortController();
  private readonly ended = new AbortController();
  private held = false;
  private onHeld: (() => void)[] = [];
  private endListening = (): void => undefined;

  constructor(
    private readonly session: Session,
    private readonly library: Library,
    private readonly id: string
  ) {}

  get editing(): boolean {
    return this.state === 'editing';
  }

  /** Edits the document where nobody else does, else follows who does and waits for its turn. */
  async begin(): Promise<void> {
    this.endListening = tabs.onChange((id) => {
      if (id === this.id && !this.held) void this.reload();
    });
    if (await tabs.isFree(this.id)) {
      this.wait();
      await this.untilHeld();
    } else void this.follow();
  }

  /** Follows the tab that edits the document until that one is gone for good, and goes on in its place. */
  private async follow(): Promise<void> {
    while (!this.held && !this.ended.signal.aborted) {
      await tabs.untilFree(this.id, this.ended.signal);
      await new Promise((resolve) => setTimeout(resolve, RELOADED_WITHIN));
      if (this.held || this.ended.signal.aborted || !(await tabs.isFree(this.id))) continue;
      this.wait();
      await this.untilHeld();
    }
  }

  /** Lets go of the document. */
  end(): void {
    this.endListening();
    this.ended.abort();
    this.waiting.abort();
  }

  /** Asks for the document's lock. */
  private wait(): void {
    this.waiting.abort();
    this.waiting = new AbortController();
    void tabs.hold(
      this.id,
      this.waiting.signal,
      (request) => this.answer(request),
      () => void this.take(),
      () => this.lose()
    );
  }

  private async take(): Promise<void> {
    this.held = true;
    await this.reload();
    if (this.state === 'following') this.state = 'editing';
    this.onHeld.splice(0).forEach((then) => then());
  }

  private untilHeld(within = Infinity): Promise<void> {
    if (this.editing) return Promise.resolve();
    return new Promise((resolve) => {
      this.onHeld.push(resolve);
      if (within !== Infinity) setTimeout(resolve, within);
    });
  }

  /** Another tab took the document away, as this one did not answer. */
  private lose(): void {
    this.held = false;
    this.state = 'following';
    if (this.session.saving.drop())
      this.problem = 'Another tab took this document over before the last change here was saved.';
    void this.follow();
    void this.reload();
  }

  /** Shows the document as it now lies in the library. */
  private async reload(): Promise<void> {
    try {
      const loaded = await this.library.load(this.id);
      if (loaded) {
        await this.session.adopt(loaded);
        if (!this.editing) this.state = this.held ? 'editing' : 'following';
      } else {
        const deleted = await this.library.deleted();
        this.state = deleted.some((d) => d.id === this.id) ? 'deleted' : 'gone';
      }
    } catch (error) {
      this.problem = (error as Error).message;
    }
  }

  /** Called where a save found the document missing or newer. */
  async lost({ reason }: LostDocumentError): Promise<void> {
    if (reason !== 'newer') this.state = reason;
    else {
      this.session.saving.drop();
      this.problem = 'It was changed in another tab; the last change here was not saved.';
      await this.reload();
    }
  }

  /** Does what another tab asks for, as this one holds the document. */
  private async answer(request: Request): Promise<void> {
    const { session, library, id } = this;
    if (request.what === 'rename') {
      if (this.editing) session.change('Rename the document', (draft) => void (draft.name = request.name));
      else await library.rename(id, request.name);
      await this.saved();
    } else if (request.what === 'flush') await this.saved();
    else if (request.what === 'hand over') {
      await this.saved();
      this.held = false;
      if (this.editing) this.state = 'following';
      this.waiting.abort();
      void this.follow();
    } else {
      await session.saving.flush();
      if (request.what === 'remove') await library.remove(id);
      else if (request.what === 'restore') await library.restore(id);
      else await library.end([id]);
      await this.reload();
    }
  }

  /** @throws StorageError where what is on the page can't be saved */
  private async saved(): Promise<void> {
    if (!this.editing) return;
    await this.session.saving.flush();
    if (this.session.saving.state !== 'failed') return;
    throw new StorageError(
      `The tab that has it open can’t save its last changes. ${this.session.saving.problem}`,
      this.session.saving.full
    );
  }

  /** Takes the document over from the tab that edits it; from one that does not answer, without asking. */
  async takeOver(): Promise<void> {
    if (this.held || this.busy) return;
    this.busy = true;
    this.problem = '';
    try {
      this.wait();
      for (let tries = 0; !this.held && tries < MOST_TRIES; tries++) {
        if (!(await tabs.isFree(this.id))) await this.askForIt();
        await this.untilHeld(HANDED_WITHIN);
      }
      if (!this.held) this.problem = 'The other tab did not let it go. Close that tab.';
    } catch (error) {
      this.problem = (error as Error).message;
    } finally {
      if (!this.held) this.waiting.abort();
      this.busy = false;
    }
  }

  private async askForIt(): Promise<void> {
    try {
      await tabs.ask(this.id, { what: 'hand over' });
    } catch (error) {
      // One that answers has a reason, which is told; one that does not has lost its say.
      if (!/does not answer/.test((error as Error).message)) throw error;
      await tabs.release(this.id);
    }
  }

  /** Writes the document back whole, as it is on this page. */
  async putBack(): Promise<void> {
    if (!this.held) await this.takeOver();
    if (!this.held) return;
    this.busy = true;
    this.problem = '';
    try {
      await this.session.putBack();
      this.state = 'editing';
      tabs.tell(this.id);
    } catch (error) {
      this.problem = (error as Error).message;
    } finally {
      this.busy = false;
    }
  }
}
