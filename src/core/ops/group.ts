import { z } from 'zod';
import type { SourceStep } from '../document/step';
import { defineOp } from './op';

const MOST = 500;

/** The steps are parsed as those of a path are, by the document. */
const params = z.strictObject({
  steps: z.array(z.unknown()).max(MOST, `takes at most ${MOST} steps`).default([])
});
export interface GroupParams {
  readonly steps: readonly SourceStep[];
}

/** The steps inside, one after another, make the candidate: so several are faded, held to tones or to a place together. */
export const group = defineOp<GroupParams, null>({
  id: 'group',
  title: 'Group',
  purpose: 'Holds several steps, to fade them, limit them or mask them together',
  words: ['folder', 'fade', 'opacity', 'together', 'nest', 'several'],
  params: params as unknown as z.ZodType<GroupParams>,
  kind: 'path',
  ownModel: () => 'rgb',
  inside: ({ steps }) => steps,
  withInside: (_, steps) => ({ steps }),
  sentence({ steps }) {
    const count = steps.filter(({ enabled }) => enabled).length;
    if (count === 0) return 'No steps inside';
    return `${count} ${count > 1 ? 'steps' : 'step'} together`;
  },
  prepare: () => null,
  // What it makes, the steps inside make.
  kernel: () => undefined
});
