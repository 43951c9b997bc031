import type { BenchState } from './bench.svelte';
import type { Session } from './session.svelte';
import { addStep } from './steps';

/** A job that a person comes with, and the step that it begins with. */
export interface Job {
  readonly title: string;
  readonly purpose: string;
  readonly op: string;
  readonly step?: object;
  /** The step's mask is what it is about. */
  readonly where?: true;
}

export const jobs: readonly Job[] = [
  {
    title: 'Take a cast out',
    purpose: 'Balance: by the average, or by pins',
    op: 'balance',
    step: { params: { method: 'grey' } }
  },
  { title: 'Black and white', purpose: 'Channels added up to one grey photograph', op: 'mono' },
  { title: 'A look', purpose: 'Mix: how much of each channel goes into which', op: 'mix' },
  {
    title: 'False colour',
    purpose: 'Mix with red and blue exchanged, as for infrared',
    op: 'mix',
    step: { params: { rows: { r: { b: 1 }, b: { r: 1 } } } }
  },
  {
    title: 'Contrast',
    purpose: 'A curve on lightness alone, so that colours stay',
    op: 'curves',
    step: { params: {}, on: { model: 'lab', channels: ['l'] } }
  },
  {
    title: 'A part of the picture',
    purpose: 'A curve with a mask, found by looking',
    op: 'curves',
    step: { params: {}, where: { terms: [] } },
    where: true
  },
  {
    title: 'Several exposures',
    purpose: 'Lights or shadows from another one',
    op: 'merge'
  },
  { title: 'Straighten and crop', purpose: 'Level, upright, and cut to size', op: 'straighten' }
];

/** Begins a job: puts its first step into the path and shows what of it comes first. */
export function begin(session: Session, bench: BenchState, { op, step, where }: Job): void {
  addStep(session, op, step);
  if (!where) return;
  bench.part = 'where';
  bench.inTab = 'sources';
}
