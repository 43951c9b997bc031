import { stepsTo, type PictureSource, type SourceStep } from '../document';
import { headShape, type HeadShape, type SourceHead } from '../heads';
import { opOf } from '../ops';
import type { Frame } from '../raster/frame';
import type { Geometry } from '../raster/geometry';
import { pictureGeometry } from './plan';

type FrameOf = (hash: string) => Frame;

/** What is known of a picture without computing it: of its head, and how it lies on that. */
export interface PictureShape extends HeadShape {
  readonly head: HeadShape;
  readonly geometry: Geometry;
}

/**
 * The shape of a head.
 * @throws DocumentError where its parts do not fit together, and what `frameOf` throws
 */
export const shapeOfHead = (head: SourceHead, frameOf: FrameOf): HeadShape =>
  headShape(
    head,
    frameOf,
    head.pictures.map((picture) => ({ ...shapeOf(picture, frameOf), name: picture.name }))
  );

/** The shape of a picture at its end. @throws as `shapeOfHead` */
export function shapeOf(
  { head: source, steps: all }: Pick<PictureSource, 'head' | 'steps'>,
  frameOf: FrameOf
): PictureShape {
  const head = shapeOfHead(source, frameOf);
  const steps = stepsTo(all, 'end')!;
  const geometry = pictureGeometry(head, steps);
  const { width, height } = geometry;
  return { ...head, width, height, head, geometry, encoding: encodingAfter(steps, head.encoding) };
}

/** The encoding of a picture that was `encoding` before some steps. */
export function encodingAfter(
  steps: readonly SourceStep[],
  encoding: HeadShape['encoding']
): HeadShape['encoding'] {
  return steps.reduce((so, { op: id, params, enabled }) => {
    const op = opOf(id);
    if (!enabled) return so;
    return op.inside ? encodingAfter(op.inside(params), so) : (op.encodingAfter?.(params) ?? so);
  }, encoding);
}
