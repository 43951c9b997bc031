import { headFrame, type KrombaDocument, type Picture, type Pin, type Step } from '$core/document';
import { change, redone, undone, type HistoryEntry, type Recipe } from '$core/document/history';
import { pictureGeometry, readsPins } from '$core/path/plan';
import type { Library, StoredDocument } from '$storage/library';
import { renewThumbnail } from '../add-document';
import type { Shown } from '../viewer/tiles';
import { keepFrames, openFrame, type OpenFrame } from '../services';

const NO_PINS: readonly Pin[] = [];
const SAVE_AFTER = 250;
const THUMBNAIL_AFTER = 1500;
/** Repeated steps on one field within this time are one entry of the history. */
const SAME_GESTURE = 1200;

export type SaveState = 'saved' | 'saving' | 'failed';

/** Opens the frame at a picture's head. @throws Error in words for a person; FileError */
async function openHead(
  library: Library,
  stored: StoredDocument,
  document: KrombaDocument,
  picture: Picture,
  signal?: AbortSignal
): Promise<{ hash: string; opened: OpenFrame }> {
  const frame = headFrame(document, picture);
  const hash = stored.files[frame.id];
  const content = async (): Promise<Uint8Array> => {
    const bytes = await library.file(hash);
    if (!bytes) throw new Error(`The file “${frame.file}” is missing from this browser’s storage.`);
    return bytes;
  };
  return { hash, opened: await openFrame(hash, content, signal) };
}

/** One document being worked on: its history, what is selected, and its way into the library. */
export class Session {
  document = $state.raw<KrombaDocument>(null as unknown as KrombaDocument);
  saveState = $state<SaveState>('saved');
  /** Why the last save failed, in words for a person. */
  saveProblem = $state('');
  /** Why a picture of the document can't be shown, in words for a person. */
  pictureProblem = $state('');
  /** Content hash of the frame that the picture stands on, and the frame itself. */
  hash = $state('');
  opened = $state.raw<OpenFrame>(null as unknown as OpenFrame);
  /** The selected step; null is the head. */
  stepId = $state<string | null>(null);
  private pictureId = $state('');
  private history = $state.raw<readonly HistoryEntry[]>([]);
  private position = $state(0);
  private gesture: { key: string; base: KrombaDocument; at: number } | null = null;
  private dirtyFrom: number | null = null;
  private saveTimer = 0;
  private thumbnailTimer = 0;
  private saving: Promise<void> = Promise.resolve();

  readonly picture = $derived<Picture>(
    this.document.pictures.find((p) => p.id === this.pictureId) ?? this.document.pictures[0]
  );
  readonly step = $derived<Step | null>(this.picture.steps.find((s) => s.id === this.stepId) ?? null);
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
    this.hash = hash;
    this.opened = opened;
    this.document = stored.document;
    this.history = history;
    this.position = stored.position;
    this.pictureId = stored.selection?.picture ?? stored.document.pictures[0].id;
    this.stepId = stored.selection?.step ?? null;
  }

  /** @throws Error in words for a person when the document or its frame is not there; FileError */
  static async open(library: Library, id: string, signal: AbortSignal): Promise<Session> {
    const loaded = await library.load(id);
    if (!loaded) throw new Error('This document is not in this browser. It may have been deleted.');
    const { stored, history } = loaded;
    const { document } = stored;
    const picture = document.pictures.find((p) => p.id === stored.selection?.picture) ?? document.pictures[0];
    if (!picture) throw new Error(`“${document.name}” holds no picture.`);
    keepFrames([stored.files[headFrame(document, picture).id]]);
    const { hash, opened } = await openHead(library, stored, document, picture, signal);
    return new Session(library, stored, history, hash, opened);
  }

  private activeBefore(step: Step | null): number {
    if (!step) return 0;
    const { steps } = this.picture;
    return steps.slice(0, steps.indexOf(step)).filter((s) => s.enabled).length;
  }

  /** What a view of the picture after `steps` shows; the steps before the selected one are held. */
  source(steps: readonly Step[]): Omit<Shown, 'view'> {
    const { frame } = this.opened;
    return {
      hash: this.hash,
      frame,
      steps,
      hold: Math.min(this.before, steps.length),
      pins: readsPins(steps) ? this.document.pins : NO_PINS,
      geometry: pictureGeometry(frame, steps)
    };
  }

  /** Goes to another picture of the document, with its last step selected; its frame is opened where it has another. */
  async showPicture(id: string, stepId?: string | null): Promise<void> {
    const { document } = this;
    const picture = document.pictures.find((p) => p.id === id);
    if (!picture || id === this.picture.id) return;
    this.pictureProblem = '';
    if (headFrame(document, picture).id !== headFrame(document, this.picture).id) {
      try {
        const head = await openHead(this.library, this.stored, document, picture);
        this.hash = head.hash;
        this.opened = head.opened;
        keepFrames([head.hash]);
      } catch (error) {
        this.pictureProblem = `“${picture.name}” can’t be shown: ${(error as Error).message} The picture before it stays.`;
        return;
      }
    }
    this.pictureId = id;
    this.select(stepId === undefined ? (picture.steps.at(-1)?.id ?? null) : stepId);
  }

  select(stepId: string | null): void {
    this.stepId = stepId;
    this.gesture = null;
    this.scheduleSave(this.position);
  }

  /**
   * Does one thing to the document. Changes with the same `gesture` that follow each other closely are one
   * entry: each is made on the document as it was when the gesture began, so `recipe` sets whole values.
   */
  change(label: string, recipe: Recipe, gesture?: string): void {
    const now = performance.now();
    const goesOn =
      gesture !== undefined && this.gesture?.key === gesture && now - this.gesture.at < SAME_GESTURE;
    const base = goesOn ? this.gesture!.base : this.document;
    const from = goesOn ? this.position - 1 : this.position;
    const { document, entry } = change(base, label, recipe);
    if (!entry && !goesOn) return;
    this.history = [...this.history.slice(0, from), ...(entry ? [entry] : [])];
    this.position = this.history.length;
    this.document = document;
    this.gesture = gesture !== undefined && entry ? { key: gesture, base, at: now } : null;
    this.scheduleSave(from);
  }

  endGesture(): void {
    this.gesture = null;
  }

  undo(): void {
    if (this.position === 0) return;
    this.document = undone(this.document, this.history[this.position - 1]);
    this.moveTo(this.position - 1);
  }

  redo(): void {
    if (this.position === this.history.length) return;
    this.document = redone(this.document, this.history[this.position]);
    this.moveTo(this.position + 1);
  }

  private moveTo(position: number): void {
    this.position = position;
    this.gesture = null;
    this.scheduleSave(this.history.length);
  }

  /** Changes the selected step. */
  changeStep(label: string, recipe: (step: Step) => void, gesture?: string): void {
    const { id } = this.picture;
    const { stepId } = this;
    this.change(
      label,
      (draft) => {
        const step = draft.pictures.find((p) => p.id === id)?.steps.find((s) => s.id === stepId);
        if (step) recipe(step as Step);
      },
      gesture && `${gesture} of ${stepId}`
    );
  }

  private scheduleSave(from: number): void {
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
    if (this.dirtyFrom === null) return this.saving;
    const from = this.dirtyFrom;
    this.dirtyFrom = null;
    const { history } = this;
    const modified = this.document !== this.stored.document;
    const stored: StoredDocument = {
      ...this.stored,
      document: this.document,
      position: this.position,
      selection: { picture: this.picture.id, step: this.stepId },
      modifiedAt: modified ? Date.now() : this.stored.modifiedAt
    };
    this.saving = this.library.save(stored, history, from).then(
      () => {
        this.stored = stored;
        this.saveProblem = '';
        if (this.dirtyFrom === null) this.saveState = 'saved';
      },
      (error: Error) => {
        // Written again, with all that was refused, at the next change.
        this.dirtyFrom = Math.min(this.dirtyFrom ?? from, from);
        this.saveState = 'failed';
        this.saveProblem = error.message;
      }
    );
    return this.saving;
  }

  private async drawThumbnail(): Promise<void> {
    // A missing small picture is told by the light table itself.
    await renewThumbnail(this.library, { ...this.stored, document: this.document }).catch(() => undefined);
  }

  async close(): Promise<void> {
    clearTimeout(this.thumbnailTimer);
    await this.flush();
    await this.drawThumbnail();
  }
}
