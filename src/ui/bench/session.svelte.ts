import {
  changeProblem,
  headFrame,
  parseDocument,
  pinsOf,
  pinsRead,
  Resolver,
  type DocumentFrame,
  type KrombaDocument,
  type Picture,
  type Pin,
  type Step
} from '$core/document';
import { change, redone, undone, type HistoryEntry, type Recipe } from '$core/document/history';
import type { Bundle } from '$core/files/bundle';
import { ownFileName } from '$core/files/file-names';
import { pictureGeometry } from '$core/path/plan';
import { brightness } from '$core/raster/frame';
import {
  LostDocumentError,
  StorageError,
  type Library,
  type LoadedDocument,
  type StoredDocument
} from '$storage/library';
import { renewThumbnail, type NamedFile } from '../add-document';
import type { Shown } from '../viewer/tiles';
import { keepFrames, openFrame, tabs, takeFile, type OpenFrame } from '../services';
import { freeName, newId } from './names';
import { movedElsewhere } from './pins';
import { NOT_HERE, Presence } from './presence.svelte';

const SAVE_AFTER = 250;
const THUMBNAIL_AFTER = 1500;
/** Repeated steps on one field within this time are one entry of the history. */
const SAME_GESTURE = 1200;
/** Frames that are not needed any more are let go after this time: work on them may still be under way. */
const LET_GO_AFTER = 10_000;

export type SaveState = 'saved' | 'saving' | 'failed';

/** Opens a frame of a document by the hash of its content. @throws Error in words for a person; FileError */
async function openHash(
  library: Library,
  stored: StoredDocument,
  hash: string,
  signal?: AbortSignal
): Promise<OpenFrame> {
  const content = async (): Promise<Blob> => {
    const kept = await library.file(hash);
    if (kept) return kept;
    const id = Object.keys(stored.files).find((frame) => stored.files[frame] === hash);
    const file = stored.document.frames.find((f) => f.id === id)?.file ?? 'of a frame';
    throw new Error(`The file “${file}” is missing from this browser’s storage.`);
  };
  return openFrame(hash, content, signal);
}

/** A stored document as this version has it: what an earlier one wrote is brought up to date. @throws DocumentError */
const current = (stored: StoredDocument): StoredDocument => ({
  ...stored,
  document: parseDocument(stored.document)
});

/** One document being worked on: its history, what is selected, and its way into the library. */
export class Session {
  document = $state.raw<KrombaDocument>(null as unknown as KrombaDocument);
  saveState = $state<SaveState>('saved');
  /** Why the last save failed, in words for a person. */
  saveProblem = $state('');
  /** It failed because there is no room. */
  storageFull = $state(false);
  /** What this tab is to the document beside other tabs. */
  readonly presence: Presence;
  /** The frames' files, so that they can be written anew where the storage has lost them. */
  private readonly contents = new Map<string, Blob>();
  /** Why a picture of the document can't be shown, in words for a person. */
  pictureProblem = $state('');
  /** The picture whose frame is being opened. */
  opening = $state('');
  /** Why the last change was not made, in words for a person. */
  refusal = $state('');
  /** What a person is told after something was done. */
  notice = $state('');
  /** Content hash of the frame that the picture stands on, and the frame itself. */
  hash = $state('');
  opened = $state.raw<OpenFrame>(null as unknown as OpenFrame);
  /** The selected step; null is the head. */
  stepId = $state<string | null>(null);
  private pictureId = $state('');
  /** Content hash of each frame's file, by frame id. */
  private files = $state.raw<Readonly<Record<string, string>>>({});
  /** Frames that pictures beside the shown one need, and that are open. */
  private beside: readonly string[] = [];
  private history = $state.raw<readonly HistoryEntry[]>([]);
  private position = $state(0);
  private gesture: { key: string; base: KrombaDocument; at: number } | null = null;
  private dirtyFrom: number | null = null;
  private saveTimer = 0;
  private thumbnailTimer = 0;
  private letGoTimer = 0;
  private saving: Promise<void> = Promise.resolve();

  readonly picture = $derived<Picture>(
    this.document.pictures.find((p) => p.id === this.pictureId) ?? this.document.pictures[0]
  );
  private readonly resolver = $derived(new Resolver(this.document, this.files));
  readonly step = $derived<Step | null>(this.picture.steps.find((s) => s.id === this.stepId) ?? null);
  /** The pins of the picture: its own and those that belong to all. */
  readonly pins = $derived<readonly Pin[]>(pinsOf(this.document, this.picture.id));
  /** Steps that count, in order. */
  readonly active = $derived<readonly Step[]>(this.picture.steps.filter((s) => s.enabled));
  /** How many of the active steps stand before the selected one. */
  readonly before = $derived(this.activeBefore(this.step));
  /** How many of the active steps lead to the picture after the selected one. */
  readonly through = $derived(this.before + (this.step?.enabled ? 1 : 0));
  readonly undoLabel = $derived(this.position > 0 ? this.history[this.position - 1].label : null);
  readonly redoLabel = $derived(
    this.position < this.history.length ? this.history[this.position].label : null
  );

  private constructor(
    private readonly library: Library,
    private stored: StoredDocument,
    history: readonly HistoryEntry[],
    hash: string,
    opened: OpenFrame
  ) {
    this.presence = new Presence(this, library, stored.id);
    this.hash = hash;
    this.opened = opened;
    this.document = stored.document;
    this.files = stored.files;
    this.history = history;
    this.position = stored.position;
    this.pictureId = stored.selection?.picture ?? stored.document.pictures[0].id;
    this.stepId = stored.selection?.step ?? null;
  }

  /** @throws Error in words for a person when the document or its frame is not there; FileError */
  static async open(library: Library, id: string, signal: AbortSignal): Promise<Session> {
    const loaded = await library.load(id);
    if (!loaded) throw new Error('This document is not in this browser. It may have been deleted.');
    const { history } = loaded;
    const stored = current(loaded.stored);
    const { document } = stored;
    const picture = document.pictures.find((p) => p.id === stored.selection?.picture) ?? document.pictures[0];
    if (!picture) throw new Error(`“${document.name}” holds no picture.`);
    const hash = stored.files[headFrame(document, picture).id];
    const needed = new Resolver(document, stored.files).framesOf(picture);
    keepFrames([hash, ...needed]);
    const opened = await openHash(library, stored, hash, signal);
    const session = new Session(library, stored, history, hash, opened);
    await session.presence.begin();
    void session.openBeside();
    void session.holdContents();
    return session;
  }

  /** Gets hold of the frames' files; a file that nobody reads costs nothing. */
  private async holdContents(): Promise<void> {
    for (const hash of Object.values(this.files)) {
      if (this.contents.has(hash)) continue;
      const content = await this.library.file(hash).catch(() => null);
      if (content) this.contents.set(hash, content);
    }
  }

  /** Takes over what another tab has written. Changes of this tab that are not written yet stay. */
  async adopt({ stored, history }: LoadedDocument): Promise<void> {
    if (this.dirtyFrom !== null || stored.revision === this.stored.revision) {
      this.stored = { ...this.stored, revision: stored.revision };
      return;
    }
    stored = current(stored);
    this.stored = stored;
    this.files = stored.files;
    this.document = stored.document;
    this.history = history;
    this.position = stored.position;
    this.gesture = null;
    this.saveState = 'saved';
    this.saveProblem = '';
    void this.holdContents();
    if (!this.document.pictures.some((p) => p.id === this.pictureId)) await this.leaveMissing();
    else if (this.stepId !== null && !this.step) this.stepId = this.picture.steps.at(-1)?.id ?? null;
    await this.openBeside();
  }

  /** Gives up what is not written yet. @returns whether there was anything */
  dropUnsaved(): boolean {
    const dropped = this.dirtyFrom !== null;
    this.dirtyFrom = null;
    clearTimeout(this.saveTimer);
    this.saveTimer = 0;
    return dropped;
  }

  /** Writes the document, its history and its files whole. @throws StorageError */
  async putBack(): Promise<void> {
    await this.holdContents();
    this.dirtyFrom = null;
    this.stored = await this.library.putBack(this.snapshot(), this.history, this.contents);
    this.saveState = 'saved';
    this.saveProblem = '';
  }

  /** The document with what belongs to it, to be handed on as a file. */
  async asBundle(): Promise<Bundle> {
    await this.holdContents();
    const files = new Map<string, Blob>();
    for (const { id } of this.document.frames) {
      const content = this.contents.get(this.files[id]);
      if (content) files.set(id, content);
    }
    return { document: this.document, files };
  }

  private snapshot(): StoredDocument {
    const modified = this.document !== this.stored.document;
    return {
      ...this.stored,
      document: this.document,
      files: this.files,
      position: this.position,
      selection: { picture: this.picture.id, step: this.stepId },
      modifiedAt: modified ? Date.now() : this.stored.modifiedAt
    };
  }

  /** Whether a change can be made here; says why not. */
  private mayChange(): boolean {
    if (this.presence.editing) return true;
    this.refusal = NOT_HERE[this.presence.state as 'following'].replace(/\.$/, '');
    return false;
  }

  /** Opens the frames of the pictures that the shown one refers to; what needs them waits until they are there. */
  private async openBeside(): Promise<void> {
    const needed = this.resolver.framesOf(this.picture).filter((hash) => hash !== this.hash);
    if (needed.every((hash) => this.beside.includes(hash))) return;
    this.beside = needed;
    try {
      for (const hash of needed) await openHash(this.library, this.stored, hash);
    } catch (error) {
      this.beside = [];
      this.pictureProblem = `A picture that “${this.picture.name}” takes from can’t be opened: ${(error as Error).message} Its steps wait for it; all else works.`;
    }
  }

  /** Lets go of the frames that neither the shown picture nor those beside it need. */
  private letGo(): void {
    clearTimeout(this.letGoTimer);
    this.letGoTimer = window.setTimeout(() => keepFrames([this.hash, ...this.beside]), LET_GO_AFTER);
  }

  /** Size of a frame of the document, opened for it. @throws Error in words for a person; FileError */
  async frameSize(frame: DocumentFrame): Promise<{ width: number; height: number }> {
    return (await openHash(this.library, this.stored, this.files[frame.id])).frame;
  }

  /** What workers take for a picture of the document; null where its head is no frame. */
  sourceOf(
    picture: string,
    after?: string
  ): { frame: string; steps: readonly Step[]; pins: readonly Pin[] } | null {
    const found = this.resolver.picture(after === undefined ? { picture } : { picture, after });
    return found ?? null;
  }

  /** Opens the frame that a picture stands on, so that it can be computed. @throws as `frameSize` */
  async openPicture(id: string): Promise<OpenFrame | null> {
    const source = this.sourceOf(id);
    return source && openHash(this.library, this.stored, source.frame);
  }

  /**
   * Puts image files into the document as frames, each with a picture of its own, the darkest first.
   * @returns ids of the pictures @throws FileError, StorageError or Error in words for a person; nothing is added then
   */
  addFrames(given: readonly NamedFile[]): Promise<string[]> {
    if (!this.mayChange()) return Promise.reject(new Error(NOT_HERE[this.presence.state as 'following']));
    return tabs.adding(() => this.takeFrames(given));
  }

  private async takeFrames(given: readonly NamedFile[]): Promise<string[]> {
    const taken: { name: string; file: string; hash: string; light: number }[] = [];
    const names = new Set(this.document.frames.map((f) => f.file));
    const hashes: string[] = [];
    for (const { name, file: content } of given) {
      const hash = await takeFile(this.library, content);
      const { frame } = await openHash(this.library, this.stored, hash);
      hashes.push(hash);
      const own = ownFileName(name, names);
      names.add(own);
      taken.push({ name: own.replace(/\.[^.]+$/, '') || own, file: own, hash, light: brightness(frame) });
    }
    taken.sort((a, b) => a.light - b.light);
    const parts = taken.map((t) => ({ ...t, frame: newId('f'), picture: newId('p') }));
    this.files = { ...this.files, ...Object.fromEntries(parts.map((p) => [p.frame, p.hash])) };
    this.stored = { ...this.stored, files: this.files };
    this.change(parts.length === 1 ? 'Add a frame' : `Add ${parts.length} frames`, (draft) => {
      for (const { frame, picture, name, file } of parts) {
        draft.frames.push({ id: frame, name, file, encoding: 'coded' });
        const free = freeName(draft.pictures, name);
        draft.pictures.push({ id: picture, name: free, head: { kind: 'frame', frame }, steps: [] });
      }
    });
    this.letGo();
    given.forEach(({ file }, i) => this.contents.set(hashes[i], file));
    // Until a document that names them is written, nobody may take the files away.
    await this.flush();
    return parts.map((p) => p.picture);
  }

  private activeBefore(step: Step | null): number {
    if (!step) return 0;
    const { steps } = this.picture;
    return steps.slice(0, steps.indexOf(step)).filter((s) => s.enabled).length;
  }

  /** What a view of the picture after `steps` shows; the steps before the selected one are held. */
  source(given: readonly Step[]): Omit<Shown, 'view'> {
    const { frame } = this.opened;
    const steps = this.resolver.steps(given);
    return {
      hash: this.hash,
      frame,
      steps,
      hold: Math.min(this.before, steps.length),
      pins: pinsRead(steps, this.pins),
      geometry: pictureGeometry(frame, steps)
    };
  }

  /** Goes to another picture of the document, with its last step selected; its frame is opened where it has another. */
  async showPicture(id: string, stepId?: string | null): Promise<void> {
    const { document } = this;
    const picture = document.pictures.find((p) => p.id === id);
    if (!picture || id === this.picture.id) return;
    this.pictureProblem = '';
    const hash = this.files[headFrame(document, picture).id];
    if (hash !== this.hash) {
      this.opening = id;
      try {
        const opened = await openHash(this.library, this.stored, hash);
        this.hash = hash;
        this.opened = opened;
      } catch (error) {
        this.pictureProblem = `“${picture.name}” can’t be shown: ${(error as Error).message} The picture before it stays.`;
        return;
      } finally {
        this.opening = '';
      }
    }
    this.pictureId = id;
    this.select(stepId === undefined ? (picture.steps.at(-1)?.id ?? null) : stepId);
    const needed = this.resolver.framesOf(this.picture);
    this.beside = this.beside.filter((h) => needed.includes(h));
    this.letGo();
    await this.openBeside();
  }

  select(stepId: string | null): void {
    this.stepId = stepId;
    this.gesture = null;
    this.scheduleSave(this.position);
  }

  /**
   * Does one thing to the document. Changes with the same `gesture` that follow each other closely are one
   * entry: each is made on the document as it was when the gesture began, so `recipe` sets whole values. A change that
   * could not be read again (references in a circle or without their end, more than a document takes) is not made, and
   * `refusal` says why; `notice` where it moves what is solved in another picture.
   * @returns whether it was made
   */
  change(label: string, recipe: Recipe, gesture?: string): boolean {
    if (!this.mayChange()) return false;
    const now = performance.now();
    const goesOn =
      gesture !== undefined && this.gesture?.key === gesture && now - this.gesture.at < SAME_GESTURE;
    const base = goesOn ? this.gesture!.base : this.document;
    const from = goesOn ? this.position - 1 : this.position;
    const { document, entry } = change(base, label, recipe);
    if (!entry && !goesOn) return true;
    const problem = changeProblem(this.document, document);
    if (problem) {
      const [first, ...rest] = problem;
      this.refusal = `${first.toUpperCase()}${rest.join('')}.`;
      return false;
    }
    this.refusal = '';
    this.notice = movedElsewhere(base, document, this.picture.id) ?? this.notice;
    this.history = [...this.history.slice(0, from), ...(entry ? [entry] : [])];
    this.position = this.history.length;
    this.document = document;
    this.gesture = gesture !== undefined && entry ? { key: gesture, base, at: now } : null;
    this.scheduleSave(from);
    void this.openBeside();
    return true;
  }

  endGesture(): void {
    this.gesture = null;
  }

  undo(): void {
    if (this.position === 0 || !this.mayChange()) return;
    this.document = undone(this.document, this.history[this.position - 1]);
    this.moveTo(this.position - 1);
  }

  redo(): void {
    if (this.position === this.history.length || !this.mayChange()) return;
    this.document = redone(this.document, this.history[this.position]);
    this.moveTo(this.position + 1);
  }

  private moveTo(position: number): void {
    this.position = position;
    this.gesture = null;
    this.scheduleSave(this.history.length);
    if (!this.document.pictures.some((p) => p.id === this.pictureId)) void this.leaveMissing();
    void this.openBeside();
  }

  /** A picture that was shown is gone by undo: the first one is shown in its place, on its own frame. */
  private async leaveMissing(): Promise<void> {
    this.pictureId = '';
    const hash = this.files[headFrame(this.document, this.picture).id];
    if (hash !== this.hash) {
      this.opened = await openHash(this.library, this.stored, hash);
      this.hash = hash;
    }
    this.select(this.picture.steps.at(-1)?.id ?? null);
  }

  /** Changes the selected step. */
  changeStep(label: string, recipe: (step: Step) => void, gesture?: string): boolean {
    const { id } = this.picture;
    const { stepId } = this;
    return this.change(
      label,
      (draft) => {
        const step = draft.pictures.find((p) => p.id === id)?.steps.find((s) => s.id === stepId);
        if (step) recipe(step as Step);
      },
      gesture && `${gesture} of ${stepId}`
    );
  }

  private scheduleSave(from: number): void {
    if (!this.presence.editing) return;
    this.dirtyFrom = Math.min(this.dirtyFrom ?? from, from);
    this.saveState = 'saving';
    // Set once, not put off by each further change: a long drag is saved while it goes on.
    if (!this.saveTimer) this.saveTimer = window.setTimeout(() => void this.flush(), SAVE_AFTER);
    clearTimeout(this.thumbnailTimer);
    this.thumbnailTimer = window.setTimeout(() => void this.drawThumbnail(), THUMBNAIL_AFTER);
  }

  /** Writes what is not written yet; called at once when the page is about to go. */
  flush(): Promise<void> {
    clearTimeout(this.saveTimer);
    this.saveTimer = 0;
    if (this.dirtyFrom === null || !this.presence.editing) return this.saving;
    this.saving = this.saving.then(() => this.write());
    return this.saving;
  }

  private async write(): Promise<void> {
    if (this.dirtyFrom === null || !this.presence.editing) return;
    const from = this.dirtyFrom;
    this.dirtyFrom = null;
    const { history } = this;
    try {
      this.stored = await this.library.save(this.snapshot(), history, from);
      this.saveProblem = '';
      this.storageFull = false;
      if (this.dirtyFrom === null) this.saveState = 'saved';
      tabs.tell(this.stored.id);
    } catch (error) {
      // Written again, with all that was refused, at the next change.
      this.dirtyFrom = Math.min(this.dirtyFrom ?? from, from);
      this.saveState = 'failed';
      this.saveProblem = (error as Error).message;
      this.storageFull = error instanceof StorageError && error.full;
      if (error instanceof LostDocumentError) await this.presence.lost(error);
    }
  }

  private async drawThumbnail(): Promise<void> {
    // A missing small picture is told by the page Documents itself.
    if (!this.presence.editing) return;
    await renewThumbnail(this.library, this.snapshot()).catch(() => undefined);
    tabs.tell(this.stored.id);
  }

  async close(): Promise<void> {
    clearTimeout(this.thumbnailTimer);
    clearTimeout(this.letGoTimer);
    await this.flush();
    await this.drawThumbnail();
    this.presence.end();
  }
}
