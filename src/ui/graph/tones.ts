import type { Histogram } from '$core/measure/histogram';

/**
 * A histogram as the points of an SVG shape `width`×`height`: heights by the root of the counts, so that small peaks are
 * seen beside large ones; the clipped ends don't set the scale.
 */
export function tonePath({ counts }: Histogram, width: number, height: number, closed: boolean): string {
  const inner = Array.from(counts.slice(1, -1), Math.sqrt);
  const most = Math.max(1, ...inner);
  const points = Array.from(counts, (count, i) => {
    const x = ((i + 0.5) / counts.length) * width;
    const y = height - Math.min(1, Math.sqrt(count) / most) * (height - 2);
    return `${x.toFixed(1)},${y.toFixed(1)}`;
  });
  return closed ? `0,${height} ${points.join(' ')} ${width},${height}` : points.join(' ');
}

/** A place on an SVG in its own units, from a pointer. */
export function placeOn(svg: SVGSVGElement, event: PointerEvent | MouseEvent): { x: number; y: number } {
  const box = svg.getBoundingClientRect();
  const view = svg.viewBox.baseVal;
  return {
    x: view.x + ((event.clientX - box.left) / box.width) * view.width,
    y: view.y + ((event.clientY - box.top) / box.height) * view.height
  };
}
