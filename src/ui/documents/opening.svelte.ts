import { goto } from '$app/navigation';
import { withoutExtension } from '$core/files/file-names';
import type { Library } from '$storage/library';
import { addDocument, addExposures, addFrames, addUnseen, type Added, type NamedFile } from '../add-document';
import { wasCancelled } from '../was-cancelled';
import type { Sample } from './SampleList.svelte';

export interface Problem {
  readonly title: string;
  readonly text: string;
}

/** Files that hold frames of the sky, by their names. */
const FRAME_OF_SKY = /\.(fits?|fts)(\.gz|\.fz)?$/i;

const titleOf = ([{ name }]: readonly File[]): string => withoutExtension(name);

/** What is being opened on the home page: one thing after another, each of which can be cancelled. */
export class Opening {
  /** What is being done, in words for a person; empty where nothing is. */
  busy = $state('');
  problems = $state.raw<readonly Problem[]>([]);
  private running = new AbortController();
  private last: Promise<void> = Promise.resolve();
  private ended = false;

  constructor(
    private readonly library: Library,
    private readonly refresh: () => Promise<void>
  ) {}

  /** The page is left: what was begun is finished, and goes nowhere. */
  end(): void {
    this.ended = true;
  }

  /** Takes back what is being opened and what waits behind it; what was opened before stays. */
  cancel(): void {
    this.running.abort(new DOMException('Opening was cancelled.', 'AbortError'));
    this.running = new AbortController();
    this.busy = '';
  }

  private inTurn(work: (signal: AbortSignal) => Promise<void>): Promise<void> {
    const { signal } = this.running;
    this.last = this.last.then(async () => {
      if (signal.aborted) return;
      try {
        await work(signal);
      } finally {
        if (!signal.aborted) this.busy = '';
      }
      await this.refresh();
    });
    return this.last;
  }

  private async show(added: Added): Promise<void> {
    if (this.ended) this.leave(added);
    else await goto(`/work/${added.stored.id}`);
  }

  /** Of what is not looked at, the page Documents shows at least a small picture. */
  private leave({ thumbnail }: Added): void {
    thumbnail().catch(() => undefined);
  }

  /** Adds files one after another; what can't be taken is told, the rest goes on. */
  add(files: readonly File[]): Promise<void> {
    if (files.length === 0) return Promise.resolve();
    if (files.length > 1 && files.every(({ name }) => FRAME_OF_SKY.test(name))) return this.addFrames(files);
    return this.inTurn(async (signal) => {
      const found: Problem[] = [];
      const began = Date.now();
      for (const [i, file] of files.entries()) {
        const count = files.length > 1 ? ` (${i + 1} of ${files.length})` : '';
        if (signal.aborted) break;
        this.busy = `Opening ${file.name}${count} …`;
        try {
          const given = { name: file.name, file };
          if (files.length > 1) await addUnseen(this.library, given, began - i, signal);
          else await this.show(await addDocument(this.library, given, undefined, signal));
        } catch (error) {
          if (wasCancelled(error)) break;
          const text = `${(error as Error).message} Nothing was added.`;
          found.push({ title: `“${file.name}” was not opened.`, text });
        }
      }
      this.problems = found;
    });
  }

  /** Frames of the sky that are given together: one document for each object; what can't be read is told, the rest goes in. */
  private addFrames(files: readonly File[]): Promise<void> {
    return this.inTurn(async (signal) => {
      this.busy = `Opening ${files.length} frames …`;
      const found: Problem[] = [];
      const refused = (file: string, error: Error): void => {
        found.push({ title: `“${file}” was not opened.`, text: `${error.message} Nothing was added.` });
      };
      try {
        const given = files.map((file) => ({ name: file.name, file }));
        const added = await addFrames(this.library, given, signal, refused);
        if (found.length === 0 && added.length === 1) await this.show(added[0]);
        else added.forEach(this.leave);
      } catch (error) {
        if (wasCancelled(error)) return;
        // Where each of them has been told, there is nothing to add.
        if (found.length < files.length)
          found.push({
            title: 'The frames were not opened.',
            text: `${(error as Error).message} Nothing was added.`
          });
      }
      this.problems = found;
    });
  }

  addSample({ title, files }: Sample): Promise<void> {
    return this.one(`Opening ${title} …`, `“${title}” was not opened.`, async (signal) => {
      const given: NamedFile[] = [];
      for (const name of files) {
        const answer = await fetch(`/samples/${name}`, { signal });
        if (!answer.ok) throw new Error('The sample is not on this server. Start it with “npm run demo”.');
        given.push({ name, file: await answer.blob() });
      }
      return given.length > 1
        ? addExposures(this.library, given, title, signal)
        : addDocument(this.library, given[0], title, signal);
    });
  }

  /** Opens files as exposures of one scene: one document. */
  addScene(files: readonly File[]): Promise<void> {
    if (files.length === 0) return Promise.resolve();
    const what = `Opening ${files.length} exposures …`;
    return this.one(what, 'The exposures were not opened.', (signal) => {
      const given = files.map((file) => ({ name: file.name, file }));
      return addExposures(this.library, given, titleOf(files), signal);
    });
  }

  private one(
    what: string,
    problem: string,
    add: (signal: AbortSignal) => ReturnType<typeof addDocument>
  ): Promise<void> {
    return this.inTurn(async (signal) => {
      this.busy = what;
      this.problems = [];
      try {
        await this.show(await add(signal));
      } catch (error) {
        if (wasCancelled(error)) return;
        this.problems = [{ title: problem, text: `${(error as Error).message} Nothing was added.` }];
      }
    });
  }
}
