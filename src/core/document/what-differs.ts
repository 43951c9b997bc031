import { modelOf, channels } from '../colour';
import { opOf } from '../ops';
import { shownAt } from '../ops/controls';
import { said } from '../ops/fields';
import { insideOf } from './places';
import { actsOn, titleOf, type Step } from './step';

/** A value in which two steps differ, in words. */
export interface ValueDiffers {
  readonly what: string;
  readonly one: string;
  readonly other: string;
}

/** A step that two paths have not alike. */
export interface StepDiffers {
  readonly title: string;
  /** Which of the two paths has it. */
  readonly in: 'one' | 'other' | 'both';
  /** What it does, where only one has it. */
  readonly sentence: string;
  readonly values: readonly ValueDiffers[];
}

interface Matched {
  readonly one: Step | null;
  readonly other: Step | null;
}

/** Steps of the same op are one step: those of the same id first, then in their order. */
function matched(one: readonly Step[], other: readonly Step[]): Matched[] {
  const left = new Set(other);
  const pairs = new Map<Step, Step>();
  const pair = (step: Step, isIt: (s: Step) => boolean): void => {
    const found = pairs.has(step) ? undefined : [...left].find((s) => s.op === step.op && isIt(s));
    if (!found) return;
    pairs.set(step, found);
    left.delete(found);
  };
  for (const step of one) pair(step, ({ id }) => id === step.id);
  for (const step of one) pair(step, ({ id }) => !one.some((s) => s.id === id));
  const found: Matched[] = one.map((step) => ({ one: step, other: pairs.get(step) ?? null }));
  // What only the other has stands behind the step that it follows there.
  other.forEach((step, i) => {
    if (!left.has(step)) return;
    const before = other[i - 1];
    const at = before ? found.findIndex((m) => m.other === before) + 1 : 0;
    found.splice(at, 0, { one: null, other: step });
  });
  return found;
}

/** The order in which the steps that both have stand in the other, as places in the one. */
function isMoved(all: readonly Matched[], other: readonly Step[]): boolean {
  const places = all.flatMap((m) => (m.one && m.other ? [other.indexOf(m.other)] : []));
  return places.some((place, i) => i > 0 && place < places[i - 1]);
}

/** The steps that one path has and the other has not, and of those that both have every value with which they differ. */
export function whatDiffers(one: readonly Step[], other: readonly Step[], around = ''): StepDiffers[] {
  const all = matched(one, other);
  const found = all.flatMap(({ one: a, other: b }): StepDiffers[] => {
    if (!a || !b) {
      const step = (a ?? b)!;
      const sentence = opOf(step.op).sentence(step.params);
      return [{ title: around + titleOf(step), in: a ? 'one' : 'other', sentence, values: [] }];
    }
    const values = stepValues(a, b);
    const own: StepDiffers[] =
      values.length > 0 ? [{ title: around + titleOf(a), in: 'both', sentence: '', values }] : [];
    return [...own, ...whatDiffers(insideOf(a), insideOf(b), `${around}${titleOf(a)} › `)];
  });
  if (!isMoved(all, other)) return found;
  const order = (steps: readonly Step[]): string => steps.map(titleOf).join(', ');
  const values = [{ what: 'order', one: order(one), other: order(other) }];
  return [{ title: `${around}Steps`, in: 'both', sentence: '', values }, ...found];
}

function stepValues(one: Step, other: Step): ValueDiffers[] {
  const values: ValueDiffers[] = [];
  const tell = (what: string, a: string, b: string): void => {
    if (a !== b) values.push({ what, one: a, other: b });
  };
  tell('name', one.name ?? 'none', other.name ?? 'none');
  tell('switched', one.enabled ? 'on' : 'off', other.enabled ? 'on' : 'off');
  tell('on', onTold(one), onTold(other));
  tell('blend', one.blend.mode, other.blend.mode);
  tell('opacity', percent(one.blend.opacity), percent(other.blend.opacity));
  tell('limits of what comes in', limits(one.blend.under), limits(other.blend.under));
  tell('limits of what it makes', limits(one.blend.over), limits(other.blend.over));
  if (one.where === null || other.where === null)
    tell('mask', one.where ? 'there is one' : 'none', other.where ? 'there is one' : 'none');
  else
    differing(one.where, other.where, [], (path, a, b) =>
      values.push({ what: `mask: ${wordsOf(path)}`, one: valueTold(a), other: valueTold(b) })
    );
  const op = opOf(one.op);
  const inside = op.inside ? ['steps'] : [];
  differing(one.params, other.params, [], (path, a, b) => {
    if (inside.includes(String(path[0]))) return;
    const shown = shownAt(op.params, path);
    const worth = shown?.worth ?? 1;
    const tellIn = (v: unknown): string =>
      typeof v === 'number' && shown
        ? `${said(v / worth, 3)}${shown.unit === '°' ? '°' : shown.unit ? ` ${shown.unit}` : ''}`
        : valueTold(v);
    values.push({ what: parameterTold(one, path, shown?.label), one: tellIn(a), other: tellIn(b) });
  });
  return values;
}

const percent = (v: number): string => `${said(100 * v)} %`;
const limits = (t: readonly number[]): string => t.map((v) => said(100 * v)).join(' · ') + ' %';

function onTold(step: Step): string {
  const { model, channels: letters } = actsOn(step);
  const { title, channels: all } = modelOf(model);
  const names = all.filter((c) => letters.includes(c.letter)).map((c) => c.sign);
  return names.length === all.length ? `all of ${title}` : `${names.join(', ')} of ${title}`;
}

type Path = readonly (string | number)[];
type Found = (path: Path, one: unknown, other: unknown) => void;
const isNode = (v: unknown): v is Record<string, unknown> => typeof v === 'object' && v !== null;

/** Longer lists (strokes, points of a curve) are told as a whole. */
const SHORT = 4;
const isWhole = (v: unknown): boolean =>
  Array.isArray(v) && (v.length > SHORT || v.some((item) => !isNode(item) || Array.isArray(item)));

/** Hands every leaf in which two values differ to `tell`, with its way. */
function differing(one: unknown, other: unknown, path: Path, tell: Found): void {
  if (JSON.stringify(one) === JSON.stringify(other)) return;
  if (!isNode(one) || !isNode(other) || isWhole(one) || isWhole(other)) return tell(path, one, other);
  const keys = [...new Set([...Object.keys(one), ...Object.keys(other)])];
  for (const key of keys)
    differing(one[key], other[key], [...path, Array.isArray(one) ? Number(key) : key], tell);
}

/** A value as it is told where nothing says how. */
function valueTold(v: unknown): string {
  if (v === undefined || v === null) return 'none';
  if (typeof v === 'number') return said(v, 4);
  if (typeof v === 'boolean') return v ? 'yes' : 'no';
  if (typeof v === 'string') return v;
  if (!Array.isArray(v))
    return Object.entries(v as object)
      .map(([key, inner]) => `${key} ${valueTold(inner)}`)
      .join(', ');
  if (v.length > 2 * SHORT) return `${v.length} items`;
  return v.map((item) => (Array.isArray(item) ? item.map(valueTold).join(' ') : valueTold(item))).join(', ');
}

const wordsOf = (path: Path): string =>
  path.map((key) => (typeof key === 'number' ? String(key + 1) : key)).join(' ');

/** What a parameter is called: its label, and what of the step it belongs to. */
function parameterTold(step: Step, path: Path, label: string | undefined): string {
  const { model } = { ...actsOn(step), ...(step.params as { model?: never }) };
  const letters = modelOf(model).channels;
  const names = path.flatMap((key, i) => {
    if (typeof key === 'number') return [`${String(path[i - 1]).replace(/s$/, '')} ${key + 1}`];
    const name = (channels.find((c) => c.id === key) ?? letters.find((c) => c.letter === key))?.name;
    return name ? [name] : [];
  });
  const last = path.at(-1);
  const own = label ?? (typeof last === 'string' ? last : wordsOf(path));
  if (names.length === 0) return own;
  return label || !names.includes(own) ? `${own} of ${names.join(', ')}` : names.join(', ');
}
