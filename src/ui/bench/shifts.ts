import { paramsOf } from '$core/ops/op';
import { allSteps, findStep, type Step } from '$core/document';
import type { Shift } from '$core/measure/shift';
import { merge } from '$core/ops/merge';
import { pool } from '../services';
import type { Session } from './session.svelte';

/** From here on a peak stands out of everything else. */
const CERTAIN = 8;
/** Full-size pixels in one direction that are seen along an edge; rounding to whole ones stays under it. */
const SEEN = 0.6;

export const isSure = ({ certainty }: Shift): boolean => certainty >= CERTAIN;

type Pixels = [number, number];
const rounded =
  (parts: number) =>
  ({ x, y }: { readonly x: number; readonly y: number }): Pixels => [
    Math.round(x * parts) / parts,
    Math.round(y * parts) / parts
  ];
export const wholePixels = rounded(1);
export const partsOfPixels = rounded(100);

/** Measures how far what a merge step takes from lies beside the picture. @throws Error in words for a person; FileError */
export async function measuredShift(session: Session, step: Step): Promise<Shift | null> {
  const { from } = paramsOf(merge, step);
  if (!from) return null;
  await session.shapeOf(from.picture);
  const other = session.sourceOf(from.picture, from.after);
  if (!other) return null;
  const ask = { ...session.cursor.source, at: { before: step.id }, other };
  return (await pool.run('shift', ask, { priority: 2 })).shift;
}

/** A merge whose two pictures do not lie on each other. */
export interface LeftOut {
  readonly step: Step;
  /** What would put it right. */
  readonly shift: Pixels;
}

/** The merges of the picture that have a shift which is surely seen, and not corrected. */
export async function leftOut(session: Session): Promise<LeftOut[]> {
  const merges = allSteps(session.cursor.active).filter(
    (step) =>
      step.enabled && step.op === merge.id && Object.values(paramsOf(merge, step).reach).some((r) => r > 0)
  );
  const found: LeftOut[] = [];
  for (const step of merges) {
    const measured = await measuredShift(session, step);
    if (!measured || !isSure(measured)) continue;
    const { shift } = paramsOf(merge, step);
    const away = Math.max(Math.abs(measured.x - shift[0]), Math.abs(measured.y - shift[1]));
    if (away > SEEN) found.push({ step, shift: partsOfPixels(measured) });
  }
  return found;
}

export function correctShift(session: Session, { step, shift }: LeftOut): void {
  const picture = session.cursor.picture.id;
  session.change('Correct the shift', (draft) => {
    const steps = draft.pictures.find((p) => p.id === picture)?.steps;
    const found = findStep((steps ?? []) as Step[], step.id);
    if (found) paramsOf(merge, found).shift = shift;
  });
}
