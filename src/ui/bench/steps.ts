import type { Step } from '$core/document';
import { stepSchema } from '$core/document';
import type { Session } from './session.svelte';

/** A new mix that changes nothing, with an id of its own. */
const newMix = (): Step =>
  stepSchema.parse({ id: `s-${crypto.randomUUID().slice(0, 8)}`, op: 'mix', params: {} });

/** Puts a mix after the selected step and selects it. */
export function addMix(session: Session): void {
  const step = newMix();
  const { picture, step: selected } = session;
  const at = selected ? picture.steps.indexOf(selected) + 1 : 0;
  session.change('Add a mix', (draft) => {
    draft.pictures.find((p) => p.id === picture.id)?.steps.splice(at, 0, step);
  });
  session.select(step.id);
}

/** Takes a step out of the path and selects the one before it. */
export function removeStep(session: Session, step: Step): void {
  const { picture } = session;
  const at = picture.steps.indexOf(step);
  session.change('Remove a step', (draft) => {
    draft.pictures.find((p) => p.id === picture.id)?.steps.splice(at, 1);
  });
  session.select(picture.steps[at - 1]?.id ?? null);
}

export function toggleStep(session: Session, step: Step): void {
  const { id } = session.picture;
  session.change(step.enabled ? 'Switch a step off' : 'Switch a step on', (draft) => {
    const found = draft.pictures.find((p) => p.id === id)?.steps.find((s) => s.id === step.id);
    if (found) found.enabled = !step.enabled;
  });
}
