import { frameKey, framesOf, referenceKey, type Picture, type Place, type Reference } from '$core/document';
import { takenOf, type Taken } from '$core/files/fits/told';
import { headKind } from '$core/heads';
import type { Session } from './session.svelte';

/** A picture that a head is made of, or a grey frame beside others. */
export interface Input {
  readonly key: string;
  readonly picture: Picture;
  readonly place: Place;
  /** What it was taken with, where it is a frame. */
  readonly taken: Taken | null;
}

/** More than this, in bytes, is not opened for being looked at together. */
const MOST = 640 * 2 ** 20;

/** What the shown picture's head is made of; beside a grey frame, the document's other frames; empty where there is one alone. */
export function inputsOf(session: Session): readonly Input[] {
  const { document, cursor } = session;
  const input = ({ picture: id, after }: Reference): Input[] => {
    const picture = document.pictures.find((p) => p.id === id);
    const place = after === undefined ? 'end' : after === 'head' ? 'head' : { after };
    const key = referenceKey({ picture: id, ...(after !== undefined && { after }) });
    return picture ? [{ key, picture, place, taken: takenWith(session, picture) }] : [];
  };
  const { head } = cursor.picture;
  const used = headKind(head.kind).uses(head);
  if (used.length > 0) {
    const keys = used.map(referenceKey);
    return used.filter((_, i) => keys.indexOf(keys[i]) === i).flatMap(input);
  }
  const [own] = cursor.headFrames;
  if (!own || own.opened.frame.layout !== 'grey') return [];
  const frames = document.pictures.filter((picture) => picture.head.kind === 'frame');
  const first = frames.filter(
    ({ head }, i) => frames.findIndex((p) => JSON.stringify(p.head) === JSON.stringify(head)) === i
  );
  const bytes = own.opened.frame.levels[0].samples.byteLength;
  if (first.length < 2 || first.length * bytes > MOST) return [];
  return first.flatMap(({ id }) => input({ picture: id, after: 'head' }));
}

function takenWith({ document, files, pictures }: Session, { head }: Picture): Taken | null {
  const [one, ...others] = headKind(head.kind).frames(head);
  const frame = one && document.frames.find((f) => f.id === one.id);
  if (!frame || others.length > 0) return null;
  return takenOf(pictures.open(frameKey(files.hashes[frame.id], frame))?.frame.fits, frame.file);
}

/** The frames that inputs are read from, as keys. */
export const framesOfInputs = (session: Session, inputs: readonly Input[]): string[] => [
  ...new Set(inputs.flatMap(({ picture }) => framesOf([session.resolver.whole(picture)])))
];
