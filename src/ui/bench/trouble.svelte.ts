import { SvelteMap } from 'svelte/reactivity';
import { DocumentError } from '$core/document';
import { FileError } from '$core/files';
import { EngineError } from '$engine/engine-error';
import { StorageError } from '$storage/library';
import { wasCancelled } from '../was-cancelled';

const inWords = (error: Error): boolean =>
  [FileError, DocumentError, EngineError, StorageError].some((kind) => error instanceof kind);

/** What could not be computed, by what it is, and why: everybody who asks the pool for something tells it here. */
class Trouble {
  readonly told = new SvelteMap<string, string>();
  /** Counts how often a person asked to try again: who shows something asks for it anew. */
  round = $state(0);

  /** What was taken back is no trouble. */
  tell(what: string, error: unknown): void {
    const problem = error as Error;
    if (wasCancelled(problem) || problem.name === 'TimeoutError') return;
    this.told.set(
      what,
      inWords(problem) ? problem.message : `Something went wrong inside (${problem.message}).`
    );
  }

  clear(what: string): void {
    if (this.told.has(what)) this.told.delete(what);
  }

  again(): void {
    this.told.clear();
    this.round++;
  }
}

export const trouble = new Trouble();
