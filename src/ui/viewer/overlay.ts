import type { Point } from '$core/raster/geometry';
import type { Placement, Size } from './viewport.svelte';

/** A place of the picture in CSS pixels from the upper left of the view. */
export function onView(placement: Placement, view: Size, { x, y }: Point): Point {
  const scale = window.devicePixelRatio;
  return {
    x: (view.width / 2 + (x - placement.x) * placement.zoom) / scale,
    y: (view.height / 2 + (y - placement.y) * placement.zoom) / scale
  };
}

/** The place of the picture under a place of the view, given in CSS pixels from its upper left. */
export function onPicture(placement: Placement, view: Size, { x, y }: Point): Point {
  const scale = window.devicePixelRatio;
  return {
    x: placement.x + (x * scale - view.width / 2) / placement.zoom,
    y: placement.y + (y * scale - view.height / 2) / placement.zoom
  };
}

/** Where a pointer is over an element, in CSS pixels from its upper left. */
export function over(element: Element, event: PointerEvent | MouseEvent): Point {
  const box = element.getBoundingClientRect();
  return { x: event.clientX - box.left, y: event.clientY - box.top };
}
