import {
  findStep,
  frameKey,
  groupAround,
  insideOf,
  pinsOf,
  pinsRead,
  stepsTo,
  wayTo,
  type KrombaDocument,
  type Picture,
  type PictureSource,
  type Pin,
  type Place,
  type Resolver,
  type Step
} from '$core/document';
import { headKind, type HeadShape } from '$core/heads';
import { pictureGeometry } from '$core/path/plan';
import { encodingAfter } from '$core/path/shape';
import type { Shown } from '../viewer/shown';
import type { DocumentFiles } from './document-files.svelte';
import type { OpenPictures } from './open-pictures.svelte';

/** What is gone through. */
interface Gone {
  readonly document: KrombaDocument;
  readonly resolver: Resolver;
  readonly pictures: OpenPictures;
  readonly files: Pick<DocumentFiles, 'hashes'>;
}

/** Where a document is worked on: the picture, the step, and what stands before and after it. */
export class Cursor {
  /** The selected step; null is the head. */
  stepId = $state<string | null>(null);
  pictureId = $state('');
  /** Steps that were selected until they were gone, and what is selected in the place of each, the last one last. */
  private left: { readonly step: string; readonly instead: string | null }[] = [];

  constructor(private readonly gone: Gone) {}

  select(stepId: string | null): void {
    this.stepId = stepId;
    this.left = [];
  }

  /**
   * Where the path has become another than it was by undo or redo, or in another tab, and the selected step is gone: the last of those
   * that it held, or the one before it, is selected until it is there again.
   */
  stay(was: readonly Step[]): void {
    const { steps } = this.picture;
    const isThere = (step?: { id: string }): boolean => !!step && findStep(steps, step.id) !== undefined;
    const { stepId: id } = this;
    if (id !== null && !isThere({ id })) {
      const former = findStep(was, id);
      const inside = former && insideOf(former).findLast(isThere);
      const near = inside ?? wayTo(was, id).findLast(isThere) ?? [groupAround(was, id)].find(isThere);
      this.stepId = near?.id ?? null;
      this.left.push({ step: id, instead: this.stepId });
      return;
    }
    const last = this.left.at(-1);
    if (!last || last.instead !== id || !isThere({ id: last.step })) return;
    this.left.pop();
    this.stepId = last.step;
  }

  readonly picture = $derived.by<Picture>(() => {
    const { pictures } = this.gone.document;
    return pictures.find((p) => p.id === this.pictureId) ?? pictures[0];
  });
  /** The picture for workers, with all its steps. */
  readonly source = $derived.by<PictureSource>(() => this.gone.resolver.whole(this.picture));
  private lastHead: HeadShape = null as unknown as HeadShape;
  /** The shape of its head; while that is being opened, that of the one before. */
  readonly head = $derived.by<HeadShape>(() => {
    try {
      this.lastHead = this.gone.pictures.shapeOfHead(this.source.head) ?? this.lastHead;
    } catch {
      // Parts that do not fit are told where they are computed.
    }
    return this.lastHead;
  });
  /** The frames that the head is read from, those that are open. */
  readonly headFrames = $derived.by(() => {
    const { document, pictures, files } = this.gone;
    const { head } = this.picture;
    return headKind(head.kind)
      .frames(head)
      .flatMap(({ id }) => {
        const frame = document.frames.find((f) => f.id === id);
        const opened = pictures.open(frameKey(files.hashes[id], frame));
        return opened && frame ? [{ frame, opened }] : [];
      });
  });
  readonly step = $derived.by<Step | null>(() =>
    this.stepId === null ? null : (findStep(this.picture.steps, this.stepId) ?? null)
  );
  /** The pins of the picture: its own and those that belong to all. */
  readonly pins = $derived.by<readonly Pin[]>(() => pinsOf(this.gone.document, this.picture.id));
  /** Steps that count, in order. */
  readonly active = $derived.by<readonly Step[]>(() => this.picture.steps.filter((s) => s.enabled));
  /** The places before and after the selected step. */
  readonly into = $derived.by<Place>(() => (this.step ? { before: this.step.id } : 'head'));
  readonly outOf = $derived.by<Place>(() => (this.step ? { after: this.step.id } : 'head'));
  /** The steps that lead to the selected one. */
  readonly stepsBefore = $derived.by<readonly Step[]>(() => stepsTo(this.picture.steps, this.into) ?? []);
  /** Encoding of what comes into the selected step, and of what goes out of it. */
  readonly encoding = $derived.by(() => encodingAfter(this.stepsBefore, this.head.encoding));
  readonly encodingOut = $derived.by(() =>
    encodingAfter(stepsTo(this.picture.steps, this.outOf) ?? [], this.head.encoding)
  );
  /** The shape of the picture at its end. */
  readonly shape = $derived.by(() => ({
    ...this.head,
    ...pictureGeometry(this.head, this.active),
    encoding: encodingAfter(this.active, this.head.encoding)
  }));

  /** What a view of the picture at a place of its path shows; what comes into the selected step is held. */
  at(place: Place, steps: readonly Step[] = this.picture.steps): Omit<Shown, 'view'> {
    return this.view(this.gone.resolver.steps(steps), place, this.stepId);
  }

  /** What a view of the picture after other steps than its own shows; what comes into the last of them is held. */
  showing(steps: readonly Step[]): Omit<Shown, 'view'> {
    return this.view(this.gone.resolver.steps(steps), 'end', steps.at(-1)?.id ?? null);
  }

  private view(steps: PictureSource['steps'], at: Place, hold: string | null): Omit<Shown, 'view'> {
    const way = stepsTo(steps, at) ?? [];
    const { head } = this.source;
    return {
      ...{ head, steps, at, hold },
      levels: this.head.levels,
      pins: pinsRead(way, this.pins),
      geometry: pictureGeometry(this.head, way)
    };
  }
}
