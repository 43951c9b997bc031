import { LRUCache } from 'lru-cache';
import { modelOf } from '../colour';
import { multiply } from '../colour/xyz';
import {
  actsOn,
  DocumentError,
  pinKey,
  pinsRead,
  referenceKey,
  stepKey,
  type Mask,
  type Pin,
  type PictureSource,
  type Reference,
  type SourcePicture,
  type SourceStep,
  type Step
} from '../document';
import { headShape, readHead, type SourceHead } from '../heads';
import { prepareMask, type PreparedMask } from '../mask/prepare';
import { opOf, type Given, type PinReading } from '../ops';
import type { Frame } from '../raster/frame';
import { isPlain, translation, type Geometry } from '../raster/geometry';
import { analysed, analysisPlanes, meanAround, type Analysed } from './analysis';
import {
  encodingAt,
  pictureGeometry,
  type Head,
  type Plan,
  type PreparedStep,
  type PreparedTaken
} from './plan';

/** Most pictures beside one another that are refused as no end. */
const DEEPEST = 64;
const MOST_HEADS = 24;
/** A path has a plan for each of its places that is looked at. */
const MOST_PLANS = 64;
const MOST_STEPS = 192;

/** What is kept under a key, or made and kept. */
function kept<T extends object>(cache: LRUCache<string, T>, key: string, make: () => T): T {
  const known = cache.get(key);
  if (known !== undefined) return known;
  const value = make();
  cache.set(key, value);
  return value;
}

/** Whether a step, or one inside it, asks the picture that comes into it for something before it can act on it. */
function asksPicture({ op: id, params }: Step): boolean {
  const op = opOf(id);
  const pins = op.readsPins?.(params) ?? [];
  return (op.whole?.(params) ?? false) || pins.length > 0 || (op.inside?.(params) ?? []).some(asksPicture);
}

const placeKey = ({ toFrame, width, height }: Geometry): string => JSON.stringify([toFrame, width, height]);

/**
 * Makes plans, and keeps what was made ready for them: heads, and steps with what they have solved from the picture.
 */
export class Planner {
  private readonly heads = new LRUCache<string, Head>({ max: MOST_HEADS });
  private readonly steps = new LRUCache<string, PreparedStep>({ max: MOST_STEPS });
  private readonly plans = new LRUCache<string, Plan>({ max: MOST_PLANS });
  /** The analysis raster of the last step that was solved on the way: that of the next is computed from it. */
  private analysed: Analysed | null = null;

  /**
   * @param frameOf the frame of a content hash @throws what it throws where there is none
   * @param goOn called again and again while a step is solved; what it throws ends that
   */
  constructor(
    private readonly frameOf: (hash: string) => Frame,
    private readonly goOn: () => void = () => undefined
  ) {}

  /**
   * @param picture steps that are off are left out; pins are its own and those that belong to all
   * @param lying how the picture lies on its head where that is not what its own steps make of it
   * @throws DocumentError where a picture that a step or the head takes from is of another size or encoding
   */
  plan({ head: source, steps, pins }: PictureSource, lying: Geometry | null = null, depth = 0): Plan {
    if (depth > DEEPEST) throw new DocumentError('Pictures refer to each other without end.');
    const active = steps.filter((step) => step.enabled);
    const keyAfter = (count: number): string => {
      const first = active.slice(0, count);
      return [source.key, lying ? placeKey(lying) : '', pinKey(first, pins), ...first.map(stepKey)].join('|');
    };
    return kept(this.plans, keyAfter(active.length), () => {
      const head = kept(this.heads, source.key, () => this.head(source, depth));
      const geometry = lying ?? pictureGeometry(head, active);
      const plain = isPlain(geometry);
      const plan: Plan = {
        ...{ head, geometry, plain, keyAfter, steps: [] },
        beyond: lying ? Number.NaN : 0,
        mayMiss: head.mayMiss || (lying !== null && !plain)
      };
      const outer = this.analysed;
      this.analysed = null;
      try {
        return { ...plan, steps: this.prepared(active, plan, { source, pins, depth, upstream: [] }) };
      } finally {
        this.analysed = outer;
      }
    });
  }

  private head(source: SourceHead, depth: number): Head {
    const beside = source.pictures.map((picture) => this.plan(picture, null, depth + 1));
    const shapes = beside.map((plan, i) => ({
      ...plan.head,
      ...{ width: plan.geometry.width, height: plan.geometry.height, mayMiss: plan.mayMiss },
      encoding: encodingAt(plan),
      name: source.pictures[i].name
    }));
    return {
      ...headShape(source, this.frameOf, shapes),
      ...{ key: source.key, beside },
      read: (level, out, pictures) => readHead(source, this.frameOf, pictures, level, out)
    };
  }

  /** Makes steps ready that follow each other behind those of `before`. */
  private prepared(steps: readonly SourceStep[], before: Plan, along: Along): PreparedStep[] {
    const done: PreparedStep[] = [];
    steps.forEach((step, i) => {
      const upstream = [...along.upstream, ...steps.slice(0, i)];
      const asked = asksPicture(step) ? upstream : [];
      const plan = { ...before, steps: [...before.steps, ...done] };
      const known = [
        ...[along.source.key, encodingAt(plan), stepKey(step), placeKey(before.geometry)],
        pinKey([...asked, step], along.pins),
        ...asked.map(stepKey)
      ].join('|');
      done.push(kept(this.steps, known, () => this.prepare(step, plan, { ...along, upstream })));
    });
    return done;
  }

  private prepare(step: SourceStep, before: Plan, along: Along): PreparedStep {
    const op = opOf(step.op);
    const { model, channels } = actsOn(step);
    const on = modelOf(model);
    const encoding = encodingAt(before);
    const listed = on.channels.map((c) => channels.includes(c.letter));
    const given: Given = {
      ...{ model: on, encoding },
      channels: on.channels.filter((_, c) => listed[c]),
      analysis: () => analysisPlanes((this.analysed = analysed(before, this.goOn, this.analysed))),
      pins: () => readPins(before, pinsRead([step], along.pins))
    };
    const within = (op.inside?.(step.params) ?? []).filter(({ enabled }) => enabled);
    const inside = this.prepared(within, before, along);
    const idle = op.kind === 'path' ? inside.length === 0 : (op.idle?.(step.params) ?? false);
    const coefficients: unknown = op.prepare(step.params, given);
    const beside = new BesideStep(step, before, (picture, lying) =>
      this.plan(picture, lying, along.depth + 1)
    );
    const where = step.where && beside.mask(step.where);
    const taken = (op.takes?.(step.params) ?? []).map((what): PreparedTaken =>
      'mask' in what ? { mask: beside.mask(what.mask) } : { picture: beside.taken(what.picture, what.shift) }
    );
    const masks = [...(where ? [where] : []), ...taken.flatMap((t) => (t.mask ? [t.mask] : []))];
    const own = (scale: number): number =>
      inside.reduce((sum, s) => sum + s.reach(scale), idle ? 0 : (op.reach?.(step.params, scale) ?? 0));
    return {
      ...{ op, coefficients, idle, on, listed, where, taken, encoding, inside },
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

/** Finds what one step refers to: the pictures beside it, laid on its own, and named masks. */
class BesideStep {
  readonly plans: Plan[] = [];
  private readonly places = new Map<string, number>();
  private readonly masks = new Map<string, PreparedMask>();

  constructor(
    private readonly step: SourceStep,
    private readonly before: Plan,
    private readonly plan: (picture: SourcePicture, lying: Geometry) => Plan
  ) {}

  mask(mask: Mask, within: readonly string[] = []): PreparedMask {
    return prepareMask(mask, {
      geometry: this.before.geometry,
      picture: (reference) => this.picture(reference),
      mask: (id) => {
        const found = this.step.beside?.masks[id];
        if (!found || within.includes(id))
          throw new DocumentError(`There is no mask “${id}” to be had here.`);
        const known = this.masks.get(id) ?? this.mask(found, [...within, id]);
        this.masks.set(id, known);
        return known;
      }
    });
  }

  /** The same for one whose values join those of the step. @throws DocumentError where they are of another encoding */
  taken(reference: Reference, shift?: readonly [number, number]): number {
    const place = this.picture(reference, shift);
    const [own, other] = [encodingAt(this.before), encodingAt(this.plans[place])];
    if (own === other) return place;
    const { name } = this.step.beside!.pictures[referenceKey(reference)];
    throw new DocumentError(
      `The picture “${name}” is ${other} and this one ${own}: a step takes only from pictures that are coded as its own is.`
    );
  }

  /** The place of a picture among those beside the step. */
  picture(reference: Reference, shift?: readonly [number, number]): number {
    const key = `${referenceKey(reference)} ${shift?.join() ?? ''}`;
    const known = this.places.get(key);
    if (known !== undefined) return known;
    const picture = this.step.beside?.pictures[referenceKey(reference)];
    if (!picture) throw new DocumentError(`There is no picture “${reference.picture}” to be had here.`);
    const { geometry } = this.before;
    const lying =
      shift && (shift[0] !== 0 || shift[1] !== 0)
        ? { ...geometry, toFrame: multiply(translation(...shift), geometry.toFrame) }
        : geometry;
    const plan = this.plan(picture, lying);
    const { width, height } = plan.head;
    const own = this.before.head;
    if (width !== own.width || height !== own.height) {
      throw new DocumentError(
        `The picture “${picture.name}” is ${width} × ${height} pixels and this one ${own.width} × ${own.height}: a step takes only from pictures of its own size.`
      );
    }
    this.places.set(key, this.plans.length);
    this.plans.push(plan);
    return this.plans.length - 1;
  }
}

/** Means of RGB under the pins, at full size; pins beside the picture are left out. */
export function readPins(plan: Plan, pins: readonly Pin[]): PinReading[] {
  return pins.flatMap(({ id, name, role, size, x, y }) => {
    const rgb = meanAround(plan, { x: x + 0.5, y: y + 0.5 }, size);
    return rgb ? [{ id, name, role, size, rgb }] : [];
  });
}
