import { LRUCache } from 'lru-cache';
import type { Matrix3 } from '../colour/xyz';
import {
  contentKey,
  DocumentError,
  pinKey,
  pinsRead,
  referenceKey,
  sourceKey,
  stepKey,
  stepOfHouse,
  type Pin,
  type PictureSource,
  type SourcePicture,
  type SourceStep,
  type Step
} from '../document';
import { headKind, headShape, readHead, type DocumentHead, type SourceHead } from '../heads';
import type { Stretch } from '../mask/ground';
import { sourceKind } from '../mask/sources';
import type { Sky } from '../measure/sky';
import { automatic, stretch, stretchPlanes } from '../ops/stretch';
import { opOf, type Given } from '../ops';
import type { Frame } from '../raster/frame';
import { isPlain, lyingPlain } from '../raster/geometry';
import type { Raster } from '../raster/raster';
import { BesideStep } from './beside-step';
import { withEvaluated } from './evaluate';
import {
  encodingAt,
  placeKey,
  bringingStep,
  brought,
  commonGeometry,
  type Head,
  type Lying,
  type Plan,
  type PreparedStep,
  type PreparedTaken
} from './plan';
import { keptAsItIs, quantize } from './quantize';
import {
  besideOf,
  settledFrame,
  settledSamples,
  settleParts,
  unsettled,
  type Settled,
  type SettleAsk
} from './settled';
import { givenTo, Solver, Unsettled, Unsolved, type SolveAsk } from './solver';

/** Most pictures beside one another that are refused as no end. */
const DEEPEST = 64;
const MOST_HEADS = 24;
/** A path has a plan for each of its places that is looked at. */
const MOST_PLANS = 64;
const MOST_STEPS = 192;
const MOST_SOLUTIONS = 24;

/** What is kept under a key, or made and kept. */
function kept<T extends object>(cache: LRUCache<string, T>, key: string, make: () => T): T {
  const known = cache.get(key);
  if (known !== undefined) return known;
  const value = make();
  cache.set(key, value);
  return value;
}

/** Whether a step, or one inside it, asks something of the whole picture that comes into it before it can act on it. */
function asksPicture(step: SourceStep): boolean {
  const { needs, inside } = opOf(step.op);
  return (
    (needs?.(step.params) ?? null) !== null ||
    masksAsk(step) ||
    (inside?.(step.params) ?? []).some(asksPicture)
  );
}

/** Whether a mask of the step may ask something of whole pictures: how they are stretched to be seen, or what is found in them. */
function masksAsk({ op, params, where, beside }: SourceStep): boolean {
  const taken = (opOf(op).takes?.(params) ?? []).map((what) => ('mask' in what ? what.mask : null));
  return [where, ...taken, ...Object.values(beside?.masks ?? {})].some((mask) =>
    mask?.terms.some(({ stretched, source }) => stretched || sourceKind(source.kind).solvedBy)
  );
}

const isOn = ({ enabled }: Step): boolean => enabled;

/** Makes plans, and keeps what was made ready for them: heads, steps, and what was solved for them. */
export class Planner {
  private readonly heads = new LRUCache<string, Head>({ max: MOST_HEADS });
  private readonly steps = new LRUCache<string, PreparedStep>({ max: MOST_STEPS });
  private readonly plans = new LRUCache<string, Plan>({ max: MOST_PLANS });
  private readonly solutions = new LRUCache<string, object>({ max: MOST_SOLUTIONS });
  private readonly solver: Solver;
  /** What it has computed over whole pictures, where nobody else does. */
  private readonly own = new Map<string, Frame>();

  /**
   * @param frameOf the frame of a content hash @throws what it throws where there is none
   * @param goOn called again and again while a step is solved; what it throws ends that
   * @param settled results over whole pictures that others compute. Where they are given, what is not there is asked for:
   * `plan` throws `Unsolved` and `solve` throws `Unsettled`. Else the planner does all of it itself.
   */
  constructor(
    private readonly frameOf: (hash: string) => Frame,
    goOn: () => void = () => undefined,
    private readonly settled?: Settled
  ) {
    this.solver = new Solver(this.plan.bind(this), (plan) => this.settledFor(plan), goOn);
  }

  /**
   * @param picture steps that are off are left out; pins are its own and those that belong to all
   * @param lying how the picture lies on its head where that is not what its own steps make of it
   * @throws DocumentError where a picture that a step or the head takes from is of another size or encoding
   * @throws Unsolved where a step is not solved yet, and that is left to others
   */
  plan({ head: source, steps, pins }: PictureSource, lying: Lying | null = null, depth = 0): Plan {
    if (depth > DEEPEST) throw new DocumentError('Pictures refer to each other without end.');
    const active = steps.filter(isOn);
    const keyOf = (place: string, first: readonly SourceStep[]): string =>
      [source.key, place, pinKey(first, pins), ...first.map(stepKey)].join('|');
    return kept(
      this.plans,
      keyOf(lying ? placeKey({ ...lying, geometry: lying.common }) : '', active),
      () => {
        const head = kept(this.heads, source.key, () => this.head(source, depth));
        const common = lying?.common ?? commonGeometry(head, active);
        const map = this.bringing(source, head, active);
        const geometry = brought(common, map);
        // What it does not reach of the other one is missing, and not dark.
        const beyond = map ? Number.NaN : (lying?.beyond ?? 0);
        const place = placeKey({ geometry, beyond });
        const keyAfter = (count: number): string => keyOf(place, active.slice(0, count));
        const plain = isPlain(geometry);
        const mayMiss = head.mayMiss || (Number.isNaN(beyond) && !plain);
        const own = { head: source, steps: active, pins };
        const plan: Plan = {
          ...{ source: own, head, geometry, common, plain, keyAfter, beyond, mayMiss },
          ...{ steps: [], mayWait: false }
        };
        const prepared = this.prepared(active, plan, { source, pins, depth, upstream: [] });
        const mayWait =
          prepared.some(({ settles }) => settles) ||
          besideOf({ head, steps: prepared }).some((other) => other.mayWait);
        return { ...plan, steps: prepared, mayWait };
      }
    );
  }

  /**
   * Solves a step: looks at the picture that comes into it.
   * @param onProgress told how far it is, 0…1
   * @param known what the op's stages came to; without them they are gone through here
   * @throws Unsettled where what comes into it has to be computed over the whole picture first, and that is left to others
   */
  solve(ask: SolveAsk, onProgress?: (part: number) => void, known?: readonly unknown[]): object {
    return this.solver.solve(ask, onProgress, known);
  }

  /** One part of a stage. @throws Unsettled as `solve` does */
  solvePart(ask: SolveAsk, stage: number, part: unknown, before: readonly unknown[]): unknown {
    return this.solver.part(ask, stage, part, before);
  }

  /** What a step is solved to; solved here, where nobody else does. @throws Unsolved */
  private solutionOf(ask: SolveAsk): object {
    return kept(this.solutions, ask.key, () => {
      if (this.settled) throw new Unsolved(ask);
      return this.solve(ask);
    });
  }

  /** Computes a result over the whole picture. */
  private settle(ask: SettleAsk): Frame {
    const { head, steps, pins, common, beyond } = ask;
    const plan = this.plan({ head, steps, pins }, { common, beyond });
    const samples = settledSamples(plan);
    const keep = (part: Raster): void => quantize(part, samples, common.width, keptAsItIs(part));
    for (const rect of settleParts(ask)) withEvaluated(plan, 0, rect, null, keep);
    return settledFrame(plan, samples);
  }

  /** Takes note of what was solved elsewhere. */
  learn(key: string, solution: object): void {
    this.solutions.set(key, solution);
  }

  /** What stands for results over the whole picture that a plan waits for: computed here, where nobody else does. @throws Unsettled */
  private settledFor(plan: Plan): Settled {
    const settled = this.settled ?? this.own;
    for (let ask = unsettled(plan, settled); ask; ask = unsettled(plan, settled)) {
      if (this.settled) throw new Unsettled(ask);
      this.own.set(ask.key, this.settle(ask));
    }
    return settled;
  }

  private head(source: SourceHead, depth: number): Head {
    const beside = source.pictures.map((picture) => this.plan(picture, null, depth + 1));
    const solution = this.headSolution(source, beside);
    const shapes = beside.map((plan, i) => ({
      ...plan.head,
      ...{ width: plan.geometry.width, height: plan.geometry.height, mayMiss: plan.mayMiss },
      encoding: encodingAt(plan),
      name: source.pictures[i].name
    }));
    return {
      ...headShape(source, this.frameOf, shapes),
      ...{ key: source.key, beside, solution },
      read: (level, out, pictures) => readHead(source, this.frameOf, pictures, level, out, solution)
    };
  }

  /** What a head is solved to before it can be read, as a step behind the first of its pictures; null where nothing is. @throws Unsolved */
  private headSolution({ of, key, pictures }: SourceHead, beside: readonly Plan[]): object | null {
    const head = of as DocumentHead;
    const { solvedBy, uses } = headKind(head.kind);
    const by = solvedBy?.(head) ?? null;
    if (!by) return null;
    const named = Object.fromEntries(
      uses(head).map((reference, i) => [referenceKey(reference), pictures[i]])
    );
    const step: SourceStep = {
      ...stepOfHouse(by.op, by.params),
      ...{ key, beside: { pictures: named, masks: {}, tables: {} } }
    };
    const [{ common }] = beside;
    const [first] = pictures;
    const ask = {
      key: contentKey(`head ${key}`),
      step,
      common,
      beyond: 0,
      ...{ head: first.head, steps: first.steps, pins: first.pins }
    };
    return this.solutionOf(ask);
  }

  /** What brings a picture onto another one; null where nothing does. @throws Unsolved */
  private bringing(source: SourceHead, head: Head, active: readonly SourceStep[]): Matrix3 | null {
    const step = bringingStep(active);
    return step ? opOf(step.op).lies!(step.params, head, this.bringingSolution(step, source, head)) : null;
  }

  /** What a step is solved to that brings a picture onto another one: by its head as that is, whatever is done to it. @throws Unsolved */
  private bringingSolution(
    step: SourceStep,
    head: SourceHead,
    size: { width: number; height: number }
  ): object | null {
    const { needs, takes } = opOf(step.op);
    if ((needs!(step.params) ?? null) === null) return null;
    const others = takes!(step.params).flatMap((what) =>
      'picture' in what ? [sourceKey(step.beside!.pictures[referenceKey(what.picture)])] : []
    );
    const key = contentKey(JSON.stringify([step.op, head.key, others]));
    const ask = { key, step, head, steps: [], pins: [], common: lyingPlain(size), beyond: 0 };
    return this.solutionOf(ask);
  }

  /** Makes steps ready that follow each other behind those of `before`. */
  private prepared(steps: readonly SourceStep[], before: Plan, along: Along): PreparedStep[] {
    const done: PreparedStep[] = [];
    steps.forEach((step, i) => {
      const upstream = [...along.upstream, ...steps.slice(0, i)];
      const asked = asksPicture(step) ? upstream : [];
      const plan = { ...before, steps: [...before.steps, ...done] };
      const known = [
        ...[along.source.key, encodingAt(plan), stepKey(step), placeKey(before)],
        pinKey([...asked, step], along.pins),
        ...asked.map(stepKey)
      ].join('|');
      done.push(kept(this.steps, known, () => this.prepare(step, plan, { ...along, upstream })));
    });
    return done;
  }

  /** What is solved for a step, or null where it needs nothing of the picture. @throws Unsolved */
  private solution(step: SourceStep, before: Plan, along: Along, given: Given): object | null {
    const { op, on, params } = step;
    const need = opOf(op).needs?.(params) ?? null;
    if (need === null) return null;
    if (opOf(op).lies) return this.bringingSolution(step, along.source, before.head);
    const { common, beyond } = before;
    const { upstream, source, pins } = along;
    const read = pinsRead([...upstream, step], pins);
    const taken = (opOf(op).takes?.(params) ?? []).flatMap((what) => {
      const picture = 'picture' in what ? step.beside?.pictures[referenceKey(what.picture)] : undefined;
      return picture ? [sourceKey(picture)] : [];
    });
    const told = [op, need, taken, on, given.encoding, placeKey(before), pinKey([...upstream, step], pins)];
    const key = contentKey(JSON.stringify([source.key, told, upstream.map(stepKey)]));
    const ask = { key, step, common, beyond, head: source, steps: upstream, pins: read };
    return this.solutionOf(ask);
  }

  /** What an op finds in a picture, for a mask. @throws Unsolved */
  private found(
    { op, params }: { readonly op: string; readonly params: object },
    id: string,
    plan: Plan,
    along: Along
  ): unknown {
    // How far it is, is told of the step that has the mask.
    const step = { ...stepOfHouse(op, params), id };
    const given = givenTo(step, plan);
    const { prepare, solved } = opOf(op);
    return solved!(prepare(params, given, this.solution(step, plan, along, given)));
  }

  /** The automatic stretch of a linear picture. @throws Unsolved */
  private stretching(plan: Plan, along: Along): Stretch {
    const step = stepOfHouse(stretch.id, automatic);
    const given = givenTo(step, plan);
    const solution = this.solution(step, plan, along, given) as readonly Sky[] | null;
    const coefficients = stretch.prepare(automatic, given, solution);
    return (planes, out, n) => stretchPlanes(planes, coefficients, out, n);
  }

  private prepare(step: SourceStep, before: Plan, along: Along): PreparedStep {
    const op = opOf(step.op);
    const given = givenTo(step, before);
    const { model: on, encoding, channels } = given;
    const listed = on.channels.map((c) => channels.includes(c));
    const within = (op.inside?.(step.params) ?? []).filter(isOn);
    const inside = this.prepared(within, before, along);
    const idle = op.kind === 'path' ? inside.length === 0 : (op.idle?.(step.params) ?? false);
    const coefficients: unknown = op.prepare(step.params, given, this.solution(step, before, along, given));
    const beside = new BesideStep(
      step,
      before,
      (picture, common) => this.plan(picture, { common, beyond: Number.NaN }, along.depth + 1),
      (picture, plan) => this.stretching(plan, alongOf(picture, along)),
      (by, picture, plan) => this.found(by, step.id, plan, alongOf(picture, along))
    );
    const where = step.where && beside.mask(step.where);
    const taken = (op.takes?.(step.params) ?? []).flatMap((what): PreparedTaken[] => {
      if ('table' in what || ('picture' in what && what.whileSolving)) return [];
      return 'mask' in what
        ? [{ mask: beside.mask(what.mask) }]
        : [{ picture: beside.taken(what.picture, what.shift) }];
    });
    const masks = [...(where ? [where] : []), ...taken.flatMap((t) => (t.mask ? [t.mask] : []))];
    const own = (scale: number): number =>
      inside.reduce(
        (sum, s) => sum + s.reach(scale),
        idle ? 0 : (op.reach?.(step.params, scale, coefficients) ?? 0)
      );
    const settles = (!idle && op.settles?.(step.params)) || inside.some((one) => one.settles);
    return {
      ...{ op, coefficients, idle, settles, on, listed, where, taken, encoding, inside },
      encodingAfter: inside.at(-1)?.encodingAfter ?? op.encodingAfter?.(step.params) ?? encoding,
      reach: (scale) => Math.max(own(scale), ...masks.map((mask) => mask.reach(scale))),
      ...step.blend,
      maskKey: step.maskKey ?? JSON.stringify(step.where),
      beside: beside.plans
    };
  }
}

/** What steps are made ready along: the picture's head and pins, and the steps before them. */
interface Along {
  readonly source: SourceHead;
  readonly pins: readonly Pin[];
  readonly depth: number;
  readonly upstream: readonly SourceStep[];
}

/** The same for another picture; its own where none is named. */
const alongOf = (picture: SourcePicture | null, along: Along): Along =>
  picture
    ? { ...along, source: picture.head, pins: picture.pins, upstream: picture.steps.filter(isOn) }
    : along;
