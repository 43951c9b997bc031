/** Steps that have to look at the picture before they can act on it. */
import { modelOf } from '../colour';
import {
  actsOn,
  DocumentError,
  pinsRead,
  titleOf,
  type Pin,
  type PictureSource,
  type Reference,
  type SourceStep
} from '../document';
import { missesAny } from '../kernels/compare';
import { seenOf, type Seen } from '../measure/seen';
import { opOf, type Asked, type Given, type Op, type PinReading, type Solving } from '../ops';
import { averaging } from '../ops/averaging';
import type { Raster, Rect } from '../raster/raster';
import { analysed, meanAround, type Analysed } from './analysis';
import { BesideStep } from './beside-step';
import { alone, withEvaluated } from './evaluate';
import { encodingAt, type Lying, type Plan } from './plan';
import type { Settled, SettleAsk } from './settled';

/** A step that is to be solved from the picture that `steps` make: plain data, so that any worker can do it. */
export interface SolveAsk extends PictureSource, Lying {
  /** What the answer depends on. */
  readonly key: string;
  readonly step: SourceStep;
}

/** A picture can't be computed before a step of it is solved. */
export class Unsolved extends Error {
  override readonly name = 'Unsolved';
  constructor(readonly ask: SolveAsk) {
    super(`The step “${ask.step.op}” has to be solved first.`);
  }
}

/** A step can't be solved before the result of one before it is there over the whole picture. */
export class Unsettled extends Error {
  override readonly name = 'Unsettled';
  constructor(readonly ask: SettleAsk) {
    super(`The step “${ask.step}” has to be computed over the whole picture first.`);
  }
}

/** Solves steps: looks at the pictures that come into them. */
export class Solver {
  /** The analysis raster of the last step that was solved on the way: that of the next is computed from it. */
  private analysed: Analysed | null = null;

  /**
   * @param planOf makes the plan of a picture
   * @param settledFor results over whole pictures that a plan waits for @throws Unsettled
   * @param goOn called again and again; what it throws ends the solving
   */
  constructor(
    private readonly planOf: (picture: PictureSource, lying: Lying | null, depth?: number) => Plan,
    private readonly settledFor: (plan: Plan) => Settled,
    private readonly goOn: () => void
  ) {}

  /**
   * Solves a step: looks at the picture that comes into it.
   * @param onProgress told how far it is, 0…1
   * @param known what the op's stages came to; without them they are gone through here
   * @throws Unsettled where what comes into it has to be computed over the whole picture first, and that is left to others
   */
  solve(
    ask: SolveAsk,
    onProgress: (part: number) => void = () => undefined,
    known?: readonly unknown[]
  ): object {
    const { op, need, asked } = this.asking(ask);
    const stages = [...(known ?? [])];
    const own = known ? [] : (op.stages ?? []);
    for (const [k, stage] of own.entries()) {
      const parts = stage.parts(need, asked.size);
      const found = parts.map((part, i) => {
        onProgress((k + i / parts.length) / (own.length + 1));
        return this.toEnd(stage.part(need, asked, part, stages));
      });
      stages.push(stage.together(need, found));
    }
    const from = own.length / (own.length + 1);
    return this.toEnd(op.solve!(need, asked, stages), (part) =>
      onProgress(from + (1 - from) * part)
    ) as object;
  }

  /** One part of a stage. @throws Unsettled as `solve` does */
  part(ask: SolveAsk, stage: number, part: unknown, before: readonly unknown[]): unknown {
    const { op, need, asked } = this.asking(ask);
    return this.toEnd(op.stages![stage].part(need, asked, part, before));
  }

  private toEnd(work: Solving<unknown>, onProgress: (part: number) => void = () => undefined): unknown {
    for (let told = -1; ;) {
      const { done, value } = work.next();
      if (done) return value;
      this.goOn();
      if (value !== told) onProgress((told = value));
    }
  }

  /** What solves a step, and what that may ask. */
  private asking({ step, pins, head, steps, common, beyond }: SolveAsk): {
    readonly op: Op;
    readonly need: unknown;
    readonly asked: Asked;
  } {
    const before = this.planOf({ head, steps, pins }, { common, beyond });
    const op = opOf(step.op);
    // The pictures of a head lie as they do by themselves, those that a step takes from as the step's own.
    const beside = new BesideStep(step, before, (picture, common) =>
      this.planOf(picture, step.op === averaging.id ? null : { common, beyond: Number.NaN }, 1)
    );
    const taken = (picture: Reference): Plan => beside.plans[beside.taken(picture)];
    const asked: Asked = {
      ...givenTo(step, before),
      size: { width: common.width, height: common.height },
      analysis: () => this.seen(before),
      region: (rect) => this.region(before, rect),
      analysisOf: (picture) => this.seen(taken(picture)),
      regionOf: (picture, rect) => this.region(taken(picture), rect),
      pins: () => readPins(before, pinsRead([step], pins))
    };
    return { op, need: op.needs!(step.params), asked };
  }

  /** A part of a picture at full size. */
  private region(plan: Plan, rect: Rect): Seen {
    const n = rect.width * rect.height;
    const use = ({ planes }: Raster): Seen => {
      // Told before they are copied out of the kernels' memory.
      const misses = missesAny(planes, n);
      const copies = planes.map((plane) => plane.slice(0, n));
      return seenOf(rect.width, rect.height, copies, misses);
    };
    return withEvaluated(plan, 0, rect, null, use, alone(this.goOn, this.settledFor(plan)));
  }

  private *seen(plan: Plan): Solving<Seen> {
    const settled = this.settledFor(plan);
    this.analysed = yield* analysed(plan, alone(this.goOn, settled), this.analysed);
    const { width, height, planes } = this.analysed.raster;
    return seenOf(width, height, planes);
  }
}

/** What an op is given of the place where its step stands. */
export function givenTo(step: SourceStep, before: Plan): Given {
  const { model: id, channels } = actsOn(step);
  const model = modelOf(id);
  return {
    model,
    channels: model.channels.filter((c) => channels.includes(c.letter)),
    encoding: encodingAt(before),
    tableOf: (table) => {
      const found = step.beside?.tables[table];
      if (!found) throw new DocumentError(`The table “${table}” of the step “${titleOf(step)}” is not open.`);
      return found;
    }
  };
}

/** Means of RGB under the pins, at full size; pins beside the picture are left out. */
export function readPins(plan: Plan, pins: readonly Pin[]): PinReading[] {
  return pins.flatMap(({ id, name, role, size, x, y }) => {
    const rgb = meanAround(plan, { x: x + 0.5, y: y + 0.5 }, size);
    return rgb ? [{ id, name, role, size, rgb }] : [];
  });
}
