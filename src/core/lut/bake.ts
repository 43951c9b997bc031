import type { Encoding, Planes } from '../colour';
import { contentKey, stepSchema, titleOf, type Mask, type SourceStep } from '../document';
import { inRoom, takePlane } from '../kernels/arena';
import { whyBound } from '../mask/shape';
import { opOf } from '../ops';
import { lut } from '../ops/lut';
import { applySteps, type Beside } from '../path/apply';
import { inBands } from '../path/analysis';
import { bothDifferences, differenceFigures, measureDifference, type Differing } from '../path/differing';
import { evaluate } from '../path/evaluate';
import { encodingAt, type Plan, type PreparedStep } from '../path/plan';
import { sharedSamples } from '../raster/frame';
import type { Raster } from '../raster/raster';
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

/** How far two plans of one size are from each other in ΔE 2000, at full size, band by band; and where most. */
export function errorBetween(
  plan: Plan,
  other: Plan
): TableError & { readonly at: { readonly x: number; readonly y: number } } {
  let all: Differing | null = null;
  inBands(plan, 0, (band) => {
    const beside = evaluate(other, 0, { x: band.x, y: band.y, width: band.width, height: band.height });
    const differing = measureDifference(band, beside, 'colours');
    all = all ? bothDifferences(all, differing) : differing;
  });
  const { mean, most, largest, at } = differenceFigures(all!)!;
  return { mean: 100 * mean, most: 100 * most, largest: 100 * largest, at };
}

/** Why the mask of a step means something only on its picture. */
function maskReasons(step: SourceStep, mask: Mask): string[] {
  const named = mask.terms.flatMap(({ source }) =>
    source.kind === 'mask' ? [step.beside?.masks[source.id]].filter((m) => m !== undefined) : []
  );
  return [...new Set([...whyBound(mask, true), ...named.flatMap((one) => maskReasons(step, one))])];
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
    ...(!idle && (op.reach?.(step.params, 1) ?? 0) > 0 ? ['it looks at neighbours'] : []),
    ...(taken.some((what) => 'picture' in what) ? ['it takes from another picture'] : []),
    ...(bound.length > 0 ? [`its mask is bound to the picture by ${bound.join(', ')}`] : [])
  ];
}

const asksPicture = (step: SourceStep): boolean => (opOf(step.op).needs?.(step.params) ?? null) !== null;

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

/** A cube of colours, red running fastest, with the values that stand along an axis. */
function cubeOfColours(axis: readonly number[]): Float32Array[] {
  const side = axis.length;
  const planes = [0, 1, 2].map(() => new Float32Array(side ** 3));
  for (let i = 0; i < side ** 3; i++) {
    planes[0][i] = axis[i % side];
    planes[1][i] = axis[Math.floor(i / side) % side];
    planes[2][i] = axis[Math.floor(i / side ** 2)];
  }
  return planes;
}

const evenly = (count: number, low: number, high: number): number[] =>
  Array.from({ length: count }, (_, i) => low + ((high - low) * i) / (count - 1));

/** Values of the curves that may stand before a cube. */
const CURVE_VALUES = 1024;
/** The shadows get more nodes than the lights by these powers. */
const POWERS = [1.5, 2.2, 3];

/** The places of a cube's nodes before its curves: where those come to even steps of 0…1. */
function nodesBehind(values: readonly number[], size: number, low: number, high: number): number[] {
  let at = 0;
  return evenly(size, 0, 1).map((node) => {
    while (at < values.length - 2 && values[at + 1] < node) at++;
    const part = (node - values[at]) / (values[at + 1] - values[at]);
    return low + ((high - low) * (at + part)) / (values.length - 1);
  });
}

function withCurves(power: number, low: number, high: number): { curves: Curves; values: number[] } {
  const values = evenly(CURVE_VALUES, 0, 1).map((v) => Math.fround(v ** (1 / power)));
  const three = Float32Array.from({ length: 3 * CURVE_VALUES }, (_, i) => values[Math.floor(i / 3)]);
  const ends = { low: [low, low, low], high: [high, high, high] };
  return { curves: { size: CURVE_VALUES, ...ends, values: three }, values };
}

/** So many colours a side are looked at: in the middle between places of 65 nodes, where no table has one. */
const CHECKED = 65;
const betweenNodes = (low: number, high: number): number[] =>
  Array.from({ length: CHECKED }, (_, i) => low + ((high - low) * (i + 0.5)) / CHECKED);

/** How far a table is from steps, over a cube of colours. */
function errorOf(
  table: Table,
  steps: readonly PreparedStep[],
  encoding: readonly [Encoding, Encoding],
  { low, high }: Baking
): Baked['error'] {
  const axis = betweenNodes(low, high);
  const colours = cubeOfColours(axis);
  const [by, through] = [colours.map((p) => p.slice()), colours.map((p) => p.slice())];
  throughSteps(steps, by, encoding[0]);
  throughTable(table, through, through, CHECKED ** 3, 'tetrahedral');
  const raster = (planes: Float32Array[]): Raster => ({
    ...{ x: 0, y: 0, width: CHECKED ** 2, height: CHECKED, planes, encoding: encoding[1], alpha: null }
  });
  const { mean, most, largest, at } = differenceFigures(
    measureDifference(raster(by), raster(through), 'colours')
  )!;
  const index = [at.x % CHECKED, Math.floor(at.x / CHECKED), at.y];
  return { mean: 100 * mean, most: 100 * most, largest: 100 * largest, at: index.map((i) => axis[i]) };
}

/**
 * Makes a table of the steps of a path that are functions of a colour alone; what a step has solved from this picture stays as it
 * is. Of a plain cube and those behind curves, the one whose largest ΔE 2000 is smallest is kept.
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
  const made = (axis: readonly number[], curves: Curves | null): Baked => {
    const planes = cubeOfColours(axis);
    throughSteps(prepared, planes, first);
    const values = sharedSamples('f32', 3 * size ** 3) as Float32Array;
    planes.forEach((plane, c) => plane.forEach((v, i) => (values[3 * i + c] = v)));
    const ends = curves ? [0, 1] : [low, high];
    const [from, to] = ends.map((v) => [v, v, v]);
    const table: Table = { title, curves, cube: { size, low: from, high: to, values } };
    return { table, steps: told, error: errorOf(table, prepared, [first, last], baking) };
  };
  const tried = [made(evenly(size, low, high), null)];
  for (const power of baking.curves ? POWERS : []) {
    const { curves, values } = withCurves(power, low, high);
    tried.push(made(nodesBehind(values, size, low, high), curves));
  }
  return tried.reduce((best, one) => (one.error.largest < best.error.largest ? one : best));
}
