import { multiply } from '../colour/xyz';
import {
  DocumentError,
  referenceKey,
  type Mask,
  type Reference,
  type SourcePicture,
  type SourceStep
} from '../document';
import type { Stretch, Stretches } from '../mask/ground';
import { prepareMask, type PreparedMask } from '../mask/prepare';
import { translation, type Geometry } from '../raster/geometry';
import { encodingAt, type Plan } from './plan';

/** The automatic stretch of another picture, or of what comes into the step. @throws Unsolved */
type Stretching = (picture: SourcePicture | null, plan: Plan) => Stretch;

/** What an op has found of another picture, or of what comes into the step. @throws Unsolved */
type SolvingFor = (
  by: { readonly op: string; readonly params: object },
  picture: SourcePicture | null,
  plan: Plan
) => unknown;

/** Finds what one step refers to: the pictures beside it, laid on its own, and named masks. */
export class BesideStep {
  readonly plans: Plan[] = [];
  private readonly places = new Map<string, number>();
  private readonly masks = new Map<string, PreparedMask>();
  private readonly stretches: Stretches = { own: null, beside: new Map() };

  constructor(
    private readonly step: SourceStep,
    private readonly before: Plan,
    private readonly plan: (picture: SourcePicture, common: Geometry) => Plan,
    private readonly stretching: Stretching | null = null,
    private readonly solving: SolvingFor | null = null
  ) {}

  mask(mask: Mask, within: readonly string[] = []): PreparedMask {
    return prepareMask(mask, {
      geometry: this.before.geometry,
      picture: (reference) => this.picture(reference),
      stretches: (of) => this.stretchesFor(of),
      solved: (by, of) => this.solvedFor(by, of),
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

  /** @throws Unsolved */
  private stretchesFor(of: Reference | null): Stretches {
    const { own, beside } = this.stretches;
    if (!this.stretching) throw new RangeError('Nothing is masked while a step is solved.');
    if (of === null) {
      if (!own && encodingAt(this.before) === 'linear')
        this.stretches.own = this.stretching(null, this.before);
      return this.stretches;
    }
    const place = this.picture(of);
    const plan = this.plans[place];
    if (!beside.has(place) && encodingAt(plan) === 'linear')
      beside.set(place, this.stretching(this.step.beside!.pictures[referenceKey(of)], plan));
    return this.stretches;
  }

  /** @throws Unsolved */
  private solvedFor(by: { readonly op: string; readonly params: object }, of: Reference | null): unknown {
    if (!this.solving) throw new RangeError('Nothing is masked while a step is solved.');
    if (of === null) return this.solving(by, null, this.before);
    const plan = this.plans[this.picture(of)];
    return this.solving(by, this.step.beside!.pictures[referenceKey(of)], plan);
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
    const { common } = this.before;
    const shifted =
      shift && (shift[0] !== 0 || shift[1] !== 0)
        ? { ...common, toFrame: multiply(translation(...shift), common.toFrame) }
        : common;
    const plan = this.plan(picture, shifted);
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
