import { pinsOf, pinsRead, stepsTo, type Picture, type Place } from '$core/document';
import { pictureGeometry } from '$core/path/plan';
import type { Shown } from '../viewer/shown';
import type { Session } from './session.svelte';

/** Why a place of a picture shows nothing. */
export type NotShown = 'gone' | 'opening';

/** What a view of any picture of the document shows at one of its places. */
export function shownAt(
  session: Session,
  picture: Picture | undefined,
  place: Place
): Omit<Shown, 'view'> | NotShown {
  const way = picture && stepsTo(picture.steps, place);
  if (!picture || !way) return 'gone';
  const { head, steps } = session.resolver.whole(picture);
  const shape = session.pictures.shapeOfHead(head);
  if (!shape) return 'opening';
  const pins = pinsRead(way, pinsOf(session.document, picture.id));
  const geometry = pictureGeometry(shape, way);
  return { head, steps, at: place, hold: null, pins, levels: shape.levels, geometry };
}
