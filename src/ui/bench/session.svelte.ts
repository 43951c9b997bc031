import { paramsOf } from '$core/ops/op';
import {
  changeProblem,
  findStep,
  framesOf,
  parseDocument,
  type KrombaDocument,
  type PictureSource,
  type SourcePicture,
  type Step
} from '$core/document';
import { change, redone, undone, type HistoryEntry, type Recipe } from '$core/document/history';
import type { Bundle } from '$core/files/bundle';
import type { PictureShape } from '$core/path/shape';
import {
  LostDocumentError,
  type Library,
  type LoadedDocument,
  type Looking,
  type StoredDocument
} from '$storage/library';
import { renewThumbnail } from '../add-document';
import { tabs } from '../services';
import { WhenAtRest } from '../when-at-rest';
import { Additions } from './additions.svelte';
import { Cursor } from './cursor.svelte';
import { DocumentFiles } from './document-files.svelte';
import { OpenPictures } from './open-pictures.svelte';
import { movedElsewhere } from './pins';
import { Saving } from './saving.svelte';
import { NOT_HERE, Presence } from './presence.svelte';

const THUMBNAIL_AFTER = 1500;
/** Repeated steps on one field within this time are one entry of the history. */
const SAME_GESTURE = 1200;

/** Content hashes of the frames that the head of a picture is read from. */
const headFrames = ({ head }: Pick<PictureSource, 'head'>): string[] => framesOf([{ head, steps: [] }]);

/** A picture for workers, of what a view shows. */
export const pictureOf = ({ head, steps, pins }: PictureSource): PictureSource => ({ head, steps, pins });

/** A stored document as this version has it: what an earlier one wrote is brought up to date. @throws DocumentError */
const current = (stored: StoredDocument): StoredDocument => ({
  ...stored,
  document: parseDocument(stored.document)
});

/** Changes that are not made, and the document as it would be after them. */
interface Supposed {
  document: KrombaDocument;
  readonly recipes: Recipe[];
  refused: boolean;
}

/** One document being worked on: its history, what is selected, and its way into the library. */
export class Session {
  document = $state.raw<KrombaDocument>(null as unknown as KrombaDocument);
  readonly saving: Saving;
  /** What this tab is to the document beside other tabs. */
  readonly presence: Presence;
  /** Why a picture of the document can't be shown, in words for a person. */
  pictureProblem = $state('');
  /** The picture whose frame is being opened. */
  opening = $state('');
  /** Why the last change was not made, in words for a person. */
  refusal = $state('');
  /** What a person is told after something was done. */
  notice = $state('');
  readonly pictures: OpenPictures;
  readonly files: DocumentFiles;
  readonly additions = new Additions();
  /** How it is looked at, to be found again. */
  looking = $state.raw<Looking>({});
  /** Pictures that are seen beside the one that is worked on. */
  private seen: readonly string[] = [];
  private history = $state.raw<readonly HistoryEntry[]>([]);
  private position = $state(0);
  /** Changes are only supposed, while something is tried. */
  private supposing: Supposed | null = null;
  private gesture: { key: string; base: KrombaDocument; at: number } | null = null;
  private readonly smallPicture = new WhenAtRest(THUMBNAIL_AFTER);
  private isClosed = false;

  readonly resolver = $derived.by(() => this.files.resolverOf(this.document));
  /** Where it is worked on. */
  readonly cursor: Cursor;
  readonly undoLabel = $derived(this.position > 0 ? this.history[this.position - 1].label : null);
  readonly redoLabel = $derived(
    this.position < this.history.length ? this.history[this.position].label : null
  );

  /** Of the document in the library. */
  get id(): string {
    return this.stored.id;
  }

  private constructor(
    readonly library: Library,
    private stored: StoredDocument,
    history: readonly HistoryEntry[]
  ) {
    this.presence = new Presence(this, library, stored.id);
    this.files = new DocumentFiles(library);
    this.pictures = new OpenPictures((hash) => this.files.read(hash, this.stored));
    this.saving = new Saving({
      write: (from) => this.write(from),
      mayWrite: () => this.presence.editing,
      failed: async (error) => {
        if (error instanceof LostDocumentError) await this.presence.lost(error);
      }
    });
    this.document = stored.document;
    this.files.hashes = stored.files;
    this.history = history;
    this.position = stored.position;
    this.cursor = new Cursor(this);
    this.cursor.pictureId = stored.selection?.picture ?? stored.document.pictures[0].id;
    this.cursor.stepId = stored.selection?.step ?? null;
    this.looking = stored.selection?.looking ?? {};
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
    const session = new Session(library, stored, history);
    await session.openTables(stored);
    session.pictures.letGoOfOthers(session.resolver.framesOf(session.cursor.picture));
    await session.pictures.openAll(headFrames(session.cursor.source), signal);
    // Says in words where the parts of a head do not fit together.
    session.pictures.shapeOfHead(session.cursor.source.head);
    await session.presence.begin();
    void session.openBeside();
    void session.files.holdContents();
    void session.drawFirstThumbnail();
    return session;
  }

  /** Opens the tables of a document before it is shown. One that can't be read is told; its steps wait for it. */
  private async openTables(stored: StoredDocument): Promise<void> {
    try {
      await this.files.openTables(stored);
    } catch (error) {
      this.pictureProblem = `${(error as Error).message} Steps that take it can’t be computed; all else works.`;
    }
  }

  /** Takes over what another tab has written. Changes of this tab that are not written yet stay. */
  async adopt({ stored, history }: LoadedDocument): Promise<void> {
    if (this.saving.isDue || stored.revision === this.stored.revision) {
      this.stored = { ...this.stored, revision: stored.revision };
      return;
    }
    stored = current(stored);
    await this.openTables(stored);
    this.stored = stored;
    this.files.hashes = stored.files;
    const { steps } = this.cursor.picture;
    this.document = stored.document;
    this.history = history;
    this.position = stored.position;
    this.gesture = null;
    this.saving.settle();
    void this.files.holdContents();
    if (!this.document.pictures.some((p) => p.id === this.cursor.pictureId)) await this.leaveMissing();
    else this.cursor.stay(steps);
    await this.openBeside();
  }

  /** Writes the document, its history and its files whole. @throws StorageError */
  async putBack(): Promise<void> {
    await this.files.holdContents();
    this.saving.drop();
    this.stored = await this.library.putBack(this.snapshot(), this.history, this.files.contents);
    this.saving.settle();
  }

  /** The document with what belongs to it, to be handed on as a file. */
  async asBundle(): Promise<Bundle> {
    return { document: this.document, files: await this.files.of(this.document) };
  }

  private snapshot(): StoredDocument {
    const modified = this.document !== this.stored.document;
    return {
      ...this.stored,
      document: this.document,
      files: this.files.hashes,
      position: this.position,
      selection: { picture: this.cursor.picture.id, step: this.cursor.stepId, looking: this.looking },
      modifiedAt: modified ? Date.now() : this.stored.modifiedAt
    };
  }

  /** Whether a change can be made here; says why not. */
  mayChange(): boolean {
    if (this.presence.editing) return true;
    this.refusal = NOT_HERE[this.presence.state as 'following'].replace(/\.$/, '');
    return false;
  }

  /** Opens the frames of what is seen and of the pictures that it refers to; what needs them waits until they are there. */
  private async openBeside(): Promise<void> {
    const others = this.document.pictures.filter(({ id }) => this.seen.includes(id));
    const seen = new Set([this.cursor.picture, ...others].flatMap(this.resolver.framesOf));
    try {
      await this.pictures.need([...seen]);
    } catch (error) {
      const what = others.length > 0 ? 'is seen here, or that one of those takes from,' : 'it takes from';
      this.pictureProblem = `“${this.cursor.picture.name}” is shown, but a picture that ${what} can’t be opened: ${(error as Error).message} What needs it waits for it; all else works.`;
    }
  }

  /** Has pictures open beside the one that is worked on, to be seen. */
  see(pictures: readonly string[]): void {
    this.seen = pictures;
    void this.openBeside();
  }

  /** Keeps how it is looked at. */
  look<K extends keyof Looking>(part: K, how: Looking[K]): void {
    this.looking = { ...this.looking, [part]: how };
    this.scheduleSave(this.position);
  }

  /** What workers take for a picture of the document at its end, or after one of its steps. */
  sourceOf(picture: string, after?: string): SourcePicture | null {
    return this.resolver.picture(after === undefined ? { picture } : { picture, after }) ?? null;
  }

  /** Opens what the head of a picture needs, and says how large the picture is. @throws Error in words for a person; FileError */
  async shapeOf(id: string): Promise<PictureShape> {
    const source = this.sourceOf(id);
    if (!source) throw new Error('This picture is not in the document any more.');
    return this.pictures.shapeOf(source);
  }

  /** Goes to another picture of the document, with its last step selected; its frame is opened where it has another. */
  async showPicture(id: string, stepId?: string | null): Promise<void> {
    const { document } = this;
    const picture = document.pictures.find((p) => p.id === id);
    if (!picture || id === this.cursor.picture.id) return;
    this.pictureProblem = '';
    try {
      const { head } = this.resolver.whole(picture);
      // What is open already is shown at once.
      if (!this.pictures.shapeOfHead(head)) {
        this.opening = id;
        await this.pictures.openAll(headFrames({ head }));
        this.pictures.shapeOfHead(head);
      }
    } catch (error) {
      this.pictureProblem = `“${picture.name}” can’t be shown: ${(error as Error).message} The picture before it stays.`;
      return;
    } finally {
      this.opening = '';
    }
    this.cursor.pictureId = id;
    this.select(stepId === undefined ? (picture.steps.at(-1)?.id ?? null) : stepId);
    await this.openBeside();
  }

  select(stepId: string | null): void {
    this.cursor.select(stepId);
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
    if (this.supposing) return this.suppose(recipe);
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
    this.notice = movedElsewhere(base, document, this.cursor.picture.id) ?? this.notice;
    this.history = [...this.history.slice(0, from), ...(entry ? [entry] : [])];
    this.position = this.history.length;
    this.document = document;
    this.gesture = gesture !== undefined && entry ? { key: gesture, base, at: now } : null;
    this.scheduleSave(from);
    void this.openBeside();
    return true;
  }

  endGesture(): void {
    if (!this.supposing) this.gesture = null;
  }

  /** The document as it would be after the changes that `work` asks for, none of which is made; null where one can't be. */
  whatIf(work: () => void): KrombaDocument | null {
    return this.supposed(work)?.document ?? null;
  }

  /** Makes all changes that `work` asks for in one, with one entry in the history. @returns whether it was made */
  asOne(label: string, work: () => void): boolean {
    const supposed = this.supposed(work);
    return (
      supposed !== null && this.change(label, (draft) => supposed.recipes.forEach((recipe) => recipe(draft)))
    );
  }

  private supposed(work: () => void): Supposed | null {
    const supposed: Supposed = { document: this.document, recipes: [], refused: false };
    this.supposing = supposed;
    try {
      work();
    } finally {
      this.supposing = null;
    }
    return supposed.refused ? null : supposed;
  }

  private suppose(recipe: Recipe): boolean {
    const supposed = this.supposing!;
    const { document } = change(supposed.document, '', recipe);
    supposed.refused ||= changeProblem(supposed.document, document) !== null;
    supposed.document = document;
    supposed.recipes.push(recipe);
    return !supposed.refused;
  }

  undo(): void {
    if (this.position === 0 || !this.mayChange()) return;
    this.moveTo(this.position - 1, undone(this.document, this.history[this.position - 1]));
  }

  redo(): void {
    if (this.position === this.history.length || !this.mayChange()) return;
    this.moveTo(this.position + 1, redone(this.document, this.history[this.position]));
  }

  private moveTo(position: number, document: KrombaDocument): void {
    this.notice = movedElsewhere(this.document, document, this.cursor.picture.id) ?? this.notice;
    const { steps } = this.cursor.picture;
    this.document = document;
    this.position = position;
    this.gesture = null;
    this.scheduleSave(this.history.length);
    if (!this.document.pictures.some((p) => p.id === this.cursor.pictureId)) void this.leaveMissing();
    else this.cursor.stay(steps);
    void this.openBeside();
  }

  /** A picture that was shown is gone by undo: the first one is shown in its place, on its own frame. */
  private async leaveMissing(): Promise<void> {
    this.cursor.pictureId = '';
    await this.openBeside();
    this.select(this.cursor.picture.steps.at(-1)?.id ?? null);
  }

  /** Changes the selected step. */
  changeStep(label: string, recipe: (step: Step) => void, gesture?: string): boolean {
    const { id } = this.cursor.picture;
    const { stepId } = this.cursor;
    return this.change(
      label,
      (draft) => {
        const steps = draft.pictures.find((p) => p.id === id)?.steps as Step[] | undefined;
        const step = stepId === null ? undefined : findStep(steps ?? [], stepId);
        if (step) recipe(step);
      },
      gesture && `${gesture} of ${stepId}`
    );
  }

  /** Changes the parameters of the selected step, which is one of `op`; see `change`. */
  changeParams<P>(
    op: Parameters<typeof paramsOf<P>>[0],
    label: string,
    recipe: (params: P) => void,
    gesture?: string
  ): boolean {
    return this.changeStep(label, (step) => recipe(paramsOf(op, step)), gesture);
  }

  private scheduleSave(from: number): void {
    if (!this.presence.editing) return;
    this.saving.schedule(from);
    this.drawThumbnailSoon();
  }

  /** @throws StorageError */
  private async write(from: number): Promise<void> {
    this.stored = await this.library.save(this.snapshot(), this.history, from);
    tabs.tell(this.stored.id);
  }

  private drawThumbnailSoon(): void {
    this.smallPicture.ask(() => void this.drawThumbnail());
  }

  /** What was just added has no small picture yet; the picture itself comes first. */
  private async drawFirstThumbnail(): Promise<void> {
    const known = await this.library.thumbnail(this.stored.id).catch(() => null);
    if (!known && !this.isClosed) this.drawThumbnailSoon();
  }

  private async drawThumbnail(): Promise<void> {
    // A missing small picture is told by the page Documents itself.
    if (!this.presence.editing) return;
    await renewThumbnail(this.library, this.snapshot()).catch(() => undefined);
  }

  async close(): Promise<void> {
    // As long as something comes in, the document is this tab's.
    await this.additions.whenIdle();
    this.isClosed = true;
    this.smallPicture.stop();
    this.pictures.close();
    await this.saving.flush();
    await this.drawThumbnail();
    this.presence.end();
  }
}
