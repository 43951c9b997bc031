import { maskOf, type Mask, type MaskTerm, type Stroke } from '../document/mask';

/** Where a stroke goes: the term, the stroke as it is laid down there, and the term to be added first where it is a new one. */
export interface StrokePlace {
  readonly at: number;
  readonly stroke: Stroke;
  readonly added: MaskTerm | null;
}

/** Whether what a paint term lays down is taken away from the mask: it is joined by “but not”, or inverted as the first. */
function takesAway({ combine, invert }: MaskTerm, at: number): boolean {
  return at === 0 ? invert : (combine === 'subtract') !== invert;
}

/**
 * Where a stroke goes so that painting adds to the mask and erasing takes away from it, whatever its terms are: into the last
 * term where that is paint of its kind, or paint alone; else into a new one behind all others, joined by “or”, or by “but
 * not” where it erases.
 * @param selected a paint term that is worked on though others come behind it: strokes go into it
 */
export function placeOfStroke({ terms }: Mask, stroke: Stroke, selected = -1): StrokePlace {
  const last = terms.length - 1;
  const into = (at: number, erase: boolean): StrokePlace => ({
    at,
    stroke: { ...stroke, erase },
    added: null
  });
  const isPaint = (at: number): boolean => terms[at]?.source.kind === 'paint';
  if (isPaint(selected) && selected < last) {
    return into(selected, stroke.erase !== takesAway(terms[selected], selected));
  }
  if (isPaint(last)) {
    if (takesAway(terms[last], last) === stroke.erase) return into(last, false);
    // Nothing else is in the mask: what was laid down can itself be erased.
    if (last === 0) return into(0, true);
  }
  // The first term starts the mask: everywhere, without what is erased.
  const how = last < 0 ? { invert: stroke.erase } : {};
  const paint = { kind: 'paint' as const, strokes: [] };
  const [added] = maskOf(paint, { combine: stroke.erase ? 'subtract' : 'add', ...how }).terms;
  return { at: last + 1, stroke: { ...stroke, erase: false }, added };
}

/** Lays a stroke down in its place, in place. */
export function takeStroke(mask: Mask, { at, stroke, added }: StrokePlace): void {
  if (added) mask.terms.push(structuredClone(added));
  const { source } = mask.terms[at];
  if (source.kind === 'paint') source.strokes.push(stroke);
}

/** The mask with a stroke in its place; the rest of it is shared. */
export function withStroke(mask: Mask, { at, stroke, added }: StrokePlace): Mask {
  const terms = added ? [...mask.terms, added] : mask.terms;
  return {
    ...mask,
    terms: terms.map((term, i) =>
      i === at && term.source.kind === 'paint'
        ? { ...term, source: { ...term.source, strokes: [...term.source.strokes, stroke] } }
        : term
    )
  };
}
