import type { Encoding, Planes } from '../colour';
import { contentKey, stepSchema, titleOf, type Mask, type SourceStep, type Step } from '../document';
import { inRoom, takePlane } from '../kernels/arena';
import { foundAround, whyBound } from '../mask/shape';
import { opOf } from '../ops';
import { lut } from '../ops/lut';
import { applySteps, type Beside } from '../path/apply';
import { inBands, levelOfAtMost } from '../path/analysis';
import { bothDifferences, differenceFigures, measureDifference, type Differing } from '../path/differing';
import { evaluate } from '../path/evaluate';
import { encodingAt, planSize, planTo, type Plan, type PreparedStep } from '../path/plan';
import { sharedSamples } from '../raster/frame';
import type { Raster } from '../raster/raster';
import { fitNodes, lattice, type Wanted } from './fit';
import { throughTable, type Curves, type Table } from './table';

export const bakedSizes = [17, 33, 65] as const;

export interface Baking {
  readonly title: string;
  /** Nodes along an axis. */
  readonly size: number;
  /** What goes in lies between these. */
  readonly low: number;
  readonly high: number;
  /** Curves before the cube are tried as well, where they put more nodes where they count. */
  readonly curves: boolean;
  /** Ids of the steps of the path itself that are baked; all where none are named. */
  readonly only?: readonly string[];
}

/** What becomes of a step in a table. */
export interface StepInTable {
  readonly id: string;
  readonly title: string;
  /** Why it is left out; empty where it is carried. */
  readonly why: readonly string[];
  /** It is carried with the numbers that were solved from this picture. */
  readonly frozen: boolean;
}

/** ΔE 2000 between a table and the steps that it carries. */
export interface TableError {
  readonly mean: number;
  /** 95th percentile. */
  readonly most: number;
  readonly largest: number;
}

export interface Baked {
  readonly table: Table;
  readonly steps: readonly StepInTable[];
  /** Over 65³ colours between `low` and `high`, and the colour of the largest. */
  readonly error: TableError & { readonly at: readonly number[] };
}

let count = 0;

/** A step that puts colours through a table, with the table beside it. */
export function stepOfTable(table: Table): SourceStep {
  const step = stepSchema.parse({ id: '(table)', op: lut.id, params: { table: '(table)' } });
  const key = contentKey(`table ${++count} ${Math.random()}`);
  return { ...step, key, beside: { pictures: {}, masks: {}, tables: { '(table)': table } } };
}

/**
 * How far two plans of one size are from each other in ΔE 2000, at full size, band by band; and where most.
 * Null where no sample is there to be compared.
 */
export function errorBetween(
  plan: Plan,
  other: Plan
): (TableError & { readonly at: { readonly x: number; readonly y: number } }) | null {
  let all: Differing | null = null;
  inBands(plan, 0, (band) => {
    const beside = evaluate(other, 0, { x: band.x, y: band.y, width: band.width, height: band.height });
    const differing = measureDifference(band, beside, 'colours');
    all = all ? bothDifferences(all, differing) : differing;
  });
  const figures = differenceFigures(all!);
  if (!figures) return null;
  const { mean, most, largest, at } = figures;
  return { mean: 100 * mean, most: 100 * most, largest: 100 * largest, at };
}

/** Why the mask of a step means something only on its picture. */
function maskReasons(step: SourceStep, mask: Mask): string[] {
  const named = mask.terms.flatMap(({ source }) =>
    source.kind === 'mask' ? [step.beside?.masks[source.id]].filter((m) => m !== undefined) : []
  );
  return [
    ...new Set([
      ...whyBound(mask, true),
      ...foundAround(mask),
      ...named.flatMap((one) => maskReasons(step, one))
    ])
  ];
}

/** Why a step is no function of a colour alone; empty where it is. */
function reasonsOf(step: SourceStep): string[] {
  const op = opOf(step.op);
  if (op.kind === 'geometry') return ['it moves pixels'];
  const taken = op.takes?.(step.params) ?? [];
  const masks = [...(step.where ? [step.where] : []), ...taken.flatMap((t) => ('mask' in t ? [t.mask] : []))];
  op.mapMasks?.(step.params, (mask) => (masks.push(mask), mask));
  const bound = [...new Set(masks.flatMap((mask) => maskReasons(step, mask)))];
  const idle = op.idle?.(step.params) ?? false;
  return [
    ...(op.byPlace ? ['what it does depends on the place'] : []),
    ...(!idle && (op.reach?.(step.params, 1, null) ?? 0) > 0 ? ['it looks at neighbours'] : []),
    ...(taken.some((what) => 'picture' in what && !what.whileSolving)
      ? ['it takes from another picture']
      : []),
    ...(bound.length > 0 ? [`its mask is bound to the picture by ${bound.join(', ')}`] : [])
  ];
}

const asksPicture = ({ op, params }: Pick<SourceStep, 'op' | 'params'>): boolean =>
  (opOf(op).needs?.(params) ?? null) !== null;

/** What a person calls the first step that is solved from the picture that it is put on; null where none is. */
export function titleOfAsking(steps: readonly Step[]): string | null {
  const asks = steps.find(asksPicture);
  return asks ? titleOf(asks) : null;
}

interface Carried {
  readonly prepared: readonly PreparedStep[];
  readonly told: readonly StepInTable[];
}

/** The steps of a path that a table can carry, and what becomes of each; those inside groups one by one. */
function carried(steps: readonly SourceStep[], prepared: readonly PreparedStep[], around = ''): Carried {
  const kept: PreparedStep[] = [];
  const told: StepInTable[] = [];
  steps.forEach((step, i) => {
    const why = reasonsOf(step);
    const title = around + titleOf(step);
    const inside = (opOf(step.op).inside?.(step.params) ?? []).filter(({ enabled }) => enabled);
    told.push({ id: step.id, title, why, frozen: why.length === 0 && asksPicture(step) });
    if (why.length > 0) return;
    const within = carried(inside, prepared[i].inside, `${title} › `);
    told.push(...within.told);
    kept.push({
      ...prepared[i],
      inside: within.prepared,
      idle: prepared[i].idle || (inside.length > 0 && within.prepared.length === 0)
    });
  });
  return { prepared: kept, told };
}

const nothingBeside = (steps: readonly PreparedStep[]): Beside[] =>
  steps.map(({ inside }) => ({ pictures: [], inside: nothingBeside(inside) }));

/** Colours that are put through steps at once. */
const AT_ONCE = 2 ** 16;

/** Puts colours through steps that look at nothing else, in place. */
function throughSteps(steps: readonly PreparedStep[], rgb: Planes, encoding: Encoding): void {
  const n = rgb[0].length;
  for (let from = 0; from < n; from += AT_ONCE) {
    const parts = rgb.map((plane) => plane.subarray(from, Math.min(n, from + AT_ONCE)));
    const size = { width: parts[0].length, height: 1 };
    inRoom(() => {
      const planes = parts.map((part) => {
        const plane = takePlane(part.length);
        plane.set(part);
        return plane;
      });
      const raster = { x: 0, y: 0, ...size, planes, encoding, alpha: null };
      const progress = { goOn: () => undefined, mayMiss: false };
      const made = applySteps(raster, steps, 0, raster, size, nothingBeside(steps), progress);
      made.planes.forEach((plane, c) => parts[c].set(plane.subarray(0, size.width)));
    });
  }
}

/** Values of the curves that may stand before a cube. */
const CURVE_VALUES = 1024;
/** The shadows get more nodes than the lights by these powers. */
const POWERS = [1.5, 2.2, 3];

/** A curve that is straight between even steps of 0…1, turned round. */
function turnedRound(values: readonly number[]): (v: number) => number {
  return (v) => {
    let [from, to] = [0, values.length - 1];
    while (to - from > 1) {
      const middle = (from + to) >> 1;
      if (values[middle] <= v) from = middle;
      else to = middle;
    }
    return (from + (v - values[from]) / (values[to] - values[from])) / (values.length - 1);
  };
}

/** Curves that give more nodes to the shadows, and the colour at a place behind them, 0…1. */
function withCurves(
  power: number,
  low: number,
  high: number
): { curves: Curves; colourAt: (at: number) => number; placeOf: (colour: number) => number } {
  const values = Array.from({ length: CURVE_VALUES }, (_, i) =>
    Math.fround((i / (CURVE_VALUES - 1)) ** (1 / power))
  );
  const three = Float32Array.from({ length: 3 * CURVE_VALUES }, (_, i) => values[Math.floor(i / 3)]);
  const ends = { low: [low, low, low], high: [high, high, high] };
  const before = turnedRound(values);
  return {
    curves: { size: CURVE_VALUES, ...ends, values: three },
    colourAt: (at) => low + (high - low) * before(at),
    placeOf: (colour) => Math.max(0, (colour - low) / (high - low)) ** (1 / power)
  };
}

/** A ΔE 2000 that nobody sees side by side: up to it, the largest error may grow where the mean falls. */
const NOT_SEEN = 0.5;

/** At most so many colours of the picture count. */
const COLOURS = 2 ** 15;

/** Colours of the picture before a step, evenly taken from a small level; missing ones left out. */
function coloursBefore(plan: Plan, count: number): Float32Array[] {
  const before = planTo(plan, count);
  const level = levelOfAtMost(before, 4 * COLOURS);
  const { width, height } = planSize(before, level);
  const every = Math.max(1, Math.ceil((width * height) / COLOURS));
  const found: number[][] = [[], [], []];
  let next = 0;
  inBands(before, level, ({ planes, width: across, height: down, y }) => {
    for (let i = next - y * across; i < across * down; i += every, next += every)
      if (planes.every((plane) => plane[i] === plane[i]))
        planes.forEach((plane, c) => found[c].push(plane[i]));
  });
  return found.map((plane) => Float32Array.from(plane));
}

/** So many colours a side are looked at: in the middle between places of 65 nodes, where no table has one. */
const CHECKED = 65;
/** Tells how far tables are from steps, over a cube of colours. */
function errorTo(
  steps: readonly PreparedStep[],
  encoding: readonly [Encoding, Encoding],
  { low, high }: Baking
): (table: Table) => Baked['error'] {
  const colours = lattice(CHECKED);
  const place = (at: number): number => low + ((high - low) * (at * (CHECKED - 1) + 0.5)) / CHECKED;
  for (const plane of colours) for (let i = 0; i < plane.length; i++) plane[i] = place(plane[i]);
  const raster = (planes: Float32Array[]): Raster => ({
    ...{ x: 0, y: 0, width: CHECKED ** 2, height: CHECKED, planes, encoding: encoding[1], alpha: null }
  });
  const by = colours.map((p) => p.slice());
  throughSteps(steps, by, encoding[0]);
  return (table) => {
    const through = colours.map((p) => p.slice());
    throughTable(table, through, through, CHECKED ** 3, 'tetrahedral');
    const { mean, most, largest, at } = differenceFigures(
      measureDifference(raster(by), raster(through), 'colours')
    )!;
    const index = [at.x % CHECKED, Math.floor(at.x / CHECKED), at.y];
    return {
      mean: 100 * mean,
      most: 100 * most,
      largest: 100 * largest,
      at: index.map((i) => place(i / (CHECKED - 1)))
    };
  };
}

/**
 * Makes a table of the steps of a path that are functions of a colour alone; what a step has solved from this picture stays as it
 * is. Of a plain cube and those behind curves, the one whose largest ΔE 2000 is smallest is kept; its nodes are then laid where the
 * cube comes nearest to the steps, over all colours and those of the picture (`fit`).
 */
export function bake(plan: Plan, baking: Baking): Baked {
  const { title, size, low, high, only } = baking;
  const places = plan.source.steps.flatMap(({ id }, i) => (!only || only.includes(id) ? [i] : []));
  const { prepared, told } = carried(
    places.map((i) => plan.source.steps[i]),
    places.map((i) => plan.steps[i])
  );
  const first = encodingAt(plan, places[0] ?? 0);
  const last = prepared.at(-1)?.encodingAfter ?? first;
  const ends = { low: [low, low, low], high: [high, high, high] };
  const errorOf = errorTo(prepared, [first, last], baking);
  const made = (planes: readonly Float32Array[], curves: Curves | null): Baked => {
    const values = sharedSamples('f32', 3 * size ** 3) as Float32Array;
    planes.forEach((plane, c) => plane.forEach((v, i) => (values[3 * i + c] = v)));
    const cube = { size, ...(curves ? { low: [0, 0, 0], high: [1, 1, 1] } : ends), values };
    const table: Table = { title, curves, cube };
    return { table, steps: told, error: errorOf(table) };
  };
  const plainly = (v: number): number => (v - low) / (high - low);
  const ways = [
    { curves: null, colourAt: (at: number) => low + (high - low) * at, placeOf: plainly },
    ...(baking.curves ? POWERS : []).map((power) => withCurves(power, low, high))
  ].map(({ curves, colourAt, placeOf }) => {
    /** Puts places among the nodes, 0…1, through the steps. */
    const wanted: Wanted = (planes) => {
      for (const plane of planes) for (let i = 0; i < plane.length; i++) plane[i] = colourAt(plane[i]);
      throughSteps(prepared, planes, first);
    };
    const nodes = lattice(size);
    wanted(nodes);
    return { curves, wanted, placeOf, baked: made(nodes, curves) };
  });
  const best = ways.reduce((a, b) => (b.baked.error.largest < a.baked.error.largest ? b : a));
  const often = coloursBefore(plan, places[0] ?? 0).map((plane) => plane.map(best.placeOf));
  const nearer = made(fitNodes(size, best.wanted, often), best.curves);
  const isNearer =
    nearer.error.mean <= best.baked.error.mean &&
    nearer.error.largest <= Math.max(NOT_SEEN, best.baked.error.largest);
  return isNearer ? nearer : best.baked;
}
