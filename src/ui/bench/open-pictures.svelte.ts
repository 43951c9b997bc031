import { framesOf, readFrameKey, type PictureSource } from '$core/document';
import type { HeadShape, SourceHead } from '$core/heads';
import { shapeOf, shapeOfHead, type PictureShape } from '$core/path/shape';
import type { Frame } from '$core/raster/frame';
import { keepFrames, openFrame, type OpenFrame } from '../services';

/** Frames that are not needed any more are let go after this time: work on them may still be under way. */
const LET_GO_AFTER = 10_000;

/** The frames of a document that are open: opened when a picture needs them, let go when none that is looked at does. */
export class OpenPictures {
  private frames = $state.raw<ReadonlyMap<string, OpenFrame>>(new Map());
  /** Content hashes of what the shown picture needs. */
  private needed: readonly string[] = [];
  /** What is worked with for a while, whatever is shown. */
  private readonly lent: (readonly string[])[] = [];
  private timer = 0;
  private closed = false;

  /** @param file gives the file of a content hash @throws Error in words for a person where there is none */
  constructor(private readonly file: (hash: string) => Promise<Blob>) {}

  /** A frame that is open; null where it is not. */
  open(hash: string): OpenFrame | null {
    return this.frames.get(hash) ?? null;
  }

  /** Opens frames one after another. @throws Error in words for a person; FileError */
  async openAll(hashes: readonly string[], signal?: AbortSignal): Promise<void> {
    for (const hash of hashes) {
      const opened = await openFrame(hash, () => this.file(readFrameKey(hash).file), signal);
      if (this.frames.get(hash) !== opened) this.frames = new Map(this.frames).set(hash, opened);
    }
  }

  /** Opens frames that stay open for `work`, whatever is shown meanwhile. @throws as `openAll`; what the work throws */
  async withOpen<T>(
    hashes: readonly string[],
    signal: AbortSignal | undefined,
    work: (frames: readonly Frame[]) => Promise<T>
  ): Promise<T> {
    this.lent.push(hashes);
    try {
      await this.openAll(hashes, signal);
      return await work(hashes.map(this.frameOf));
    } finally {
      this.lent.splice(this.lent.indexOf(hashes), 1);
      this.letGoSoon();
    }
  }

  /** The shape of a head whose frames are open; null where one is not. @throws DocumentError where its parts don't fit */
  shapeOfHead(head: SourceHead): HeadShape | null {
    return this.areOpen(framesOf([{ head, steps: [] }])) ? shapeOfHead(head, this.frameOf) : null;
  }

  /** Opens what a picture's head needs and says how large it is. @throws as `openAll`; DocumentError */
  async shapeOf(source: PictureSource): Promise<PictureShape> {
    await this.openAll(framesOf([{ head: source.head, steps: [] }]));
    return shapeOf(source, this.frameOf);
  }

  /** Says what the shown picture needs from now on; opens it, and lets the rest go after a while. @throws as `openAll` */
  async need(hashes: readonly string[]): Promise<void> {
    this.needed = hashes;
    this.letGoSoon();
    if (!this.areOpen(hashes)) await this.openAll(hashes);
  }

  /** Lets go at once of all that other documents had open. */
  letGoOfOthers(needed: readonly string[]): void {
    this.needed = needed;
    keepFrames(needed);
  }

  private letGoSoon(): void {
    clearTimeout(this.timer);
    if (this.closed) return;
    this.timer = window.setTimeout(() => this.letGo(), LET_GO_AFTER);
  }

  private letGo(): void {
    const wanted = [...this.needed, ...this.lent.flat()];
    keepFrames(wanted);
    this.frames = new Map([...this.frames].filter(([hash]) => wanted.includes(hash)));
  }

  close(): void {
    this.closed = true;
    clearTimeout(this.timer);
  }

  private areOpen(hashes: readonly string[]): boolean {
    return hashes.every((hash) => this.frames.has(hash));
  }

  private readonly frameOf = (hash: string): Frame => {
    const opened = this.frames.get(hash);
    if (!opened) throw new Error(`The frame ${hash} is not open.`);
    return opened.frame;
  };
}
