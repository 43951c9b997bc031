import pLimit from 'p-limit';
import { lookOn, type Look, type LookOn } from '$core/document';
import { fileFormats } from '$core/files';
import { zipped } from '$core/files/bundle';
import { namePattern, outputNames } from '$core/files/name-pattern';
import { renderFile, type RenderSettings } from '$engine/render-file';
import type { StoredLook } from '$storage/library';
import { ManyStore, type Folder, type ManyOutcome, type ManyRun } from '$storage/many-store';
import { pool } from '../services';
import { Shelf } from '../looks/shelf.svelte';
import { wasCancelled } from '../was-cancelled';

export type State = 'waiting' | 'working' | 'done' | 'failed';

/** One of many files. */
export interface Item {
  readonly n: number;
  readonly name: string;
  /** What is made of it is called so. */
  readonly output: string;
  readonly state: State;
  readonly bytes: number | null;
  readonly problem: string;
  readonly notices: readonly string[];
  /** Addresses of its small pictures. */
  readonly small: { readonly before: string; readonly after: string } | null;
}

/** What is to be done. */
export interface Wanted {
  readonly look: Pick<StoredLook, 'look' | 'files'>;
  readonly settings: RenderSettings;
  readonly pattern: string;
  readonly folder: Folder | null;
  readonly overwrite: boolean;
}

/** Pixels along the longer side of a small picture. */
const SMALL = 320;
const LOCK = 'kromba-many';
const NOT_KEPT =
  'Nothing of this is kept over a reload: what waits, and what is not in a folder yet, is lost with the page.';

const extensionOf = ({ format }: RenderSettings): string =>
  fileFormats.find(({ id }) => id === format)!.extensions[0];

/** What the files that are made are called. @throws Error, in words for a person */
export function outputsOf(
  names: readonly string[],
  look: Look,
  { pattern, settings }: Pick<Wanted, 'pattern' | 'settings'>
): string[] {
  const { error } = namePattern.safeParse(pattern);
  if (error) throw new Error(`The name ${error.issues[0].message}.`);
  const clash = (before: string, file: string, output: string): string =>
    `“${before}” and “${file}” would both become “${output}”. Use {n} in the name.`;
  return outputNames(names, { pattern, look: look.name, extension: extensionOf(settings) }, clash);
}

/** Many files that the same is done with, one or two at a time. */
export class Many {
  items = $state.raw<readonly Item[]>([]);
  run = $state.raw<ManyRun | null>(null);
  /** Something is being computed. */
  working = $state(false);
  paused = $state(false);
  /** What is wrong with all of it, in words for a person. */
  problem = $state('');
  /** What an earlier page has begun is known. */
  ready = $state(false);
  /** Another tab has it. */
  elsewhere = $state(false);
  /** Milliseconds that what is left takes, about; null while nothing tells. */
  left = $state<number | null>(null);
  private store: ManyStore | null = null;
  /** The store, where it has what is worked on now. */
  private kept = $state.raw<ManyStore | null>(null);
  private inputs: readonly Blob[] = [];
  private stopped: AbortController | null = null;
  private goOn: (() => void) | null = null;
  private readonly ended = new AbortController();

  readonly done = $derived(this.items.filter(({ state }) => state === 'done').length);
  readonly failed = $derived(this.items.filter(({ state }) => state === 'failed').length);
  readonly waiting = $derived(this.items.length - this.done - this.failed);
  /** What is made outlives the page: in a folder, or kept. */
  readonly stays = $derived(this.kept !== null || Boolean(this.run?.folder));

  /** Reads what an earlier page has begun; where another tab is at it, waits for that to end. */
  async open(): Promise<void> {
    try {
      await navigator.locks.request(LOCK, { ifAvailable: true }, (lock) => {
        if (lock) return this.hold();
        this.elsewhere = this.ready = true;
        return undefined;
      });
      if (this.elsewhere)
        await navigator.locks.request(LOCK, { signal: this.ended.signal }, () => this.hold());
    } catch (error) {
      if (!this.ended.signal.aborted) this.problem = (error as Error).message;
      this.ready = true;
    }
  }

  private async hold(): Promise<void> {
    this.elsewhere = false;
    try {
      this.store = await ManyStore.open();
      const known = await this.store.load();
      if (known) {
        this.kept = this.store;
        this.run = known.run;
        const { names, outputs } = known.run;
        this.items = names.map((name, n) => this.itemOf(n, name, outputs[n], known.outcomes.get(n)));
      }
    } catch (error) {
      // It can still be done, and is lost with the page.
      this.problem = (error as Error).message;
    }
    this.ready = true;
    // Held as long as the page lives.
    await new Promise<void>((resolve) => this.ended.signal.addEventListener('abort', () => resolve()));
  }

  /** The page is left. */
  close(): void {
    this.stopped?.abort(new DOMException('The page was left.', 'AbortError'));
    this.ended.abort();
    this.store?.close();
    this.forgetSmall();
  }

  private itemOf(n: number, name: string, output: string, outcome?: ManyOutcome): Item {
    const { bytes = null, problem = '', notices = [], small } = outcome ?? {};
    const state = !outcome ? 'waiting' : bytes === null ? 'failed' : 'done';
    const addresses = small && {
      before: URL.createObjectURL(small.before),
      after: URL.createObjectURL(small.after)
    };
    return { n, name, output, state, bytes, problem, notices, small: addresses ?? null };
  }

  private forgetSmall(): void {
    for (const { small } of this.items)
      if (small) for (const address of [small.before, small.after]) URL.revokeObjectURL(address);
  }

  private set(n: number, change: Partial<Item>): void {
    this.items = this.items.map((item) => (item.n === n ? { ...item, ...change } : item));
  }

  /** Begins anew. @throws Error, in words for a person, where it can't be begun */
  async begin(files: readonly File[], { look, settings, pattern, folder, overwrite }: Wanted): Promise<void> {
    const names = files.map(({ name }) => name);
    const outputs = outputsOf(names, look.look, { pattern, settings });
    const run: ManyRun = {
      ...{ id: crypto.randomUUID(), look, settings, names, outputs, folder, overwrite }
    };
    this.problem = '';
    this.forgetSmall();
    this.inputs = files;
    // It may be stopped while the files are still being kept.
    const stopped = (this.stopped = new AbortController());
    this.working = true;
    this.run = run;
    this.items = names.map((name, n) => this.itemOf(n, name, outputs[n]));
    this.kept = null;
    let notKept = NOT_KEPT;
    try {
      await this.store?.begin(run, files, stopped.signal);
      if (this.store) [this.kept, notKept] = [this.store, ''];
    } catch (error) {
      // The folder has room of its own; and what was stopped can be gone on with while the page is open.
      if (!folder && !stopped.signal.aborted) {
        this.working = false;
        await this.clear();
        throw error;
      }
      if (!stopped.signal.aborted) notKept = (error as Error).message;
    }
    // It may have been left for new work meanwhile.
    if (this.run === run) await this.work(run, stopped.signal, notKept);
    else if (!this.run) this.working = false;
  }

  /** Goes on with what waits. */
  async proceed(): Promise<void> {
    if (!this.run || this.working) return;
    this.stopped = new AbortController();
    this.working = true;
    await this.work(this.run, this.stopped.signal, this.kept ? '' : NOT_KEPT);
  }

  /** @param told what is to be known of it from the beginning */
  private async work(run: ManyRun, signal: AbortSignal, told: string): Promise<void> {
    this.problem = told;
    try {
      if (run.folder && !(await mayWrite(run.folder)))
        throw new Error(`Kromba may not write into the folder “${run.folder.name}”. Allow it, and go on.`);
      const tables = await new Shelf().tablesOf(run.look);
      const source = lookOn(
        run.look.look,
        new Map([...tables].map(([id, { table }]) => [id, table])),
        run.look.files
      );
      await this.each(run, source, signal);
    } catch (error) {
      if (!wasCancelled(error)) this.problem = (error as Error).message;
    } finally {
      this.goOn = this.goingOn = null;
      this.items = this.items.map((item) =>
        item.state === 'working' ? { ...item, state: 'waiting' } : item
      );
      this.working = false;
      this.paused = false;
      this.left = null;
    }
  }

  private async each(run: ManyRun, source: LookOn, signal: AbortSignal): Promise<void> {
    const limit = pLimit(navigator.hardwareConcurrency);
    const waiting = this.items.filter(({ state }) => state === 'waiting');
    let [finished, began] = [0, performance.now()];
    const work = waiting.map(({ n }) =>
      limit(async () => {
        if (this.paused) {
          await this.unpaused(signal);
          [finished, began] = [0, performance.now()];
        }
        signal.throwIfAborted();
        await this.one(run, n, source, signal);
        finished++;
        // One at the end of what is measured tells little.
        this.left = finished < 2 ? null : ((performance.now() - began) / finished) * this.waiting;
      })
    );
    try {
      await Promise.all(work);
    } catch (error) {
      this.stopped?.abort(error);
      await Promise.allSettled(work);
      throw error;
    }
  }

  private goingOn: Promise<void> | null = null;
  /** All that wait go on together. */
  private unpaused(signal: AbortSignal): Promise<void> {
    this.goingOn ??= new Promise<void>((resolve) => {
      this.goOn = resolve;
      signal.addEventListener('abort', () => resolve(), { once: true });
    });
    return this.goingOn;
  }

  private async one(run: ManyRun, n: number, source: LookOn, signal: AbortSignal): Promise<void> {
    this.set(n, { state: 'working' });
    let [outcome, result]: [ManyOutcome, Blob | null] = [{ bytes: null, notices: [], small: null }, null];
    try {
      const given = { key: `many ${run.id} ${n}`, file: () => this.input(n), small: SMALL };
      const { file, notices, small } = await renderFile(pool, given, source, run.settings, signal);
      if (run.folder) await writeInto(run.folder, run.outputs[n], file, run.overwrite);
      else result = file;
      const pictures = small && { before: jpeg(small.before), after: jpeg(small.after) };
      outcome = { bytes: file.size, notices, small: pictures };
    } catch (error) {
      signal.throwIfAborted();
      outcome = { ...outcome, problem: (error as Error).message };
    }
    const { name, output } = this.items[n];
    await this.kept?.done(n, outcome, result);
    if (!this.kept && result) this.unstored.set(n, result);
    this.items = this.items.map((item) => (item.n === n ? this.itemOf(n, name, output, outcome) : item));
  }

  /** What was made, where nothing can be stored. */
  private readonly unstored = new Map<number, Blob>();

  private async input(n: number): Promise<Blob> {
    const file = this.inputs[n] ?? (await this.kept?.input(n));
    if (!file) throw new Error('The file is not in this browser’s storage any more. Choose it again.');
    return file;
  }

  /** What is being computed is finished first. */
  pause(): void {
    this.paused = true;
  }

  unpause(): void {
    this.paused = false;
    this.left = null;
    this.goOn?.();
    this.goOn = this.goingOn = null;
  }

  /** Ends at once; what was made stays, and the rest can be gone on with. */
  stop(): void {
    this.stopped?.abort(new DOMException('The work was stopped.', 'AbortError'));
  }

  /** Tries those again that failed. */
  async retry(): Promise<void> {
    const failed = this.items.filter(({ state }) => state === 'failed').map(({ n }) => n);
    await this.kept?.undone(failed);
    this.items = this.items.map((item) =>
      item.state === 'failed' ? { ...item, state: 'waiting', problem: '' } : item
    );
    await this.proceed();
  }

  /** What was made of a file. @throws Error, in words for a person, where it is gone */
  async made({ n, output }: Item): Promise<File> {
    const folder = this.run?.folder;
    if (folder) {
      const handle = await folder.getFileHandle(output).catch(() => null);
      if (!handle) throw new Error(`“${output}” is not in the folder any more.`);
      return handle.getFile();
    }
    const file = this.unstored.get(n) ?? (await this.kept?.result(n));
    if (!file) throw new Error(`“${output}” is not in this browser’s storage any more.`);
    return new File([file], output, { type: file.type });
  }

  /** All that was made, in one zip. @throws Error */
  async zip(): Promise<Blob> {
    const files = new Map<string, Blob>();
    for (const item of this.items) if (item.state === 'done') files.set(item.output, await this.made(item));
    return zipped(files);
  }

  /** Forgets all of it; what lies in a folder stays there. */
  async clear(): Promise<void> {
    this.stop();
    this.forgetSmall();
    this.items = [];
    this.run = null;
    this.inputs = [];
    this.unstored.clear();
    this.kept = null;
    await this.store?.clear().catch((error: Error) => (this.problem = error.message));
  }
}

const jpeg = (bytes: Uint8Array): Blob => new Blob([new Uint8Array(bytes)], { type: 'image/jpeg' });

/** Parts of File System Access that the language's own types lack. */
interface Permitting {
  queryPermission(of: { mode: 'readwrite' }): Promise<PermissionState>;
  requestPermission(of: { mode: 'readwrite' }): Promise<PermissionState>;
}

async function mayWrite(folder: Folder): Promise<boolean> {
  const asking = folder as unknown as Partial<Permitting>;
  const mode = { mode: 'readwrite' } as const;
  if (!asking.queryPermission || !asking.requestPermission) return true;
  return (
    (await asking.queryPermission(mode)) === 'granted' || (await asking.requestPermission(mode)) === 'granted'
  );
}

/** Writes a file whole or not at all. @throws Error, in words for a person */
async function writeInto(folder: Folder, name: string, content: Blob, overwrite: boolean): Promise<void> {
  const isThere = await folder.getFileHandle(name).then(
    () => true,
    (error: Error) => error.name !== 'NotFoundError'
  );
  if (isThere && !overwrite) throw new Error(`“${name}” is in the folder already and stays as it is.`);
  try {
    const handle = await folder.getFileHandle(name, { create: true });
    const stream = await handle.createWritable();
    await stream.write(content);
    await stream.close();
  } catch (error) {
    const full = (error as Error).name === 'QuotaExceededError';
    throw new Error(`“${name}” can’t be written: ${full ? 'the disk is full' : (error as Error).message}.`, {
      cause: error
    });
  }
}
