import type { Size } from '../viewer/viewport.svelte';

/** In how many columns so many pictures of one shape are seen largest on a stage, beside each other. */
export function columnsFor(count: number, picture: Size, stage: Size): number {
  const zoom = (columns: number): number =>
    Math.min(
      stage.width / columns / picture.width,
      stage.height / Math.ceil(count / columns) / picture.height
    );
  const all = Array.from({ length: count }, (_, i) => i + 1);
  return all.reduce((best, columns) => (zoom(columns) > zoom(best) ? columns : best), 1);
}
