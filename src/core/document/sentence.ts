import { isAllTones } from '../blend/limits';
import { modelOf } from '../colour';
import { opOf } from '../ops';
import type { Mask } from './mask';
import { insideOf } from './places';
import { actsOn, titleOf, type Step } from './step';

/** What a mask is, in the words of a step's sentence. */
export function coverageTold({ terms, invert }: Mask): string {
  if (terms.length === 0) return invert ? 'nowhere' : 'everywhere';
  return terms.length === 1 ? 'where its mask is' : `where its mask of ${terms.length} terms is`;
}

/** A step in one sentence: what it changes, and on what, how it is blended, in which tones, where. */
export function sentenceOf(step: Step): { readonly change: string; readonly rest: string } {
  const op = opOf(step.op);
  const change = op.sentence(step.params);
  const parts: string[] = [];
  if (op.kind !== 'geometry') {
    const { model, channels } = actsOn(step);
    const all = modelOf(model);
    const some = all.channels.filter((c) => channels.includes(c.letter));
    parts.push(
      `on ${some.length === all.channels.length ? all.title : `${some.map((c) => c.sign).join(', ')} of ${all.title}`}`
    );
    const { mode, opacity, under, over } = step.blend;
    if (mode !== 'normal') parts.push(`blended by ${mode}`);
    if (opacity !== 1) parts.push(`at ${Math.round(100 * opacity)} %`);
    const limited = !isAllTones(under) || !isAllTones(over);
    if (limited) parts.push('in some tones');
    if (step.where) parts.push(coverageTold(step.where));
    else if (!limited) parts.push('everywhere');
  }
  return { change: change[0].toUpperCase() + change.slice(1), rest: parts.join(', ') };
}

/** What was done to a picture, a line a step; steps inside a group after its name. Those that are off are left out. */
export const historyOf = (steps: readonly Step[], around = ''): string[] =>
  steps
    .filter(({ enabled }) => enabled)
    .flatMap((step) => {
      const { change, rest } = sentenceOf(step);
      const title = around + titleOf(step);
      return [`${title}: ${change} ${rest}`.trim(), ...historyOf(insideOf(step), `${title} > `)];
    });
